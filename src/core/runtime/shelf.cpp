// SPDX-License-Identifier: GPL-3.0-or-later
#include "runtime/shelf.hpp"

#include "parts/fields.hpp"
#include "parts/figures.hpp"

#include <algorithm>
#include <boost/math/tools/roots.hpp>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kGentleRate = 0.5;    ///< C, up to which a rate does not wear
constexpr double kGentleTop = 4.1;     ///< V of a 4.2 V cell, up to which the top does not wear
constexpr double kHalvesEvery = 0.1;   ///< V over that
constexpr double kDepthExponent = 1.3; ///< of the rule
constexpr double kLeftByDoubling = 2.0 / 3;
constexpr double kYearHours = 8766;
constexpr double kTopLithium = 4.0; ///< V: a chemistry that is full over this wears by its top

const Stage* firstGuard(const Project& p) {
    const Network network(p, p.brief.air().usual());
    for (const std::size_t i : network.order())
        if (std::holds_alternative<Guard>(p.stages[i].part))
            return &p.stages[i];
    return nullptr;
}

/// The pack's current with all switches open, and the guard too where it is named.
double idleAmps(const Project& p, const PackModel& model, double charge, const Stage* opened) {
    Network network(p, p.brief.air().usual());
    double leakage = 0;
    for (const std::size_t i : network.order()) {
        const auto* gap = std::get_if<Switch>(&p.stages[i].part);
        if (gap)
            leakage += orZero(gap->leakage);
        if (gap || &p.stages[i] == opened)
            network.setOpen(i, true);
    }
    return leakage + network.current(network.idle(), model.restVolts(charge), 0);
}

} // namespace

double chargeAtRest(const PackModel& model, double volts) {
    const auto over = [&](double charge) { return model.restVolts(charge) - volts; };
    if (over(0) >= 0)
        return 0;
    if (over(1) <= 0)
        return 1;
    std::uintmax_t rounds = 60;
    const auto found = boost::math::tools::toms748_solve(
        over, 0.0, 1.0, boost::math::tools::eps_tolerance<double>(30), rounds);
    return (found.first + found.second) / 2;
}

double switchedOffAmps(const Project& p) {
    return idleAmps(p, PackModel(*p.pack(), p.brief.air().usual()), 0.5, nullptr);
}

double damageVolts(const Pack& pack) {
    // Nickel cells lie empty unharmed; what reverses one in series is a load.
    return canRecharge(pack.cell) && !isNickel(pack.cell.chemistry)
               ? pack.series * floorVolts(pack.cell.chemistry)
               : 0;
}

std::optional<ShelfLife> shelfOf(const Project& p, double startsDownTo) {
    const Pack& pack = *p.pack();
    const PackModel model(pack, p.brief.air().usual());
    ShelfLife shelf;
    shelf.offAmps = switchedOffAmps(p);
    shelf.selfAmps = model.selfAmps * model.parallel;
    if (!std::isfinite(shelf.offAmps))
        return std::nullopt;
    const double whole = model.usable * model.parallel;
    const auto months = [&](double share, double amps) {
        const double drain = amps + shelf.selfAmps;
        return drain > 0 ? share * whole / drain / kHoursPerMonth
                         : std::numeric_limits<double>::infinity();
    };
    shelf.noStartMonths = months(1 - startsDownTo, shelf.offAmps);
    const Stage* guard = firstGuard(p);
    double opensAt = 0;
    if (guard) {
        shelf.guard = guard->id;
        opensAt = chargeAtRest(model, std::get<Guard>(guard->part).cutoff.value());
        shelf.cutoffMonths = months(1 - opensAt, shelf.offAmps);
        shelf.openAmps = idleAmps(p, model, opensAt, guard);
    }
    if (const double floor = damageVolts(pack); floor > 0) {
        const double ruined = chargeAtRest(model, floor);
        shelf.damageMonths = guard && ruined < opensAt
                                 ? *shelf.cutoffMonths + months(opensAt - ruined, shelf.openAmps)
                                 : months(1 - ruined, shelf.offAmps);
    }
    return shelf;
}

std::optional<CycleLife> cycleLife(const Pack& pack, double depth, double topVolts, double rate) {
    const CycleBand full = fullCycles(pack.cell.chemistry);
    if (!canRecharge(pack.cell) || full.high <= 0 || depth <= 0)
        return std::nullopt;
    double factor = std::pow(depth, -kDepthExponent);
    if (voltsOf(pack.cell.chemistry).fresh > kTopLithium && topVolts > kGentleTop)
        factor *= std::pow(0.5, (topVolts - kGentleTop) / kHalvesEvery);
    if (rate > kGentleRate)
        factor *= std::pow(kLeftByDoubling, std::log2(rate / kGentleRate));
    return CycleLife{full.low * factor, full.high * factor, depth, topVolts, rate};
}

std::optional<CycleLife> cycleLife(const Project& p, const Runtime& r) {
    const Stage* stage = p.packStage();
    if (!stage || !r.hours || r.curve.empty())
        return std::nullopt;
    const Pack& pack = std::get<Pack>(stage->part);
    double top = pack.cell.full.value_or(Volts{voltsOf(pack.cell.chemistry).fresh}).value();
    const double capacity = pack.parallel * pack.cell.capacity.value();
    const double depth = r.curve.front().charge - r.curve.back().charge;
    double rate = r.hours->value() > 0 ? depth / r.hours->value() : 0;
    for (const Stage& s : p.stages)
        if (const auto* charger = std::get_if<Charger>(&s.part);
            charger && charger->charges == stage->id) {
            if (charger->chargeVoltage)
                top = charger->chargeVoltage->value() / pack.series;
            if (charger->chargeCurrent)
                rate = std::max(rate, charger->chargeCurrent->value() / capacity);
        }
    auto life = cycleLife(pack, depth, top, rate);
    const CalendarLife years = calendarLife(pack.cell.chemistry);
    if (life && years.high > 0 && r.hours->value() > 0) {
        const double runsAYear = kYearHours / r.hours->value();
        life->byAge = life->high > years.high * runsAYear;
        life->low = std::min(life->low, years.low * runsAYear);
        life->high = std::min(life->high, years.high * runsAYear);
    }
    return life;
}

namespace {

constexpr double kCountless = 10'000; ///< cycles that nobody has seen such cells do

} // namespace

std::string writeCycles(const CycleLife& life) {
    const auto round = [](double n) {
        const double step = std::pow(10, std::max(0.0, std::floor(std::log10(n)) - 1));
        return std::round(n / step) * step;
    };
    if (life.low >= kCountless)
        return fmt::format("over {:.0f}", kCountless);
    return life.high > kCountless
               ? fmt::format("{:.0f} or more", round(life.low))
               : fmt::format("{:.0f} to {:.0f}", round(life.low), round(life.high));
}

namespace {

constexpr double kMonthsAYear = 12;

std::string yearsText(const CalendarLife& life) {
    return fmt::format("{:g} to {:g} years", life.low, life.high);
}

} // namespace

std::string lastsText(double months, Chemistry chemistry) {
    const CalendarLife life = calendarLife(chemistry);
    if (life.rechargeMonths > 0 && months > life.rechargeMonths)
        return fmt::format("{:g} months, then lead wants a recharge", life.rechargeMonths);
    if (life.high > 0 && months > life.high * kMonthsAYear)
        return yearsText(life) + ", for such cells keep no longer";
    if (!std::isfinite(months))
        return "any time";
    return months < 1    ? fmt::format("{:.0f} days", months * kHoursPerMonth / 24)
           : months < 36 ? fmt::format("{:.3g} months", months)
                         : fmt::format("{:.2g} years", months / kMonthsAYear);
}

std::string ageText(const Project& p, double hours) {
    const Pack* pack = p.pack();
    const CalendarLife life = pack ? calendarLife(pack->cell.chemistry) : CalendarLife{};
    return life.high > 0 && hours > life.high * kMonthsAYear * kHoursPerMonth
               ? "such cells keep " + yearsText(life)
               : std::string();
}

std::vector<PolicyLife> policyLives(const Project& p) {
    std::vector<PolicyLife> lives;
    if (!p.pack())
        return lives;
    const Stage* guard = firstGuard(p);
    const Pack& pack = *p.pack();
    if (!guard || policyCutoff(pack.cell.chemistry, CellCare::balanced) <= 0)
        return lives;
    for (const CellCare school : {CellCare::squeeze, CellCare::balanced, CellCare::gentle}) {
        Project with = p;
        const double cutoff = pack.series * policyCutoff(pack.cell.chemistry, school);
        std::get<Guard>(with.stage(guard->id)->part).cutoff = Volts{cutoff};
        const Runtime r = predictRuntime(with);
        if (const auto life = cycleLife(with, r))
            lives.push_back({school, cutoff, r.hours->value(), *life});
    }
    return lives;
}

} // namespace sipper
