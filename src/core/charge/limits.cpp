// SPDX-License-Identifier: GPL-3.0-or-later
#include "charge/limits.hpp"

#include "base/tolerance.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"

#include <algorithm>
#include <boost/math/tools/toms748_solve.hpp>
#include <cmath>
#include <limits>

namespace sipper {
namespace {

constexpr double kEndShare = 0.05;   ///< of the capacity, where no end current is set
constexpr double kNickelKeeps = 0.7; ///< share of the charge that stays (docs/model.md: Charging)
constexpr double kUnbounded = 1000;  ///< A; more than any cable here carries
constexpr int kInputRounds = 30;     ///< of the input current that drops its own volts
constexpr int kLooks =
    24; ///< up to what the way carries, for a limit that may bite only on the way
constexpr double kNear = 0.02;          ///< of a current: how far it moves in a step at the most
constexpr int kCarryRounds = 34;        ///< of the search for what the way carries at all
constexpr std::uintmax_t kRounds = 100; ///< of TOMS 748
constexpr double kInputTolerance = 1e-11;
constexpr double kNever = std::numeric_limits<double>::infinity();

constexpr std::array<std::string_view, kChargeLimits> kNames{
    "source", "input_limit", "output_limit", "power_limit", "heat", "cc", "cv", "cell", "recovery"};

} // namespace

std::string_view limitName(ChargeLimit limit) {
    return kNames.at(static_cast<std::size_t>(limit));
}

ChargeSettings::ChargeSettings(const Charger& c, const Pack& pack)
    : current(orZero(c.chargeCurrent)), volts(orZero(c.chargeVoltage)),
      endCurrent(orZero(c.endCurrent)), recoveryBelow(orZero(c.recoveryBelow)),
      recoveryCurrent(orZero(c.recoveryCurrent)), inputLimit(orZero(c.inputLimit)),
      inputHold(orZero(c.inputHold)), inputMin(orZero(c.inputMin)),
      powerLimit(orZero(c.powerLimit)), outputLimit(orZero(c.outputLimit)),
      foldBack(orZero(c.foldBack)), cellAmps(orZero(pack.cell.maxCharge) * pack.parallel),
      efficiency(c.chargeEfficiency.value_or(isNickel(pack.cell.chemistry) ? kNickelKeeps : 1.0)) {
    if (!c.chargeCurrent && c.programK && orZero(c.programOhm) > 0)
        current = *c.programK / c.programOhm->value();
    if (endCurrent <= 0) // none stated, or a bare module that holds its volts for ever
        endCurrent = kEndShare * pack.cell.capacity.value() * pack.parallel;
}

ChargeLimits::ChargeLimits(const Charger& charger, const ChargeSettings& settings,
                           const ChargerInput& feed, const BatteryNode& node, const ChargeLeg& leg,
                           Celsius ambient)
    : m_converter(charger), m_set(settings), m_feed(feed), m_node(node), m_leg(leg),
      m_ambient(ambient.value()) {}

/// The input current, and the volts that it leaves there: from no load to where both agree, with
/// every second step taken as far as the last two point (Steffensen 1933).
std::optional<ChargeLimits::Input> ChargeLimits::inputFor(double amps, double volts) const {
    double vIn = m_feed.noLoadVolts();
    Input in;
    const auto leaves = [&](double v) -> std::optional<double> {
        const auto takes = m_converter.inputAmps(v, volts, amps);
        const auto feed = takes ? m_feed.at(*takes) : std::nullopt;
        if (!feed)
            return std::nullopt;
        in = {*feed, *takes};
        return feed->volts;
    };
    const auto settled = [&](double from, double to) {
        return !m_converter.takesByVolts() || std::abs(to - from) <= kInputTolerance * from;
    };
    for (int round = 0; round < kInputRounds; ++round) {
        const auto first = leaves(vIn);
        if (!first || settled(vIn, *first))
            return first ? std::optional(in) : std::nullopt;
        const auto second = leaves(*first);
        if (!second || settled(*first, *second))
            return second ? std::optional(in) : std::nullopt;
        const double bend = *second - 2 * *first + vIn;
        const double ahead = vIn - (*first - vIn) * (*first - vIn) / bend;
        vIn = std::isfinite(ahead) && ahead > 0 && ahead <= m_feed.noLoadVolts() ? ahead : *second;
    }
    return std::nullopt; // the way can't carry it
}

/// With the source at its limit and its volts fallen to what the charger needs at least.
std::optional<ChargeLimits::Input> ChargeLimits::limitedInput(const NodePoint& node,
                                                              double amps) const {
    const double takes = m_feed.source().limit - m_feed.others();
    const auto feed =
        m_feed.inCurrentLimit(m_converter.leastInput(outputVolts(node, amps), amps), takes);
    if (!feed)
        return std::nullopt;
    return Input{*feed, takes};
}

double ChargeLimits::lossOf(const Input& in, const NodePoint& node, double amps) const {
    return in.feed.volts * in.amps - outputVolts(node, amps) * amps;
}

bool ChargeLimits::backsOff() const {
    return m_set.inputHold > 0 || (m_set.inputLimit > 0 && on(ChargeLimit::inputLimit) &&
                                   m_set.inputLimit <= m_feed.source().limit);
}

/// Limits in closed form.
double ChargeLimits::simple(ChargeLimit limit, Here here) const {
    const auto set = [](double amps) { return amps > 0 ? amps : kNever; };
    switch (limit) {
    case ChargeLimit::outputLimit:
        return set(m_set.outputLimit);
    case ChargeLimit::cc:
        return set(m_set.current);
    case ChargeLimit::cv: {
        if (m_set.volts <= 0)
            return kNever;
        const double into = here.r > 0              ? (m_set.volts - here.e) / here.r
                            : here.e >= m_set.volts ? 0
                                                    : kNever;
        if (!std::isfinite(into))
            return kNever;
        const double amps = std::max(0.0, into + m_node.loadAt(m_set.volts));
        return m_leg.any() && !m_leg.sensed ? heldAtOutput(amps, here) : amps;
    }
    case ChargeLimit::cell:
        return m_set.cellAmps > 0 ? m_set.cellAmps + m_node.loadAt(here.e + here.r * m_set.cellAmps)
                                  : kNever;
    default:
        return kNever;
    }
}

/// Amps at which the charger's own output comes to the set voltage; `most` without the leg.
double ChargeLimits::heldAtOutput(double most, Here here) const {
    const auto over = [&](double amps) {
        return m_node.at(amps, here.e, here.r).volts + m_leg.drop + m_leg.ohms * amps - m_set.volts;
    };
    const double none = over(0);
    const double all = over(most);
    if (none >= 0 || all <= 0)
        return none >= 0 ? 0 : most;
    std::uintmax_t rounds = kRounds;
    return boost::math::tools::toms748_solve(
               over, 0.0, most, none, all,
               [](double a, double b) { return std::abs(a - b) <= 1e-13 * std::abs(b); }, rounds)
        .first;
}

/// How far the source is asked for more than it gives: its limit, its hold voltage, the least
/// input of the charger. Relative; 0 is just right.
double ChargeLimits::sourceExcess(double amps, const NodePoint& node) const {
    const double output = outputVolts(node, amps);
    const auto in = inputFor(amps, output);
    if (!in)
        return 1;
    double excess = -1;
    const double limit = m_feed.source().limit;
    if (limit > 0 && backsOff())
        excess = std::max(excess, in->feed.sourceAmps / limit - 1);
    const double least =
        std::max({m_set.inputHold, m_set.inputMin, m_converter.leastInput(output, amps)});
    if (least > 0)
        excess = std::max(excess, 1 - in->feed.volts / least);
    return excess;
}

/// Over 0 where this limit does not allow `amps` out of the charger.
double ChargeLimits::excess(ChargeLimit limit, double amps, Here here) const {
    const NodePoint node = m_node.at(amps, here.e, here.r);
    const double output = outputVolts(node, amps);
    switch (limit) {
    case ChargeLimit::powerLimit:
        return m_set.powerLimit > 0 ? output * amps / m_set.powerLimit - 1 : -1;
    case ChargeLimit::inputLimit: {
        if (m_set.inputLimit <= 0)
            return -1;
        const auto in = inputFor(amps, output);
        return in ? in->amps / m_set.inputLimit - 1 : 1;
    }
    case ChargeLimit::heat: {
        if (m_set.foldBack <= 0 || m_converter.theta <= 0)
            return -1;
        const auto in = inputFor(amps, output);
        const double allowed = (m_set.foldBack - m_ambient) / m_converter.theta;
        return in ? lossOf(*in, node, amps) / std::max(1e-12, allowed) - 1 : 1;
    }
    case ChargeLimit::source:
        return sourceExcess(amps, node);
    default:
        return amps / simple(limit, here) - 1;
    }
}

/// The most that this limit allows under `amps`, which it does not.
double ChargeLimits::most(ChargeLimit limit, double amps, Here here) const {
    const auto over = [&](double x) { return excess(limit, x, here); };
    const double none = over(0);
    if (none >= 0)
        return 0;
    double high = amps;
    double atHigh = over(high);
    if (atHigh >= 1) {
        // Past what the way carries nothing is told apart: to the edge first.
        const double good = bisect(0, amps, kCarryRounds, [&](double x) { return over(x) < 1; });
        if (over(good) <= 0)
            return good;
        high = good;
        atHigh = over(good);
    }
    double low = 0;
    double atLow = none;
    // Bracket around the last root.
    double& last = m_last[static_cast<std::size_t>(limit)];
    for (const double near : {last * (1 - kNear), last * (1 + kNear)})
        if (near > low && near < high) {
            const double here_ = over(near);
            (here_ < 0 ? low : high) = near;
            (here_ < 0 ? atLow : atHigh) = here_;
        }
    if (!(atLow < 0) || !(atHigh > 0)) // at the edge of what the way carries both may be none
        return last = low;
    std::uintmax_t rounds = kRounds;
    const auto found = boost::math::tools::toms748_solve(
        over, low, high, atLow, atHigh,
        [](double a, double b) { return std::abs(a - b) <= 1e-13 * std::abs(b); }, rounds);
    return last = found.first;
}

namespace {

ChargeLimit chargeLimitOf(SunLimit limit) {
    switch (limit) {
    case SunLimit::inputLimit:
        return ChargeLimit::inputLimit;
    case SunLimit::outputLimit:
        return ChargeLimit::outputLimit;
    case SunLimit::powerLimit:
        return ChargeLimit::powerLimit;
    case SunLimit::heat:
        return ChargeLimit::heat;
    case SunLimit::cc:
        return ChargeLimit::cc;
    case SunLimit::cv:
    case SunLimit::full:
        return ChargeLimit::cv;
    case SunLimit::cell:
        return ChargeLimit::cell;
    case SunLimit::recovery:
        return ChargeLimit::recovery;
    case SunLimit::night:
    case SunLimit::source:
    case SunLimit::cold:
    case SunLimit::hot:
        break;
    }
    return ChargeLimit::source;
}

/// The node's line as the panel's charger asks about it.
class NodeLine : public NodeTakes {
  public:
    explicit NodeLine(const BatteryNode& node) : m_node(node) {}
    double takenAt(double push, double ohms) override { return m_node.at(0, push, ohms).loadAmps; }

  private:
    const BatteryNode& m_node;
};

} // namespace

SunNode ChargeLimits::sunNode(NodeTakes& takes, Here here) const {
    SunNode node;
    node.e = here.e;
    node.r = here.r;
    node.line = &takes;
    node.leg = m_leg;
    return node;
}

/// On a panel: where the charger stands on its curve.
ChargerPoint ChargeLimits::onCurve(Here here, bool recovering) const {
    NodeLine takes(m_node);
    const SunNode node = sunNode(takes, here);
    ChargerDemand asked = m_panel->charger.asks(node, recovering);
    if (const double held = on(ChargeLimit::cv) ? simple(ChargeLimit::cv, here) : kNever;
        held < asked.amps)
        asked = {held, SunLimit::cv};
    const PanelPoint stand = m_panel->charger.stand(m_panel->curve, m_panel->air, node, asked);
    ChargerPoint moment;
    moment.chargerAmps = std::max(0.0, stand.amps);
    moment.limit =
        chargeLimitOf(stand.amps > 0 || asked.amps <= 0 ? stand.limit : SunLimit::source);
    moment.node = m_node.at(moment.chargerAmps, here.e, here.r);
    moment.outputVolts = outputVolts(moment.node, moment.chargerAmps);
    moment.inputAmps = stand.panelAmps;
    moment.feed = {stand.inputVolts, stand.panelVolts, stand.panelAmps};
    moment.loss =
        std::max(0.0, stand.inputVolts * stand.panelAmps - moment.outputVolts * moment.chargerAmps);
    moment.starved = stand.amps <= 0 && asked.amps > 0;
    return moment;
}

ChargerPoint ChargeLimits::at(double e, double r, bool recovering) const {
    const Here here{e, r};
    if (m_panel)
        return onCurve(here, recovering);
    ChargerPoint moment;
    double amps = kUnbounded;
    moment.limit = ChargeLimit::source;
    using enum ChargeLimit;
    for (const ChargeLimit limit : {outputLimit, cc, cv, cell})
        if (const double allows = on(limit) ? simple(limit, here) : kNever; allows < amps) {
            amps = allows;
            moment.limit = limit;
        }
    if (recovering && m_set.recoveryBelow > 0 && m_set.recoveryCurrent > 0 && on(recovery) &&
        m_set.recoveryCurrent < amps &&
        sensedVolts(m_node.at(m_set.recoveryCurrent, e, r), m_set.recoveryCurrent) <
            m_set.recoveryBelow) {
        amps = m_set.recoveryCurrent;
        moment.limit = recovery;
    }
    for (const ChargeLimit limit : {powerLimit, inputLimit, source, heat})
        if (on(limit) && excess(limit, amps, here) > kRelTol) {
            amps = most(limit, amps, here);
            moment.limit = limit;
        }
    moment.node = m_node.at(amps, e, r);
    auto in = inputFor(amps, outputVolts(moment.node, amps));
    const double limit = m_feed.source().limit;
    if (in && on(source) && limit > 0 && exceeds(in->feed.sourceAmps, limit) && !backsOff()) {
        const double left = std::max(0.0, limit - m_feed.others());
        auto rest = m_feed.source().beyond == BeyondLimit::hold
                        ? m_converter.ampsAtInputLimit(left, outputVolts(moment.node, amps))
                        : std::nullopt;
        moment.starved = !rest || m_converter.leastInput(outputVolts(moment.node, *rest), *rest) <
                                      std::max(m_set.inputMin, 0.0);
        if (!moment.starved) {
            moment.limit = source;
            for (int round = 0; round < kCarryRounds; ++round) {
                const double before = amps;
                amps = *rest;
                moment.node = m_node.at(amps, e, r);
                rest = m_converter.ampsAtInputLimit(left, outputVolts(moment.node, amps));
                if (std::abs(amps - before) <= kInputTolerance * amps)
                    break;
            }
            in = limitedInput(moment.node, amps);
        }
    }
    moment.chargerAmps = amps;
    moment.outputVolts = outputVolts(moment.node, amps);
    if (in) {
        moment.feed = in->feed;
        moment.inputAmps = in->amps;
        moment.loss = std::max(0.0, lossOf(*in, moment.node, amps));
    } else {
        moment.starved = true;
    }
    return moment;
}

LimitCurrents ChargeLimits::ladder(double e, double r, bool recovering) const {
    const Here here{e, r};
    LimitCurrents ladder;
    const auto rung = [&](ChargeLimit limit, double amps) {
        ladder[static_cast<std::size_t>(limit)] =
            std::isfinite(amps) && amps < kUnbounded ? m_node.at(amps, e, r).packAmps : kNever;
    };
    using enum ChargeLimit;
    for (const ChargeLimit limit : {outputLimit, cc, cv, cell})
        if (const double amps = simple(limit, here); std::isfinite(amps))
            rung(limit, amps);
    if (m_panel) {
        NodeLine takes(m_node);
        const PanelPoint stand =
            m_panel->charger.stand(m_panel->curve, m_panel->air, sunNode(takes, here),
                                   {m_panel->curve.shortCircuit() * kUnbounded, SunLimit::cc});
        rung(source, std::max(0.0, stand.amps));
        return ladder;
    }
    // What the way carries at all; up to there the first place where a limit says no.
    const double carried = bisect(0, kUnbounded, kCarryRounds, [&](double amps) {
        return inputFor(amps, outputVolts(m_node.at(amps, e, r), amps)).has_value();
    });
    const auto search = [&](ChargeLimit limit, bool there) {
        if (!there)
            return;
        for (int look = 1; look <= kLooks; ++look) {
            const double amps = carried * look * look / (kLooks * kLooks);
            if (excess(limit, amps, here) > 0) {
                rung(limit, most(limit, amps, here));
                return;
            }
        }
        rung(limit, limit == source ? carried : kNever);
    };
    search(powerLimit, m_set.powerLimit > 0);
    search(inputLimit, m_set.inputLimit > 0);
    search(heat, m_set.foldBack > 0 && m_converter.theta > 0);
    const double limit = m_feed.source().limit;
    if (limit > 0 && !backsOff() && m_feed.source().beyond == BeyondLimit::hold) {
        const double left = std::max(0.0, limit - m_feed.others());
        if (const auto held = m_converter.ampsAtInputLimit(left, e))
            rung(source, *held);
    } else {
        search(source, true);
    }
    if (recovering && m_set.recoveryBelow > 0 && m_set.recoveryCurrent > 0 &&
        sensedVolts(m_node.at(m_set.recoveryCurrent, e, r), m_set.recoveryCurrent) <
            m_set.recoveryBelow)
        rung(recovery, m_set.recoveryCurrent);
    return ladder;
}

} // namespace sipper
