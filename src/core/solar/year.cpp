// SPDX-License-Identifier: GPL-3.0-or-later
#include "parts/figures.hpp"
#include "solar/simulation.hpp"

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
constexpr std::size_t kStopEvery = 512; ///< hours between two looks at the stop token

/// The longest unbroken stretch of something.
class LongestInterval {
  public:
    void add(bool on, double hours) {
        m_now = on ? m_now + hours : 0;
        m_longest = std::max(m_longest, m_now);
    }
    [[nodiscard]] double longest() const { return m_longest; }

  private:
    double m_now = 0;
    double m_longest = 0;
};

class SolarSimulationRun {
  public:
    SolarSimulationRun(SolarSimulation::Impl& bench, const SolarOptions& ask)
        : m_bench(bench), m_ask(ask), m_pack(bench.pack, ask.packScale), m_model(m_pack.model()),
          m_way(scaled(bench.way, ask.panelScale)),
          m_charger(bench.charger, m_way, orZero(bench.pack.cell.maxCharge) * m_pack.parallel()),
          m_rated(m_model.rated * m_pack.parallel()) {}

    std::optional<SolarYear> go(const std::stop_token& stop) {
        begin();
        const std::size_t hours = m_ask.years * kHoursAYear;
        const std::size_t first = m_bench.firstHour();
        const std::size_t all = m_bench.weather.ghi.size();
        for (std::size_t k = 0; k < hours && !m_done; ++k) {
            if (k % kStopEvery == 0) {
                if (stop.stop_requested())
                    return std::nullopt;
                if (m_ask.progress)
                    m_ask.progress(static_cast<double>(k) / static_cast<double>(hours));
            }
            hour((first + k) % all);
            if ((k + 1) % kHoursAYear == 0)
                closeYear(k / kHoursAYear);
        }
        finish();
        return std::move(m_out);
    }

    /// In the dark at typical air, from full, to the first unmet moment: hours; nothing after
    /// `most`.
    std::optional<double> lasts(double most) {
        begin();
        m_dischargedAh = 0;
        m_lag = 0;
        m_air = m_bench.typicalAir;
        warm();
        while (m_hours < most && !m_out.firstLossOfLoad)
            for (const SunSegment& s : m_bench.day[static_cast<std::size_t>(m_hours + 1e-6) % 24])
                segment(s.hours, s.setting, PanelCurve());
        return m_out.firstLossOfLoad;
    }

  private:
    static PanelPath scaled(PanelPath way, double scale) {
        way.parallel *= scale;
        return way;
    }

    void begin() {
        m_out.charger = m_bench.project.stages[m_bench.chargerAt].id;
        m_out.panel = m_bench.project.stages[m_bench.panelAt].id;
        m_out.pack = m_bench.project.stages[m_bench.packAt].id;
        m_out.years = m_ask.years;
        m_air = m_bench.airAt(m_bench.firstHour());
        warm();
        m_dischargedAh = (1 - m_bench.pack.charge.value_or(1.0)) * m_at.ampHours;
        if (m_ask.details) {
            m_out.charge.assign(kHoursAYear, 1);
            m_out.missed.assign(kHoursAYear, 0);
        }
    }
    void closeYear(std::size_t number) {
        if (m_ask.details && m_yearUnmet >= m_out.worstYearUnmet) {
            m_out.worstYearUnmet = m_yearUnmet;
            m_out.worstYear = number;
            m_out.worstCharge = m_out.charge;
            m_out.worstMissed = m_out.missed;
        }
        m_yearUnmet = 0;
    }

    /// The pack at the hour's air.
    void warm() {
        m_at = m_pack.at(m_air);
        m_stale = true;
        const bool cold = m_bench.chargeFrom && m_air < *m_bench.chargeFrom;
        const bool hot = m_bench.chargeTo && m_air > *m_bench.chargeTo;
        m_forbidden = cold || hot;
        m_locked = m_forbidden && m_bench.charger.thermistor.value_or(false);
        m_lockedBy = cold ? SunLimit::cold : SunLimit::hot;
    }

    void hour(std::size_t at) {
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

    // --- the pack

    [[nodiscard]] double chargeNow() const {
        return std::max(0.0, 1 - m_dischargedAh / m_at.ampHours);
    }
    [[nodiscard]] double heightOf(double missing, double lag) const {
        return 1 - (missing + lag / m_model.availableFraction) / m_at.ampHours;
    }
    [[nodiscard]] double restVolts(double height) const {
        return m_model.restVolts(std::max(0.0, height));
    }
    /// How missing and lag move in a while, per amp that is stored (linear in it), and by
    /// themselves.
    struct Ahead {
        double hours;
        double fade;   ///< of the lag
        double perAmp; ///< Ah of lag per amp drawn
    };
    [[nodiscard]] Ahead ahead(double hours) const {
        const double c = m_model.availableFraction;
        if (c >= 1)
            return {hours, 0, 0};
        if (m_model.wellRate <= 0)
            return {hours, 1, (1 - c) * hours};
        const double gone = -std::expm1(-m_model.wellRate * hours);
        return {hours, 1 - gone, (1 - c) * gone / m_model.wellRate};
    }
    struct State {
        double missing;
        double lag;
    };
    [[nodiscard]] State after(const Ahead& a, double stored) const {
        return {std::max(0.0, m_dischargedAh - stored * a.hours),
                m_lag * a.fade - stored * a.perAmp};
    }
    [[nodiscard]] double storedOf(double into) const {
        const double self = m_dischargedAh < m_at.ampHours ? m_pack.selfShare() * m_at.ampHours : 0;
        return (into > 0 ? into * m_charger.efficiency() : into) - self;
    }

    // --- the moment

    void look() {
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
    void connect(std::size_t setting) {
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

    /// What flows, with the charger as it stands now.
    struct Flow {
        PanelPoint stand;
        std::optional<NodeInterpolant::Reading> line;
        double taken = 0; ///< by the line
        double dark = 0;  ///< by the charger
        double stored = 0;
        [[nodiscard]] double into() const { return stand.amps - taken - dark; }
    };
    void settle(Flow& f) const {
        f.dark = f.stand.amps > 0 || m_brownedOut ? 0 : m_charger.dark();
        if (m_chart) {
            f.line = m_chart->at(m_node.e + (f.stand.amps - f.dark) * m_node.r);
            f.taken = f.line->amps();
        }
        f.stored = storedOf(f.into());
    }
    [[nodiscard]] Flow flowNow(const PanelCurve& curve) const {
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
    static ChargerDemand least(const ChargerDemand& a, const ChargerDemand& b) {
        return b.amps < a.amps ? b : a;
    }
    [[nodiscard]] ChargerDemand fullAsk() const {
        const double self = m_pack.selfShare() * m_at.ampHours / m_charger.efficiency();
        double amps = self;
        for (int round = 0; round < 2; ++round)
            amps = m_node.taken(amps) + self;
        return {amps, SunLimit::full};
    }

    // --- through time

    void segment(double left, std::size_t setting, const PanelCurve& curve) {
        while (left > kHoursToForgive && !m_done) {
            look();
            connect(setting);
            Flow f = flowNow(curve);
            handleEvents(setting, curve, f);
            const double step = walk(left, curve, f);
            book(step, setting, curve, f);
            left -= step;
        }
    }

    /// Guards that open or reclose and loads that brown out or restart at this moment.
    void handleEvents(std::size_t setting, const PanelCurve& curve, Flow& f) {
        m_quick = false;
        const auto anew = [&] {
            connect(setting);
            f = flowNow(curve);
        };
        if (m_brownedOut && f.stand.amps > 0 && m_height >= m_deadHeight + kRevived) {
            m_brownedOut = false;
            anew();
        }
        const std::size_t rounds = 2 * m_bench.project.stages.size() + 2; // each opens and returns
        for (std::size_t round = 0; round < rounds && !m_brownedOut; ++round) {
            const NodeInterpolant::Point& flags = f.line->flags();
            if (flags.collapsed || m_height <= 0) {
                m_brownedOut = true;
                m_deadHeight = std::max(0.0, m_height);
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

    /// The longest step that this flow holds for, at most `left`.
    double walk(double left, const PanelCurve& curve, Flow& f) {
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
            step = hold(whole, most, curve, f);
        if (f.stored > 0 && m_dischargedAh > kFull * m_at.ampHours)
            step = std::min(step, std::max(m_dischargedAh / f.stored, kEvent));
        while (step > kEvent * (1 + 1e-9) && somethingHappens(f, step))
            step = std::max(kEvent, step / 2);
        return step;
    }

    [[nodiscard]] double voltsAfter(const Flow& f, const Ahead& a, double stored) const {
        const State s = after(a, stored);
        return restVolts(heightOf(s.missing, s.lag)) + f.into() * m_node.r +
               m_node.leg.inside(f.stand.amps);
    }
    /// Would the node be over the set voltage by then?
    [[nodiscard]] bool passes(const Flow& f, double step) const {
        return voltsAfter(f, ahead(step), f.stored) > m_charger.holdsVolts();
    }

    /// The current with which the node just comes to its set voltage at the step's end: implicit,
    /// for the pack's volts follow within minutes. The longest step of up to `whole` hours.
    double hold(double whole, double most, const PanelCurve& curve, Flow& f) {
        const double asked = f.stand.amps;
        const double begins = std::clamp(
            (m_charger.holdsVolts() - m_node.e - m_node.leg.inside(asked)) / m_node.r + f.taken,
            0.0, asked);
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
    /// x of which the node is at the set voltage after `a`, between 0 and `most`.
    [[nodiscard]] double holding(const Ahead& a, double taken, double most) const {
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

    /// Has something changed by then that a step must end at?
    [[nodiscard]] bool somethingHappens(const Flow& f, double step) const {
        const State s = after(ahead(step), f.stored);
        const double height = heightOf(s.missing, s.lag);
        if (m_brownedOut)
            return f.stand.amps > 0 && height >= m_deadHeight + kRevived;
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

    // --- the books

    void book(double step, std::size_t setting, const PanelCurve& curve, const Flow& f) {
        SolarSums now;
        const bool unmet =
            m_brownedOut ? m_bench.charts.needs(setting) : f.line->flags().lossOfLoad;
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
    static void lose(double wattHours, SunLimit limit, SolarSums& sums) {
        switch (limit) {
        case SunLimit::cv:
        case SunLimit::full:
            sums.lostFull += wattHours;
            break;
        case SunLimit::source:
        case SunLimit::night:
            sums.lostOffMpp += wattHours;
            break;
        case SunLimit::cold:
        case SunLimit::hot:
            sums.lostTemperature += wattHours;
            break;
        default:
            sums.lostLimit += wattHours;
        }
    }
    static void add(SolarSums& to, const SolarSums& s) {
        to.panelWh += s.panelWh;
        to.availableWh += s.availableWh;
        to.chargedWh += s.chargedWh;
        to.loadWh += s.loadWh;
        to.lossOfLoadHours += s.lossOfLoadHours;
        to.forbidden += s.forbidden;
        to.full += s.full;
        to.lostFull += s.lostFull;
        to.lostOffMpp += s.lostOffMpp;
        to.lostTemperature += s.lostTemperature;
        to.lostLimit += s.lostLimit;
        to.leastCharge = std::min(to.leastCharge, s.leastCharge);
    }
    void bookLedger(double step, const Flow& f, double volts) {
        SunLedger& l = m_out.ledger;
        const double input = f.stand.inputVolts * f.stand.panelAmps;
        l.feed += (f.stand.panelVolts * f.stand.panelAmps - input) * step;
        l.charger += (input - volts * f.stand.amps) * step;
        l.dark += volts * f.dark * step;
        const double rest = m_model.restVolts(chargeNow());
        const double self = storedOf(0); // negative
        l.selfDischarge -= rest * self * step;
        l.gained += rest * f.stored * step;
        const double line = f.line ? f.line->watts() : 0;
        l.packLoss += (volts * (f.stand.amps - f.dark) - line - rest * (f.stored - self)) * step;
        if (f.line)
            f.line->spend(step);
    }

    void finish() {
        m_out.longestUnmet = m_unmetRun.longest();
        m_out.longestDark = m_darkRun.longest();
        const auto worse = [&](std::size_t a, std::size_t b) {
            const SolarSums& x = m_out.months[a];
            const SolarSums& y = m_out.months[b];
            if (x.lossOfLoadHours != y.lossOfLoadHours)
                return x.lossOfLoadHours > y.lossOfLoadHours;
            if (x.leastCharge != y.leastCharge)
                return x.leastCharge < y.leastCharge;
            return x.panelWh < y.panelWh;
        };
        for (std::size_t month = 1; month < m_out.months.size(); ++month)
            if (worse(month, m_out.worstMonth))
                m_out.worstMonth = month;
        if (!m_ask.details)
            return;
        std::vector<double> stages;
        std::vector<double> loads;
        m_bench.charts.take(stages, loads);
        for (std::size_t i = 0; i < stages.size(); ++i)
            if (m_bench.charts.line().network().reachesStage(i))
                m_out.ledger.stages[m_bench.project.stages[i].id] = stages[i];
        for (std::size_t i = 0; i < loads.size(); ++i)
            if (m_bench.charts.line().network().reachesLoad(i))
                m_out.ledger.loads[m_bench.project.loads[i].id] = loads[i];
    }

    static constexpr std::size_t kNone = static_cast<std::size_t>(-1);

    SolarSimulation::Impl& m_bench;
    const SolarOptions& m_ask;
    PackOverAir m_pack;
    const PackModel& m_model;
    PanelPath m_way;
    PanelCharger m_charger;
    double m_rated; ///< Ah of the whole pack on its label
    SolarYear m_out;

    // What moves.
    double m_dischargedAh = 0; ///< Ah from full, of the whole pack
    double m_lag = 0;          ///< Ah that the first well lacks beyond its share
    double m_hours = 0;
    OpenSet m_open = 0;
    double m_openedAt = -1;
    bool m_brownedOut = false; ///< everything is off
    double m_deadHeight = 0;
    bool m_done = false;

    // The moment.
    double m_air = 25;
    PackAt m_at;
    double m_height = 1;
    SunNode m_node;
    NodeInterpolant* m_chart = nullptr; ///< of `m_node`
    double m_r0 = 0;                    ///< ohms of one cell of the line's own pack
    double m_r1 = 0;
    bool m_stale = true;
    std::size_t m_chartSetting = kNone;
    OpenSet m_chartOpen = 0;
    bool m_forbidden = false;
    bool m_locked = false;
    SunLimit m_lockedBy = SunLimit::cold;
    bool m_quick = false; ///< something is on the edge: a short step
    std::size_t m_ofYear = 0;
    SolarSums* m_month = nullptr;
    double m_unmetHere = 0; ///< h of this hour
    double m_yearUnmet = 0;
    LongestInterval m_unmetRun;
    LongestInterval m_darkRun;
};

} // namespace

double SunLedger::imbalance(double panelWh) const {
    double sum = feed + charger + dark + packLoss + selfDischarge + gained;
    for (const auto& [id, wh] : stages)
        sum += wh;
    for (const auto& [id, wh] : loads)
        sum += wh;
    return panelWh != 0 ? (panelWh - sum) / panelWh : 0;
}

std::optional<SolarYear> SolarSimulation::run(const SolarOptions& ask,
                                              const std::stop_token& stop) {
    return SolarSimulationRun(*m_impl, ask).go(stop);
}

std::optional<double> autonomyHours(SolarSimulation& bench, double most) {
    const SolarOptions ask;
    SolarOptions quick = ask;
    quick.details = false;
    return SolarSimulationRun(bench.impl(), quick).lasts(most);
}

Outcome<SolarYear> sunYear(const Project& project, const Weather& weather,
                           const SolarOptions& ask) {
    auto bench = SolarSimulation::of(project, weather, ask.charger);
    if (!bench)
        return bench.error();
    return *bench.value()->run(ask);
}

} // namespace sipper
