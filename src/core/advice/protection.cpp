// SPDX-License-Identifier: GPL-3.0-or-later
// Rules about what keeps the cells whole.
#include "advice/rules.hpp"

#include "advice/fixes.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "project/library.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper::rules {
namespace {

bool stops(const Stage& stage, double floor) {
    if (std::holds_alternative<Guard>(stage.part))
        return true;
    return inputMinOf(stage.part) >= floor * 0.999;
}

std::optional<Fix> guardFix(const Project& p, const Stage& packStage, const Pack& pack) {
    const std::string id = freeId(p, "guard");
    auto part = shippedPart("guard-small", id, packStage.id);
    if (!part)
        return std::nullopt;
    Stage guard = std::move(part).value();
    const double cutoff = pack.series * policyCutoff(pack.cell.chemistry, CellCare::balanced);
    auto& thresholds = std::get<Guard>(guard.part);
    thresholds.cutoff = Volts{cutoff};
    thresholds.reconnect = Volts{
        std::round(pack.series * usualReconnect(pack.cell.chemistry, cutoff / pack.series) * 100) /
        100};
    const std::string volts = writeExact(cutoff, Unit::volt);
    return insertFix(guard, packStage.id, "Add a guard at " + volts, "add a guard at " + volts);
}

} // namespace

void noGuard(const RuleInput& s, std::vector<Finding>& out) {
    const Stage* stage = s.project.packStage();
    if (!stage)
        return;
    const Pack& pack = *s.project.pack();
    const Chemistry chemistry = pack.cell.chemistry;
    const bool nickel = isNickel(chemistry);
    const bool harmed = isRechargeableLithium(chemistry) || chemistry == Chemistry::leadAcid ||
                        (nickel && pack.series >= 2);
    if (!harmed || !canRecharge(pack.cell) || pack.cell.protectedCell.value_or(false))
        return;
    const double floor = pack.series * floorVolts(chemistry);
    std::vector<std::string> unwatched;
    for (const Load& load : s.project.loads) {
        const auto way = pathToSource(s.project, load.id);
        if (std::find(way.begin(), way.end(), stage) == way.end())
            continue;
        if (std::none_of(way.begin(), way.end(), [&](const Stage* w) { return stops(*w, floor); }))
            unwatched.push_back(nameOf(load));
    }
    if (unwatched.empty())
        return;
    Finding f;
    f.rule = "no_guard";
    f.severity = nickel ? Severity::care : Severity::stop;
    f.subject = stage->id;
    f.title = "Nothing stops over-discharge";
    f.says =
        fmt::format("The cells are {}{} and {} can drain them under {} a cell, which {}.",
                    isRechargeableLithium(chemistry) ? "bare " : "", chemistryText(chemistry),
                    unwatched.front(), volts(floorVolts(chemistry)),
                    nickel                             ? "reverses the weakest of them"
                    : chemistry == Chemistry::leadAcid ? "costs them lasting capacity"
                                                       : "ruins them and makes recharging unsafe");
    f.numbers = {{"floor_v", floor}};
    f.fix = guardFix(s.project, *stage, pack);
    out.push_back(std::move(f));
}

} // namespace sipper::rules
