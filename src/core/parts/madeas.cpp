// SPDX-License-Identifier: GPL-3.0-or-later
#include "parts/madeas.hpp"

#include "base/tolerance.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"

#include <algorithm>

namespace sipper {
namespace {

constexpr double kSetSlack = 1e-3; ///< of the volts, by which a setting may be off its end

template <class P>
std::optional<SetRange> stated(const P& p) {
    if (!p.adjustMin && !p.adjustMax)
        return std::nullopt;
    return SetRange{p.adjustMin ? p.adjustMin->value() : 0,
                    p.adjustMax ? p.adjustMax->value() : 1e9};
}

} // namespace

bool SetRange::holds(double volts) const {
    return volts >= least * (1 - kSetSlack) && volts <= most * (1 + kSetSlack);
}

std::optional<SetRange> setRangeOf(const Part& part) {
    if (const auto* guard = std::get_if<Guard>(&part))
        return stated(*guard);
    if (const auto* adapter = std::get_if<Adapter>(&part))
        return stated(*adapter);
    if (const ActivePart* a = active(part))
        return stated(*a);
    return std::nullopt;
}

double setVoltsOf(const Part& part) {
    if (const auto* guard = std::get_if<Guard>(&part))
        return guard->cutoff.value();
    if (const auto* adapter = std::get_if<Adapter>(&part))
        return orZero(adapter->set);
    if (const auto* charger = std::get_if<Charger>(&part))
        return orZero(charger->chargeVoltage);
    return isRegulator(part) ? orZero(setPointOf(part)) : 0;
}

bool regulatesCurrent(const Part& part) {
    const ActivePart* a = isRegulator(part) ? active(part) : nullptr;
    return a && a->regulates == Regulates::current;
}

double fullPackVolts(const Pack& pack) {
    return pack.series * pack.cell.full.value_or(Volts{voltsOf(pack.cell.chemistry).fresh}).value();
}

bool guardMadeFor(const Guard& g, const Pack& pack) {
    if (g.madeFor &&
        std::find(g.madeFor->begin(), g.madeFor->end(), pack.cell.chemistry) == g.madeFor->end())
        return false;
    if ((g.seriesMin && fallsBelow(pack.series, *g.seriesMin)) ||
        (g.seriesMax && exceeds(pack.series, *g.seriesMax)))
        return false;
    return !g.inputNeverAbove || !exceeds(fullPackVolts(pack), g.inputNeverAbove->value());
}

} // namespace sipper
