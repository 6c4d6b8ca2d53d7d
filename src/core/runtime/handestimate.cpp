// SPDX-License-Identifier: GPL-3.0-or-later
#include "runtime/handestimate.hpp"

#include "line/packmodel.hpp"
#include "quantity/write.hpp"

#include <fmt/format.h>
#include <numeric>

namespace sipper {
namespace {

/// Watt-hours of the ledger as hours of delivery, largest takers first.
std::vector<EnvelopeTerm> ledgerTerms(const Project& p, const Ledger& l, double watts) {
    std::vector<EnvelopeTerm> terms;
    const auto take = [&](const std::string& key, const std::string& words, double wattHours) {
        if (wattHours != 0)
            terms.push_back({key, words, wattHours / watts});
    };
    take("cold_and_age", "cold and age", l.coldAndAge);
    take("not_charged", "not charged full", l.notCharged);
    take("left_in_pack", "left in the cells at the end", l.leftInPack);
    take("pack_loss", "sag in the cells", l.packLoss);
    take("self_discharge", "self-discharge", l.selfDischarge);
    for (const auto& [id, wattHours] : l.stages)
        if (const Stage* stage = p.stage(id))
            take(id, nameOf(*stage), wattHours);
    return terms;
}

} // namespace

std::vector<HandEstimate> handEstimates(const Project& p, const Runtime& r, const Budget& budget) {
    std::vector<HandEstimate> list;
    if (!p.pack() || !r.hours || r.hours->value() <= 0 || r.curve.empty())
        return list;
    const double hours = r.hours->value();
    const Pack& pack = *p.pack();
    const PackModel model(pack, p.brief.air().usual());
    const double rated = pack.parallel * pack.cell.capacity.value();
    const auto amps = [](double a) { return writeQuantity(a, Unit::ampere); };
    const auto ah = [](double q) { return writeQuantity(q, Unit::ampereHour); };

    if (budget.meanAmps > 0) {
        HandEstimate e;
        e.rule = "capacity_over_current";
        e.hours = rated / budget.meanAmps;
        e.formula = fmt::format("{} / {}", ah(rated), amps(budget.meanAmps));
        const double usable = model.usable * pack.parallel;
        const double left = r.curve.back().charge * usable;
        const double missing = (1 - pack.charge.value_or(1.0)) * usable;
        const double self = model.selfAmps * pack.parallel * hours;
        const auto take = [&](const char* key, const char* words, double chargeAh) {
            if (chargeAh != 0)
                e.terms.push_back({key, words, chargeAh / budget.meanAmps});
        };
        take("cold_and_age", "cold and age", rated - usable);
        take("not_charged", "not charged full", missing);
        take("left_in_pack", "left in the cells at the end", left);
        take("self_discharge", "self-discharge", self);
        const double sum =
            std::accumulate(e.terms.begin(), e.terms.end(), 0.0,
                            [](double s, const EnvelopeTerm& t) { return s + t.hours; });
        // What is drawn over the run is not what a day at half charge draws.
        e.terms.push_back({"uneven_draw", "the draw over this run against a day at half charge",
                           e.hours - sum - hours});
        list.push_back(std::move(e));
    }
    double delivered = 0;
    for (const auto& [id, wattHours] : r.ledger.loads)
        delivered += wattHours;
    const double watts = delivered / hours;
    if (watts <= 0)
        return list;
    HandEstimate energy;
    energy.rule = "energy_over_power";
    energy.hours = r.ledger.nameplate / watts;
    energy.formula = fmt::format("{} / {}", writeQuantity(r.ledger.nameplate, Unit::wattHour),
                                 writeQuantity(watts, Unit::watt));
    energy.terms = ledgerTerms(p, r.ledger, watts);
    HandEstimate moved = energy;
    list.push_back(std::move(energy));
    moved.rule = "moved_capacity";
    moved.formula = fmt::format("{} × {:g} / {}", writeQuantity(r.ledger.nameplate, Unit::wattHour),
                                kFlatEfficiency, writeQuantity(watts, Unit::watt));
    moved.terms.push_back({"flat_efficiency", "what the flat 0.9 allows for all of it",
                           -moved.hours * (1 - kFlatEfficiency)});
    moved.hours *= kFlatEfficiency;
    list.push_back(std::move(moved));
    return list;
}

} // namespace sipper
