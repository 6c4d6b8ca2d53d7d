// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.hpp"

#include "line/operating.hpp"
#include "line/sources.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"
#include "quantity/read.hpp"
#include "quantity/write.hpp"
#include "solar/operating.hpp"

#include <fmt/format.h>

namespace sipper::cli {
namespace {

constexpr double kBrightest = 1500; ///< W/m2

Json operateJson(const Project& p, const OperatingPoint& point) {
    Json out{{"stages", Json::object()}, {"loads", Json::object()}};
    if (point.collapse) {
        out["collapse"] = true;
        return out;
    }
    for (std::size_t i = 0; i < p.stages.size(); ++i) {
        const StageFlow& f = point.flows.stages[i];
        out["stages"][p.stages[i].id] = {{"v_in", f.vIn},
                                         {"i_in", f.iIn},
                                         {"v_out", f.vOut},
                                         {"i_out", f.iOut},
                                         {"loss_w", f.loss()},
                                         {"part_c", point.partC[i]},
                                         {"state", stateName(f.state)}};
    }
    for (std::size_t i = 0; i < p.loads.size(); ++i)
        out["loads"][p.loads[i].id] = {{"v", point.flows.loads[i].v},
                                       {"i", point.flows.loads[i].i},
                                       {"inside", static_cast<bool>(point.inside[i])}};
    return out;
}

std::string operateText(const Project& p, const OperatingPoint& point) {
    if (point.collapse)
        return "the supply collapses: the cells can't give what is asked for\n";
    std::string out = fmt::format("{:<20}{:>10}{:>10}{:>10}{:>10}{:>10}{:>8}  {}\n", "stage",
                                  "V in", "I in", "V out", "I out", "loss", "part", "state");
    for (std::size_t i = 0; i < p.stages.size(); ++i) {
        const StageFlow& f = point.flows.stages[i];
        out += fmt::format("{:<20}{:>10}{:>10}{:>10}{:>10}{:>10}{:>5.0f} °C  {}\n",
                           nameOf(p.stages[i]), writeQuantity(f.vIn, Unit::volt),
                           writeQuantity(f.iIn, Unit::ampere), writeQuantity(f.vOut, Unit::volt),
                           writeQuantity(f.iOut, Unit::ampere), writeQuantity(f.loss(), Unit::watt),
                           point.partC[i], stateName(f.state));
    }
    for (std::size_t i = 0; i < p.loads.size(); ++i)
        out += fmt::format("{:<20}{:>10}{:>10}  {}\n", nameOf(p.loads[i]),
                           writeQuantity(point.flows.loads[i].v, Unit::volt),
                           writeQuantity(point.flows.loads[i].i, Unit::ampere),
                           point.inside[i] ? "inside its window" : "outside its window");
    return out;
}

/// What is asked to be there besides the cells; without any, the other sources are all there is.
std::optional<Error> plug(const Project& p, const Asked& asked, Conditions& conditions) {
    conditions.pluggedIn = asked.with;
    for (const std::string& id : asked.with) {
        const Stage* stage = p.stage(id);
        if (!stage || !isSource(stage->part) || isPack(stage->part))
            return badOption("--with", id,
                             "the id of an adapter, a socket or another source besides the pack");
    }
    if (!p.pack() && asked.with.empty())
        for (const std::size_t i : externalSources(p))
            conditions.pluggedIn.push_back(p.stages[i].id);
    if (!p.pack() && conditions.pluggedIn.empty())
        return Error{"no_source", "/stages", "no source", "one to operate from", asked.file};
    return std::nullopt;
}

Outcome<Answer> answerOperate(const Asked& asked) {
    const auto project = askedProject(asked);
    if (!project)
        return project.error();
    const Project& p = project.value();
    const auto charge = askedShare("--charge", asked.charge);
    if (!charge)
        return charge.error();
    const auto mode = askedMode(p, asked);
    if (!mode)
        return mode.error();
    Conditions conditions = typicalConditions(p);
    if (auto trouble = plug(p, asked, conditions))
        return *trouble;
    if (!asked.light.empty()) {
        const auto light = readQuantity(asked.light, Unit::none);
        if (!light || light.value() < 0 || light.value() > kBrightest)
            return badOption("--light", asked.light,
                             fmt::format("W/m2 on the panels, 0 to {:g}", kBrightest));
        conditions.irradiance = light.value();
    }
    const OperatingPoint point = operateWithSun(p, conditions, charge.value(), mode.value());
    return Answer{operateJson(p, point), operateText(p, point)};
}

void optionsOperate(CLI::App& app, Asked& asked) {
    addFile(app, asked);
    addVariant(app, asked);
    app.add_option("--charge", asked.charge, "charge left, 0 to 1 or per cent (default 1)");
    app.add_option("--mode", asked.mode, "id of the mode (default: the base mode)");
    app.add_option("--light", asked.light, "W/m2 on the panels (default: night)");
    app.add_option("--with", asked.with, "ids of the sources plugged in besides the pack");
}

} // namespace

const Command kOperate{"operate", "every voltage and current at one moment", optionsOperate,
                       answerOperate};

} // namespace sipper::cli
