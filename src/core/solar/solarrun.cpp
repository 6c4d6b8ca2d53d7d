// SPDX-License-Identifier: GPL-3.0-or-later
#include "solar/solarrun.hpp"
#include "parts/figures.hpp"

#include <algorithm>
#include <cmath>

namespace sipper {
namespace {

constexpr double kChargeStep = 0.005;      ///< of the charge, the most in one step
constexpr double kEvent = 1.0 / 60;        ///< h to which openings and returns are met
constexpr double kRevived = 0.05;          ///< by which the height has to rise after it was empty
constexpr double kBarelyCharging = 1e-3;   ///< of the rated capacity per hour
constexpr double kCarries = 0.99;          ///< of the draw: less is dark
constexpr double kDarkLight = 1;           ///< W/m2
constexpr double kFull = 1e-9;             ///< Ah of a pack that count as none, of its capacity
constexpr double kHoldFall = 0.15;         ///< of the current, within a step at the set voltage
constexpr double kHoldShortest = 1.0 / 60; ///< h of such a step
constexpr int kHoldRounds = 12;
constexpr double kHoldTolerance = 1e-7; ///< V, relative
constexpr double kHoursToForgive = 1e-9;

} // namespace

void SolarSimulationRun::warm() {
    m_at = m_pack.at(m_air);
    m_stale = true;
    const bool cold = m_bench.chargeFrom && m_air < *m_bench.chargeFrom;
    const bool hot = m_bench.chargeTo && m_air > *m_bench.chargeTo;
    m_forbidden = cold || hot;
    m_locked = m_forbidden && m_bench.charger.thermistor.value_or(false);
    m_lockedBy = cold ? SunLimit::cold : SunLimit::hot;
}

void SolarSimulationRun::hour(std::size_t at) {
    const double air = m_bench.airAt(at);
    if (air != m_air) {
        m_air = air;
        warm();
    }
    m_ofYear = at % kHoursAYear;
    m_month = &m_out.months[monthOf(m_ofYear / 24)];
    m_unmetHere = 0;
    const float* light = &m_bench.light[at * kSlotsAnHour];
    const auto& segments = m_bench.day[m_ofYear % 24];
    const bool dark = std::all_of(light, light + kSlotsAnHour,
                                  [](float g) { return static_cast<double>(g) < kDarkLight; });
    for (std::size_t i = 0; i < segments.size() && !m_done;) {
        const SunSegment& s = segments[i++];
        const double g = static_cast<double>(light[s.slot]);
        double hours = s.hours;
        for (; dark && i < segments.size() && segments[i].setting == s.setting; ++i)
            hours += segments[i].hours;
        segment(hours, s.setting, g >= kDarkLight ? m_way.curve(g, m_air) : PanelCurve());
    }
    m_yearUnmet += m_unmetHere;
    if (m_ask.details) {
        m_out.charge[m_ofYear] = static_cast<float>(chargeNow());
        m_out.missed[m_ofYear] = static_cast<float>(m_unmetHere);
    }
}

SolarSimulationRun::Ahead SolarSimulationRun::ahead(double hours) const {
    const double c = m_model.availableFraction;
    if (c >= 1)
        return {hours, 0, 0};
    if (m_model.wellRate <= 0)
        return {hours, 1, (1 - c) * hours};
    const double gone = -std::expm1(-m_model.wellRate * hours);
    return {hours, 1 - gone, (1 - c) * gone / m_model.wellRate};
}

void SolarSimulationRun::updateNode() {
    m_height = heightOf(m_dischargedAh, m_lag);
    m_node.e = restVolts(m_height);
    if (!m_stale && m_model.resistanceByCharge.empty())
        return;
    const double factor = m_model.resistanceByCharge.empty()
                              ? 1
                              : factorAt(m_model.resistanceByCharge, std::max(0.0, m_height));
    const double r0 = m_at.r0 * factor;
    m_node.r = m_model.series / m_pack.parallel() * (r0 + m_at.r1) + m_model.connection;
    // The line's own pack stands for this one: as many ohms at the same volts.
    const double thin = m_model.parallel / m_pack.parallel();
    m_r0 = r0 * thin;
    m_r1 = m_at.r1 * thin;
    m_stale = false;
    m_chart = nullptr;
    m_node.line = nullptr;
}

void SolarSimulationRun::connect(std::size_t setting) {
    if (m_brownedOut) {
        m_chart = nullptr;
        m_node.line = nullptr;
        m_chartSetting = kNone;
        return;
    }
    if (m_chart && m_chartSetting == setting && m_chartOpen == m_open)
        return;
    m_chart = &m_bench.charts.of(setting, m_open, m_r0, m_r1);
    m_node.line = m_chart;
    m_chartSetting = setting;
    m_chartOpen = m_open;
}

void SolarSimulationRun::settle(Flow& f) const {
    f.dark = f.stand.amps > 0 || m_brownedOut ? 0 : m_charger.dark();
    if (m_chart) {
        f.line = m_chart->at(m_node.e + (f.stand.amps - f.dark) * m_node.r);
        f.taken = f.line->amps();
    }
    f.stored = storedOf(f.into());
}

SolarSimulationRun::Flow SolarSimulationRun::flowNow(const PanelCurve& curve) const {
    Flow f;
    if (curve.lit()) {
        ChargerDemand ask = m_charger.asks(m_node);
        if (m_locked)
            ask = {0, m_lockedBy};
        else if (m_dischargedAh <= kFull * m_at.ampHours)
            ask = least(ask, fullAsk());
        f.stand = m_charger.stand(curve, m_air, m_node, ask);
    }
    settle(f);
    return f;
}

ChargerDemand SolarSimulationRun::fullAsk() const {
    const double self = m_pack.selfShare() * m_at.ampHours / m_charger.efficiency();
    double amps = self;
    for (int round = 0; round < 2; ++round)
        amps = m_node.taken(amps) + self;
    return {amps, SunLimit::full};
}

void SolarSimulationRun::segment(double left, std::size_t setting, const PanelCurve& curve) {
    while (left > kHoursToForgive && !m_done) {
        updateNode();
        connect(setting);
        Flow f = flowNow(curve);
        handleEvents(setting, curve, f);
        const double step = stepSize(left, curve, f);
        book(step, setting, curve, f);
        left -= step;
    }
}

void SolarSimulationRun::handleEvents(std::size_t setting, const PanelCurve& curve, Flow& f) {
    m_quick = false;
    const auto anew = [&] {
        connect(setting);
        f = flowNow(curve);
    };
    if (m_brownedOut && f.stand.amps > 0 && m_height >= m_unpoweredHeight + kRevived) {
        m_brownedOut = false;
        anew();
    }
    const std::size_t rounds = 2 * m_bench.project.stages.size() + 2; // each opens and returns
    for (std::size_t round = 0; round < rounds && !m_brownedOut; ++round) {
        const NodeInterpolant::Point& flags = f.line->flags();
        if (flags.collapsed || m_height <= 0) {
            m_brownedOut = true;
            m_unpoweredHeight = std::max(0.0, m_height);
            anew();
            return;
        }
        if (flags.opens >= 0) {
            const auto stage = static_cast<std::size_t>(flags.opens);
            m_open |= OpenSet{1} << stage | m_bench.charts.startersBehind(stage);
            m_openedAt = m_hours;
            m_quick = true;
            anew();
            continue;
        }
        const bool waits = m_hours < m_openedAt + kEvent - kHoursToForgive;
        m_quick = m_quick || (m_open != 0 && waits);
        if (m_open == 0 || waits || f.stand.amps <= f.taken || flags.recovers == 0)
            return;
        m_open &= ~(flags.recovers & -flags.recovers); // the first; the rest in turn
        anew();
    }
}

double SolarSimulationRun::stepSize(double left, const PanelCurve& curve, Flow& f) {
    double step = m_quick ? std::min(left, kEvent) : left;
    const double most = kChargeStep * m_ask.stepShare * m_at.ampHours;
    const auto bounded = [&](double hours) {
        if (std::abs(f.stored) * hours > most)
            hours = most / std::abs(f.stored);
        return hours;
    };
    const double whole = step;
    step = bounded(step);
    if (m_charger.holdsVolts() > 0 && f.stand.amps > 0 && passes(f, step))
        step = cvStep(whole, most, curve, f);
    if (f.stored > 0 && m_dischargedAh > kFull * m_at.ampHours)
        step = std::min(step, std::max(m_dischargedAh / f.stored, kEvent));
    while (step > kEvent * (1 + 1e-9) && somethingHappens(f, step))
        step = std::max(kEvent, step / 2);
    return step;
}

double SolarSimulationRun::voltsAfter(const Flow& f, const Ahead& a, double stored) const {
    const State s = after(a, stored);
    return restVolts(heightOf(s.missing, s.lag)) + f.into() * m_node.r +
           m_node.leg.inside(f.stand.amps);
}

double SolarSimulationRun::cvStep(double whole, double most, const PanelCurve& curve, Flow& f) {
    const double asked = f.stand.amps;
    const double begins = std::clamp(
        (m_charger.holdsVolts() - m_node.e - m_node.leg.inside(asked)) / m_node.r + f.taken, 0.0,
        asked);
    const double shortest = kHoldShortest * m_ask.stepShare;
    double step = whole;
    double amps = holding(ahead(step), f.taken, asked);
    // Power is nonlinear in current: one that falls far within a step is taken in shorter ones.
    while (step > shortest && begins - amps > kHoldFall * begins) {
        step = std::max(shortest, step / 2);
        amps = holding(ahead(step), f.taken, asked);
    }
    const double stored = std::abs(storedOf(amps - f.taken));
    if (stored * step > most) {
        step = most / stored;
        amps = holding(ahead(step), f.taken, asked);
    }
    f.stand = m_charger.stand(curve, m_air, m_node, {amps, SunLimit::cv});
    settle(f);
    return step;
}

double SolarSimulationRun::holding(const Ahead& a, double taken, double most) const {
    const double target = m_charger.holdsVolts();
    double low = 0;
    double high = most;
    double x = most;
    double height = 0;
    const auto missAt = [&](double amps) {
        const double into = amps - taken;
        const State s = after(a, storedOf(into));
        height = heightOf(s.missing, s.lag);
        return restVolts(height) + into * m_node.r + m_node.leg.inside(amps) - target;
    };
    if (missAt(0) >= 0) // fuller than the set voltage: it rests on its own draw
        return 0;
    for (int round = 0; round < kHoldRounds; ++round) {
        const double into = x - taken;
        const double miss = missAt(x);
        if (std::abs(miss) <= kHoldTolerance * target)
            break;
        (miss > 0 ? high : low) = x;
        if (high <= 0)
            return 0;
        const double kept = into > 0 ? m_charger.efficiency() : 1;
        const double slope = m_node.r + (m_node.leg.sensed ? 0 : m_node.leg.ohms) +
                             m_model.series * m_model.openCircuit.slope(std::max(0.0, height)) *
                                 kept * (a.hours + a.perAmp / m_model.availableFraction) /
                                 m_at.ampHours;
        double next = x - miss / slope;
        if (!(next > low && next < high))
            next = (low + high) / 2;
        x = next;
    }
    return std::max(0.0, x);
}

bool SolarSimulationRun::somethingHappens(const Flow& f, double step) const {
    const State s = after(ahead(step), f.stored);
    const double height = heightOf(s.missing, s.lag);
    if (m_brownedOut)
        return f.stand.amps > 0 && height >= m_unpoweredHeight + kRevived;
    if (height <= 0)
        return true;
    const NodeInterpolant::Reading there =
        m_chart->at(restVolts(height) + (f.stand.amps - f.dark) * m_node.r);
    const NodeInterpolant::Point& now = f.line->flags();
    const NodeInterpolant::Point& then = there.flags();
    if (&now == &then)
        return false;
    return now.collapsed != then.collapsed || now.opens != then.opens ||
           now.lossOfLoad != then.lossOfLoad ||
           (now.recovers != then.recovers && f.stand.amps > f.taken);
}

void SolarSimulationRun::book(double step, std::size_t setting, const PanelCurve& curve,
                              const Flow& f) {
    SolarSums now;
    const bool unmet = m_brownedOut ? m_bench.charts.needs(setting) : f.line->flags().lossOfLoad;
    if (unmet) {
        now.lossOfLoadHours = step;
        m_unmetHere += step;
        if (!m_out.firstLossOfLoad) {
            m_out.firstLossOfLoad = m_hours;
            m_done = m_ask.untilUnmet;
        }
    }
    m_unmetRun.add(unmet, step);
    const bool held = f.stand.limit == SunLimit::cv || f.stand.limit == SunLimit::full;
    m_darkRun.add(!held && (f.stand.amps <= 0 || f.stand.amps < kCarries * f.taken), step);
    const double panel = f.stand.panelVolts * f.stand.panelAmps;
    const double top = curve.mpp().second;
    now.panelWh = panel * step;
    now.availableWh = std::max(top, panel) * step;
    lose(now.availableWh - now.panelWh, f.stand.limit, now);
    const double volts = m_node.e + f.into() * m_node.r;
    if (f.into() > 0) {
        now.chargedWh = volts * f.into() * step;
        if (m_forbidden && f.into() > kBarelyCharging * m_rated)
            now.forbidden = step;
    }
    if (held)
        now.full = step;
    if (f.line)
        now.loadWh = f.line->loads() * step;
    if (m_ask.details)
        bookLedger(step, f, volts);
    const State s = after(ahead(step), f.stored);
    m_dischargedAh = s.missing;
    m_lag = s.lag;
    m_hours += step;
    now.leastCharge = chargeNow();
    if (now.leastCharge < m_out.all.leastCharge)
        m_out.worstDay = m_ofYear / 24 + 1;
    add(m_out.all, now);
    if (m_month)
        add(*m_month, now);
}

} // namespace sipper
