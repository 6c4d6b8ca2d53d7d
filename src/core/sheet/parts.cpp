// SPDX-License-Identifier: GPL-3.0-or-later
// The list to buy, and the plugs.
#include "sheet/sheet.hpp"

#include "line/wiring.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/roles.hpp"
#include "protect/dividers.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <cctype>
#include <fmt/format.h>

namespace sipper {
namespace {

void join(std::string& out, const std::string& more) {
    if (!more.empty())
        out += (out.empty() ? "" : ", ") + more;
}

std::string packFigures(const Pack& pack) {
    std::string out = writeExact(pack.cell.capacity.value(), Unit::ampereHour);
    join(out, pack.cell.size);
    join(out, fmt::format("{:.0f} in series", pack.series));
    if (pack.parallel > 1)
        out += fmt::format(" × {:.0f} in parallel", pack.parallel);
    if (pack.cell.protectedCell.value_or(false))
        join(out, "with their own protection");
    if (pack.series > 1 && pack.cellMonitor.value_or(false))
        join(out, "with a board that watches each cell");
    if (pack.holder == Holder::bare || pack.holder == Holder::protectedCell)
        join(out,
             pack.holder == Holder::bare ? "holder for bare cells" : "holder for protected cells");
    if (pack.origin == Origin::salvaged)
        join(out, "salvaged");
    return out;
}

/// The figures to look for on the label.
std::string figuresOf(const Stage& stage) {
    const Part& part = stage.part;
    if (const auto* pack = std::get_if<Pack>(&part))
        return packFigures(*pack);
    std::string out;
    if (const auto* wire = std::get_if<Wire>(&part))
        return fmt::format("{}, two conductors", leadSizeText(*wire));
    if (const auto* fuse = std::get_if<Fuse>(&part)) {
        out = writeExact(fuse->rating.value(), Unit::ampere);
        join(out, fuse->speed == FuseSpeed::fast ? "quick" : "slow");
        if (fuse->ratedVoltage)
            join(out, writeExact(fuse->ratedVoltage->value(), Unit::volt) + " DC");
        join(out, "with its holder");
        return out;
    }
    if (const auto* store = std::get_if<Capacitor>(&part)) {
        out = writeExact(store->farad.value(), Unit::farad);
        if (store->ratedVoltage)
            join(out, writeExact(store->ratedVoltage->value(), Unit::volt));
        return out;
    }
    if (const auto volts = labelVolts(part))
        join(out, (isRegulator(part) || isCharger(part) ? "up to " : "") +
                      writeExact(*volts, Unit::volt) +
                      (isRegulator(part) || isCharger(part) ? " in" : ""));
    if (const auto amps = labelAmps(part))
        join(out, writeExact(*amps, Unit::ampere));
    if (const ActivePart* own = active(part); own && own->adjustable.value_or(false))
        join(out, "adjustable");
    return out;
}

void resistors(const Stage& stage, const std::set<std::string>& have,
               std::vector<SheetPart>& list) {
    const auto add = [&](const char* which, const std::optional<Ohms>& ohms) {
        if (!ohms)
            return;
        SheetPart part;
        part.id = stage.id;
        part.key = stage.id + "/" + which;
        part.name = "Resistor " + writeExact(ohms->value(), Unit::ohm);
        part.figures = fmt::format("1 %, {} of {}", which, nameOf(stage));
        part.have = have.contains(part.key);
        list.push_back(std::move(part));
    };
    const SetByDivider* by = active(stage.part);
    if (const auto* guard = std::get_if<Guard>(&stage.part))
        by = guard;
    if (by) {
        add("upper", by->upper);
        add("lower", by->lower);
        add("feedback", by->feedback);
    }
    if (const auto* watch = std::get_if<Watch>(&stage.part)) {
        add("upper", watch->upper);
        add("lower", watch->lower);
    }
    if (const auto* charger = std::get_if<Charger>(&stage.part))
        add("program", charger->programOhm);
}

bool barrelNamed(const std::string& kind) {
    std::string small = kind;
    std::transform(small.begin(), small.end(), small.begin(),
                   [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
    return small.find("barrel") != std::string::npos || small.find("5.5") != std::string::npos ||
           small.find("coax") != std::string::npos || small.find("hollow") != std::string::npos;
}

} // namespace

std::string leadSizeText(const Wire& wire) {
    return wire.awg ? fmt::format("{:g} AWG", *wire.awg)
                    : writeExact(areaOf(wire), Unit::squareMillimetre);
}

std::vector<SheetPart> partsFor(const Project& p) {
    const std::set<std::string> have = haveOf(p);
    std::vector<SheetPart> list;
    for (const Stage& stage : p.stages) {
        SheetPart part;
        part.id = part.key = stage.id;
        // What is bought bears the library's name; where it stands, its own.
        const std::string make = makeOf(stage);
        part.name = make.empty() ? nameOf(stage) : make;
        if (part.name != nameOf(stage))
            part.place = nameOf(stage);
        part.figures = figuresOf(stage);
        if (stage.mass)
            part.grams = stage.mass->value();
        part.price = stage.price;
        if (const auto* pack = std::get_if<Pack>(&stage.part)) {
            const double cells = pack->series * pack->parallel;
            part.count = piecesOf(*pack);
            if (pack->cell.mass)
                part.grams = part.grams.value_or(0) + cells * pack->cell.mass->value();
            if (pack->cell.price)
                part.price = part.price.value_or(0) + cells * *pack->cell.price;
        } else if (const auto* wire = std::get_if<Wire>(&stage.part)) {
            part.count = wire->length.value();
            part.metres = true;
        } else if (const auto* panel = std::get_if<Panel>(&stage.part)) {
            part.count = panel->countSeries.value_or(1) * panel->countParallel.value_or(1);
        }
        part.have = have.contains(part.key);
        list.push_back(std::move(part));
        resistors(stage, have, list);
    }
    // What is powered counts where its weight or price is known: the verdict has it too.
    for (const Load& load : p.loads) {
        if (!load.mass && !load.price)
            continue;
        SheetPart part;
        part.id = part.key = load.id;
        part.name = nameOf(load);
        part.figures = "what is powered";
        if (load.mass)
            part.grams = load.mass->value();
        part.price = load.price;
        part.have = have.contains(part.key);
        list.push_back(std::move(part));
    }
    return list;
}

std::vector<SheetPlug> plugsFor(const Project& p) {
    std::vector<SheetPlug> list;
    const auto add = [&](const std::string& id, const std::string& name,
                         const std::optional<Connector>& connector) {
        if (!connector)
            return;
        SheetPlug plug;
        plug.id = id;
        plug.shape =
            barrelNamed(connector->kind) ? SheetPlug::Shape::barrel : SheetPlug::Shape::twoPin;
        plug.name = connector->kind.empty() ? name : name + ": " + connector->kind;
        plug.centre = connector->centre.value_or(Polarity::unknown);
        list.push_back(std::move(plug));
    };
    for (const Stage& stage : p.stages) {
        add(stage.id, nameOf(stage), stage.connector);
        const auto* pack = std::get_if<Pack>(&stage.part);
        if (!pack || !pack->holder || *pack->holder == Holder::none)
            continue;
        SheetPlug holder;
        holder.id = stage.id;
        holder.shape = SheetPlug::Shape::holder;
        holder.name = "Holder of " + nameOf(stage);
        holder.cells = static_cast<int>(pack->series);
        list.push_back(std::move(holder));
    }
    for (const Load& load : p.loads)
        add(load.id, nameOf(load), load.connector);
    return list;
}

} // namespace sipper
