// SPDX-License-Identifier: GPL-3.0-or-later
#include "charge/panelcharger.hpp"

#include "parts/figures.hpp"

#include <algorithm>
#include <array>
#include <boost/math/tools/toms748_solve.hpp>
#include <cmath>
#include <limits>

namespace sipper {
namespace {

constexpr double kNoLimit = std::numeric_limits<double>::infinity();
constexpr double kTolerance = 1e-7; ///< relative, of amps and volts on the curve
constexpr int kCurveRounds = 40;
constexpr int kPowerRounds = 6; ///< of volts that move with the amps pushed in
constexpr int kHeatRounds = 30;
constexpr std::uintmax_t kRootRounds = 60;

constexpr std::array<std::string_view, 13> kSunLimitNames{
    "night", "source", "input_limit", "output_limit", "power_limit", "heat", "cc",
    "cv",    "cell",   "recovery",    "full",         "cold",        "hot"};

bool close(double a, double b) {
    return std::abs(a - b) <= kTolerance * std::max(std::abs(a), std::abs(b)) + 1e-12;
}

/// The root of a function that falls from over 0 at `low` to under it at `high`.
template <class F>
double rootBetween(F&& f, double low, double atLow, double high, double atHigh) {
    if (atLow <= 0)
        return low;
    if (atHigh >= 0)
        return high;
    std::uintmax_t rounds = kRootRounds;
    const auto found =
        boost::math::tools::toms748_solve(f, low, high, atLow, atHigh, close, rounds);
    return (found.first + found.second) / 2;
}

} // namespace

std::string_view sunLimitName(SunLimit limit) {
    return kSunLimitNames.at(static_cast<std::size_t>(limit));
}

PanelCharger::PanelCharger(const Charger& c, const PanelPath& way, double cellAmps)
    : m_way(way), m_model(c), m_tracking(c.tracking.value_or(false)),
      m_own(m_model.topology == Topology::direct
                ? 0
                : orZero(c.quiescent) +
                      (m_model.topology == Topology::linear ? orZero(c.ground) : 0)),
      m_dark(orZero(c.dark)), m_current(orZero(c.chargeCurrent)), m_volts(orZero(c.chargeVoltage)),
      m_cellAmps(cellAmps), m_outputLimit(orZero(c.outputLimit)),
      m_powerLimit(orZero(c.powerLimit)), m_inputLimit(orZero(c.inputLimit)),
      m_hold(orZero(c.inputHold)), m_inputMin(orZero(c.inputMin)), m_startMin(orZero(c.startMin)),
      m_recoveryBelow(orZero(c.recoveryBelow)), m_recoveryCurrent(orZero(c.recoveryCurrent)),
      m_foldBack(orZero(c.foldBack)), m_efficiency(c.chargeEfficiency.value_or(1.0)) {
    if (!c.chargeCurrent && c.programK && orZero(c.programOhm) > 0)
        m_current = *c.programK / c.programOhm->value();
    if (straight())
        m_tracking = false;
    m_model.quiescent = m_own;
}

ChargerDemand PanelCharger::asks(const SunNode& node, bool recovering) const {
    ChargerDemand ask{kNoLimit, SunLimit::cc};
    const auto least = [&](double amps, SunLimit limit) {
        if (amps > 0 && amps < ask.amps)
            ask = {amps, limit};
    };
    least(m_current, SunLimit::cc);
    least(m_outputLimit, SunLimit::outputLimit);
    if (m_cellAmps > 0) {
        double amps = m_cellAmps;
        if (amps < ask.amps) // with what the device takes on top
            amps += node.taken(amps);
        least(amps, SunLimit::cell);
    }
    if (m_powerLimit > 0) {
        double amps = std::isfinite(ask.amps) ? ask.amps : m_powerLimit / node.e;
        for (int round = 0; round < kPowerRounds; ++round)
            amps = m_powerLimit / node.output(amps);
        least(amps, SunLimit::powerLimit);
    }
    if (recovering && m_recoveryBelow > 0 && m_recoveryCurrent > 0 &&
        node.volts(m_recoveryCurrent) + node.leg.inside(m_recoveryCurrent) < m_recoveryBelow)
        least(m_recoveryCurrent, SunLimit::recovery);
    return ask;
}

PanelCharger::Point PanelCharger::atAmps(const PanelCurve& curve, double amps) const {
    const double volts = curve.volts(amps);
    return {volts, amps, volts - m_way.drop - amps * m_way.ohms};
}

PanelCharger::Point PanelCharger::atVolts(const PanelCurve& curve, double volts) const {
    const double amps = curve.amps(volts);
    return {volts, amps, volts - m_way.drop - amps * m_way.ohms};
}

/// x at a point of the curve, with the node's volts moved by it.
double PanelCharger::gives(const Point& p, const SunNode& node) const {
    if (straight())
        return p.amps - m_own;
    double x = 0;
    for (int round = 0; round < kPowerRounds; ++round) {
        const double next = m_model.outputAmps(p.input, p.amps, node.output(x));
        const bool settled = close(next, x);
        x = next;
        if (settled)
            break;
    }
    return x;
}

/// V that the input must have for x into the node's volts; 0 for what can step up.
double PanelCharger::needsInput(double x, double volts) const {
    if (m_model.topology == Topology::direct)
        return std::max(volts, m_inputMin);
    const double least = m_model.leastInput(volts, std::max(0.0, x));
    return least > 0 ? std::max(least, m_inputMin) : 0;
}

/// A at which the input has fallen to the hold voltage: V - drop - I(V) R = hold, from the right,
/// where Newton's steps do not overshoot.
double PanelCharger::ampsAtHold(const PanelCurve& curve) const {
    double v = m_hold + m_way.drop + m_way.ohms * curve.shortCircuit();
    for (int round = 0; round < kCurveRounds && m_way.ohms > 0; ++round) {
        const double f = v - m_way.drop - m_way.ohms * curve.amps(v) - m_hold;
        const double next = v - f / (1 - m_way.ohms * curve.slope(v));
        if (close(next, v))
            break;
        v = next;
    }
    return curve.amps(v);
}

/// A linear charger, or none: what comes in goes out.
PanelCharger::Found PanelCharger::straightStand(const PanelCurve& curve, const SunNode& node,
                                                const ChargerDemand& asked) const {
    Found found;
    double amps = asked.amps + m_own;
    found.limit = asked.limit;
    const auto floorAt = [&](double least, SunLimit limit) {
        if (least < amps) {
            amps = least;
            found.limit = limit;
        }
    };
    if (m_hold > 0)
        floorAt(ampsAtHold(curve), SunLimit::source);
    if (m_inputLimit > 0)
        floorAt(m_inputLimit, SunLimit::inputLimit);
    floorAt(curve.shortCircuit(), SunLimit::source);
    const auto spare = [&](const Point& p) {
        const double x = p.amps - m_own;
        return p.input - needsInput(x, node.output(x));
    };
    found.point = atAmps(curve, amps);
    if (amps >= curve.shortCircuit() || spare(found.point) < 0) {
        // Down to the node's volts and the drop-out: Newton from above, where it does not
        // overshoot.
        found.limit = SunLimit::source;
        const double open = curve.volts(0);
        const double taken = node.taken(0);
        const double rise = node.r + node.leg.ohms + m_model.dropoutPerAmp + m_way.ohms;
        double v = std::min(open, node.e - taken * node.r + node.leg.drop + m_model.dropout +
                                      m_way.drop + rise * curve.shortCircuit());
        v = std::max(v,
                     std::min(open, m_inputMin + m_way.drop + m_way.ohms * curve.shortCircuit()));
        if (spare(atVolts(curve, open)) < 0) {
            found.none = true;
            return found;
        }
        for (int round = 0; round < kCurveRounds; ++round) {
            const Point p = atVolts(curve, v);
            const double next = v - spare(p) / (1 - rise * curve.slope(v));
            const bool settled = close(next, v);
            v = std::min(next, open);
            if (settled)
                break;
        }
        found.point = atVolts(curve, v);
    }
    found.x = found.point.amps - m_own;
    return found;
}

/// The first point from open circuit to `most` amps where the converter gets what it asks for.
std::optional<PanelCharger::Found> PanelCharger::askMet(const PanelCurve& curve,
                                                        const SunNode& node,
                                                        const ChargerDemand& asked,
                                                        double most) const {
    if (!std::isfinite(asked.amps))
        return std::nullopt;
    const double volts = node.output(asked.amps);
    const auto left = [&](double amps) { // over 0 while it takes more than this
        const Point p = atAmps(curve, amps);
        const auto takes =
            p.input > 0 ? m_model.inputAmps(p.input, volts, asked.amps) : std::nullopt;
        return takes ? *takes - amps : curve.shortCircuit();
    };
    const double atMost = left(most);
    if (atMost > kTolerance * most)
        return std::nullopt;
    Found found;
    found.limit = asked.limit;
    found.x = asked.amps;
    found.point = atAmps(curve, rootBetween(left, 0, left(0), most, atMost));
    const bool passed = m_model.topology == Topology::buck &&
                        found.point.input < needsInput(asked.amps, volts) * (1 - kTolerance);
    return passed ? std::nullopt : std::optional(found);
}

/// A buck that nothing holds: it sinks to where its duty, or its lock-out, ends. Beyond `from`
/// amps.
PanelCharger::Found PanelCharger::lowered(const PanelCurve& curve, const SunNode& node,
                                          double from) const {
    Found found;
    const auto spare = [&](double volts) {
        const Point p = atVolts(curve, volts);
        const double x = gives(p, node);
        return p.input - needsInput(x, node.output(x));
    };
    const double high = from > 0 ? curve.volts(from) : curve.volts(0);
    const double atHigh = spare(high);
    if (atHigh <= 0) {
        found.none = from <= 0;
        found.point = atVolts(curve, high);
        found.x = gives(found.point, node);
        return found;
    }
    const auto falling = [&](double back) { return spare(high - back); };
    found.point = atVolts(curve, high - rootBetween(falling, 0, atHigh, high, spare(0)));
    found.x = gives(found.point, node);
    return found;
}

PanelCharger::Found PanelCharger::converterStand(const PanelCurve& curve, const SunNode& node,
                                                 const ChargerDemand& asked) const {
    double floor = kNoLimit;
    SunLimit limit = SunLimit::source;
    if (m_tracking)
        floor = curve.mppAmps();
    if (m_hold > 0)
        floor = std::min(floor, ampsAtHold(curve));
    if (m_inputLimit > 0 && m_inputLimit < floor) {
        floor = m_inputLimit;
        limit = SunLimit::inputLimit;
    }
    if (auto met = askMet(curve, node, asked, std::min(floor, curve.mppAmps())))
        return *met;
    const bool buck = m_model.topology == Topology::buck;
    Found found;
    if (floor < curve.shortCircuit()) {
        found.limit = limit;
        found.point = atAmps(curve, floor);
        found.x = gives(found.point, node);
        if (!buck || found.point.input >= needsInput(found.x, node.output(found.x)))
            return found;
    } else if (!buck) {
        found.none = true; // it has collapsed
        return found;
    }
    return lowered(curve, node, 0);
}

/// Back up the curve until it burns no more than it may.
void PanelCharger::cool(const PanelCurve& curve, const SunNode& node, double air,
                        Found& found) const {
    if (m_foldBack <= 0 || m_model.theta <= 0)
        return;
    const double allowed = std::max(0.0, (m_foldBack - air) / m_model.theta);
    const auto burns = [&](const Point& p, double x) {
        return p.input * p.amps - node.output(x) * std::max(0.0, x);
    };
    if (burns(found.point, found.x) <= allowed * (1 + kTolerance))
        return;
    double cool = 0;
    double hot = found.point.amps;
    for (int round = 0; round < kHeatRounds; ++round) {
        const double middle = (cool + hot) / 2;
        const Point p = atAmps(curve, middle);
        (burns(p, gives(p, node)) <= allowed ? cool : hot) = middle;
    }
    found.point = atAmps(curve, cool);
    found.x = gives(found.point, node);
    found.limit = SunLimit::heat;
}

/// Asked for nothing: its own draw, where the panel can give that.
PanelPoint PanelCharger::resting(const PanelCurve& curve, SunLimit limit) const {
    PanelPoint s;
    s.limit = limit;
    if (m_own <= 0 || m_own >= curve.mppAmps())
        return s;
    const Point p = atAmps(curve, m_own);
    if (p.input < m_inputMin || p.input <= 0)
        return s;
    s.panelVolts = p.volts;
    s.panelAmps = p.amps;
    s.inputVolts = p.input;
    return s;
}

PanelPoint PanelCharger::stand(const PanelCurve& curve, double air, const SunNode& node,
                               const ChargerDemand& asked) const {
    PanelPoint s;
    if (!curve.lit())
        return s;
    s.limit = SunLimit::source;
    const double open = curve.volts(0) - m_way.drop;
    if (open <= 0 || open < m_inputMin || open < m_startMin)
        return s;
    if (asked.amps <= 0)
        return resting(curve, asked.limit);
    Found found =
        straight() ? straightStand(curve, node, asked) : converterStand(curve, node, asked);
    const bool stepsUp =
        m_model.topology == Topology::boost || m_model.topology == Topology::buckBoost;
    if (found.none || (stepsUp && found.point.input < m_inputMin))
        return s;
    cool(curve, node, air, found);
    if (!(found.x > 0)) {
        s.limit = found.limit;
        return s;
    }
    s.amps = found.x;
    s.panelVolts = found.point.volts;
    s.panelAmps = found.point.amps;
    s.inputVolts = found.point.input;
    s.limit = found.limit;
    return s;
}

double PanelCharger::givesAtTop(const PanelCurve& curve, double volts) const {
    SunNode fixed;
    fixed.e = volts;
    return gives(atAmps(curve, curve.mppAmps()), fixed);
}

} // namespace sipper
