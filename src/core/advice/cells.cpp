// SPDX-License-Identifier: GPL-3.0-or-later
// Rules about the choice of cells.
#include "advice/fixes.hpp"
#include "advice/rules.hpp"
#include "parts/cellsize.hpp"
#include "parts/figures.hpp"
#include "protect/currents.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace sipper::rules {
namespace {

constexpr double kUsualDensity = 450; ///< Wh in a litre of lithium cell (rule of thumb)
constexpr double kFlatFaces = 7;
constexpr double kSag = 0.15; ///< of the open-circuit voltage: a cell that is asked too much
constexpr double kAlkalineRate = 0.1; ///< of its capacity per hour, from which little of it comes
constexpr double kCookKelvin = 100;   ///< over the air: no cell bears that
constexpr double kFarOver = 1.5;      ///< of what heat allows: a claim that is no mere optimism
constexpr double kAirCooling = 20;    ///< W per m2 and kelvin, still air and radiation
constexpr double kLowCharge = 0.2;    ///< where sag is looked at

} // namespace

void unlikeCells(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.project.pack())
        return;
    const Pack& pack = *s.project.pack();
    if (pack.origin != Origin::salvaged || pack.series < 2 || pack.weakestGroup)
        return;
    out.push_back(finding(
        "unlike_cells", Severity::care, s.project.packStage()->id, "The groups may be unlike",
        fmt::format("{:.0f} groups of salvaged cells in series: the weakest ends the run and is "
                    "driven under zero by the others. Measure each cell, match the groups, and "
                    "give the weakest group's charge here.",
                    pack.series),
        {{"groups", pack.series}}));
}

void noCellMonitor(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.project.pack())
        return;
    const Pack& pack = *s.project.pack();
    if (pack.series < 2 || !isRechargeableLithium(pack.cell.chemistry) ||
        pack.cellMonitor.value_or(false))
        return;
    for (const Stage& stage : s.project.stages) {
        const auto* charger = std::get_if<Charger>(&stage.part);
        if (!charger || charger->charges != s.project.packStage()->id)
            continue;
        Finding f = finding(
            "no_cell_monitor", Severity::stop, s.project.packStage()->id,
            "Nobody watches the single cells",
            fmt::format("{} charges {:.0f} cells in series by their sum: one of them can pass its "
                        "limit while the sum is right, and burn. It takes a monitor for each cell.",
                        nameOf(stage), pack.series),
            {{"cells", pack.series}});
        f.fix = figureFix(*s.project.packStage(), &Pack::cellMonitor, true, "Add a cell monitor",
                          "add a cell monitor");
        out.push_back(std::move(f));
        return;
    }
}

void implausibleCapacity(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.project.pack())
        return;
    const Cell& cell = s.project.pack()->cell;
    const auto most = mostCapacity(cell);
    if (!most || cell.capacity.value() <= *most)
        return;
    out.push_back(finding(
        "implausible_capacity", Severity::care, s.project.packStage()->id,
        "More than a " + cell.size + " can hold",
        fmt::format("The cell claims {}; by its size and chemistry {} is the most there has been. "
                    "Measure it, and reckon with that until then.",
                    writeQuantity(cell.capacity.value(), Unit::ampereHour),
                    writeQuantity(*most, Unit::ampereHour)),
        {{"claimed_ah", cell.capacity.value()}, {"most_ah", *most}}));
}

namespace {

/// m2 of a flat cell that holds so much, where its size is not told: by a rule of thumb for what
/// fits into a litre, and seven faces of its cube, as pouches are.
double areaByCharge(const Cell& cell) {
    const double litres = cell.capacity.value() * nominalOf(cell) / kUsualDensity;
    return kFlatFaces * std::pow(litres * 1e-3, 2.0 / 3);
}

} // namespace

void implausibleRate(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.project.pack())
        return;
    const Pack& pack = *s.project.pack();
    const Cell& cell = pack.cell;
    const auto size = cellDimensions(cell.size);
    const double ohms = pack.measuredResistance ? pack.measuredResistance->value()
                        : cell.resistance       ? cell.resistance->value()
                                                : 0;
    const double area = size ? size->area : areaByCharge(cell);
    if (area <= 0 || !cell.maxDischarge || ohms <= 0)
        return;
    const double watts = kCookKelvin * kAirCooling * area;
    const double bears = std::sqrt(watts / ohms);
    if (cell.maxDischarge->value() <= bears)
        return;
    // A claim that nobody makes use of is only worth knowing.
    const double drawn =
        currentDemandOf(s.project, packIndex(s.project), {s.sweep, s.externalLoads, s.charges})
            .continuous /
        pack.parallel;
    out.push_back(finding(
        "implausible_rate",
        drawn > bears || cell.maxDischarge->value() > kFarOver * bears ? Severity::care
                                                                       : Severity::note,
        s.project.packStage()->id, "That rate would cook the cell",
        fmt::format("At the {} it claims, its own {} burn {} inside a {}. By heat {} is the most "
                    "for more than moments; {} are drawn here.",
                    amps(cell.maxDischarge->value()), writeQuantity(ohms, Unit::ohm),
                    writeQuantity(ohms * std::pow(cell.maxDischarge->value(), 2), Unit::watt),
                    cell.size.empty() ? std::string("cell") : cell.size, amps(bears),
                    drawn > 0 ? amps(drawn) : "none"),
        {{"claimed_a", cell.maxDischarge->value()},
         {"heat_limited_a", bears},
         {"drawn_a", drawn}}));
}

void fits(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.project.pack())
        return;
    const Pack& pack = *s.project.pack();
    if (!pack.holder || *pack.holder == Holder::none)
        return;
    const bool isProtected = pack.cell.protectedCell.value_or(false);
    const std::string& id = s.project.packStage()->id;
    if (isProtected && *pack.holder == Holder::bare)
        out.push_back(
            finding("fits", Severity::care, id, "The cells are too long for the holder",
                    "A protected cell is a few millimetres longer than a bare one, and the "
                    "holder is for bare cells: it bends, or the board is crushed. A "
                    "longer holder, or bare cells with a guard."));
    if (!isProtected && *pack.holder == Holder::protectedCell && pack.cell.top == CellTop::flat)
        out.push_back(finding("fits", Severity::care, id, "The cells may not touch",
                              "Flat tops of bare length in a holder for protected cells: the "
                              "contact may not reach. Button tops, or a shorter holder."));
}

void wrongCellForDrain(const RuleInput& s, std::vector<Finding>& out) {
    if (!s.sweep || !s.project.pack() || !s.sweep->maxPack.valid)
        return;
    const Pack& pack = *s.project.pack();
    const PackModel model(pack, s.project.brief.air().usual());
    const double worst = s.sweep->maxPack.value / pack.parallel;
    const double open = model.openCircuitAt(kLowCharge);
    const double sag = worst * model.resistanceAt(kLowCharge);
    const double mean =
        s.runtime.hours && s.runtime.hours->value() > 0 && open > 0
            ? s.runtime.meanPower.value() / pack.series / pack.parallel / model.openCircuitAt(0.5)
            : 0;
    const Chemistry c = pack.cell.chemistry;
    const bool alkaline = c == Chemistry::alkaline || c == Chemistry::zincCarbon;
    const bool drained = alkaline && mean > kAlkalineRate * model.usable;
    if (sag <= kSag * open && !drained)
        return;
    const bool coin = wantsCapacitor(pack) && s.sweep->maxPack.inBurst;
    const char* way = coin ? "A capacitor at the load carries the bursts."
                      : alkaline
                          ? "Nickel-metal hydride or iron disulphide of the same size gives more."
                          : "A power kind of lower resistance, or more in parallel.";
    Finding f = finding(
        "wrong_cell_for_drain", Severity::care, s.project.packStage()->id,
        "The wrong kind of cell for this drain",
        drained && sag <= kSag * open
            ? fmt::format("{} a cell on average empties it in under ten hours, at which alkaline "
                          "gives a part of its label only. Nickel-metal hydride of the same size "
                          "gives nearly all.",
                          amps(mean))
            : fmt::format("At {} of the charge {} a cell {} drop {} inside it, {} of what it has. "
                          "{}",
                          writeShare(kLowCharge), amps(worst),
                          momentText(s.project, s.sweep->maxPack), volts(sag),
                          writeShare(sag / open), way),
        {{"cell_a", worst}, {"sag_v", sag}, {"sag_share", sag / open}, {"mean_a", mean}});
    const Load* bursts = coin ? burstingLoad(s.project) : nullptr;
    if (s.seekFixes && bursts) {
        double farad = 0;
        f.fix = capacitorFix(
            s.project, bursts->id,
            [&](const Project& with) {
                return isSilentOn(s, with, wrongCellForDrain, s.project.packStage()->id);
            },
            farad);
        if (f.fix)
            f.numbers["farad"] = farad;
    } else if (s.seekFixes && alkaline) {
        f.fix = otherCellFix(s, wrongCellForDrain);
    }
    out.push_back(std::move(f));
}

void cold(const RuleInput& s, std::vector<Finding>& out) {
    const Ambient air = s.project.brief.air();
    if (!s.project.pack() || !s.runtime.hours || !air.low || air.coldest() >= air.usual())
        return;
    Conditions conditions = typicalConditions(s.project);
    conditions.ambient = air.coldest();
    StepControl quick;
    quick.record = false;
    const Runtime low = predictRuntime(s.project, conditions, quick);
    if (!low.hours)
        return;
    const double typical = s.runtime.hours->value();
    const double hours = low.hours->value();
    const auto target = s.project.brief.targetRuntime;
    const bool misses = target && typical >= target->value() && hours < target->value();
    const bool fails = hours < 0.5 * typical;
    if (typical <= 0 || (!misses && !fails))
        return;
    Finding f = finding(
        "cold", Severity::care, s.project.packStage()->id, "The cold breaks it",
        fmt::format("At {} it runs {} in place of {}: the cells give less and sag more.{}",
                    writeQuantity(air.coldest().value(), Unit::celsius), writeHours(hours),
                    writeHours(typical),
                    misses ? fmt::format(" You ask for {}.", writeHours(target->value())) : ""),
        {{"cold_h", hours}, {"typical_h", typical}});
    Stage more = *s.project.packStage();
    auto& pack = std::get<Pack>(more.part);
    countCells(pack, pack.series, pack.parallel + 1);
    f.fix = replaceFix(more, "One more in parallel", "add a cell in parallel");
    f.fix->forHours = true;
    out.push_back(std::move(f));
}

} // namespace sipper::rules
