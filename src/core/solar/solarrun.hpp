// SPDX-License-Identifier: GPL-3.0-or-later
// One run of a solar supply through hours of weather: the state, and what moves it.
#pragma once

#include "parts/figures.hpp"
#include "solar/simulation.hpp"

#include <algorithm>

namespace sipper {

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

    std::optional<SolarYear> run(const std::stop_token& stop);

    /// In the dark at typical air, from full, to the first unmet moment: hours; nothing after
    /// `most`.
    std::optional<double> lasts(double most);

  private:
    static PanelPath scaled(PanelPath way, double scale) {
        way.parallel *= scale;
        return way;
    }

    void begin();
    void closeYear(std::size_t number);

    /// The pack at the hour's air.
    void warm();

    void hour(std::size_t at);

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
    [[nodiscard]] Ahead ahead(double hours) const;
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

    void updateNode();
    void connect(std::size_t setting);

    /// What flows, with the charger as it stands now.
    struct Flow {
        PanelPoint stand;
        std::optional<NodeInterpolant::Reading> line;
        double taken = 0; ///< by the line
        double dark = 0;  ///< by the charger
        double stored = 0;
        [[nodiscard]] double into() const { return stand.amps - taken - dark; }
    };
    void settle(Flow& f) const;
    [[nodiscard]] Flow flowNow(const PanelCurve& curve) const;
    static ChargerDemand least(const ChargerDemand& a, const ChargerDemand& b) {
        return b.amps < a.amps ? b : a;
    }
    [[nodiscard]] ChargerDemand fullAsk() const;

    // --- through time

    void segment(double left, std::size_t setting, const PanelCurve& curve);

    /// Guards that open or reclose and loads that brown out or restart at this moment.
    void handleEvents(std::size_t setting, const PanelCurve& curve, Flow& f);

    /// The longest step that this flow holds for, at most `left`.
    double stepSize(double left, const PanelCurve& curve, Flow& f);

    [[nodiscard]] double voltsAfter(const Flow& f, const Ahead& a, double stored) const;
    /// Would the node be over the set voltage by then?
    [[nodiscard]] bool passes(const Flow& f, double step) const {
        return voltsAfter(f, ahead(step), f.stored) > m_charger.holdsVolts();
    }

    /// The current with which the node just comes to its set voltage at the step's end: implicit,
    /// for the pack's volts follow within minutes. The longest step of up to `whole` hours.
    double cvStep(double whole, double most, const PanelCurve& curve, Flow& f);
    /// x of which the node is at the set voltage after `a`, between 0 and `most`.
    [[nodiscard]] double holding(const Ahead& a, double taken, double most) const;

    /// Has something changed by then that a step must end at?
    [[nodiscard]] bool somethingHappens(const Flow& f, double step) const;

    // --- the books

    void book(double step, std::size_t setting, const PanelCurve& curve, const Flow& f);
    static void lose(double wattHours, SunLimit limit, SolarSums& sums);
    static void add(SolarSums& to, const SolarSums& s);
    void bookLedger(double step, const Flow& f, double volts);

    void finish();

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
    double m_unpoweredHeight = 0;
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

} // namespace sipper
