// SPDX-License-Identifier: GPL-3.0-or-later
#include "charge/charge.hpp"

#include "charge/context.hpp"

#include "base/tolerance.hpp"
#include "line/operating.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kLongest = 60 * 24; ///< h; no charge is followed further (docs/model.md: Charging)
constexpr std::size_t kMostSteps = 100'000; ///< nor in more steps
constexpr double kHoldStep = 20.0 / 3600;   ///< h, at the set voltage (docs/model.md: Charging)
constexpr double kHoldShare = 0.05;         ///< by which the current may move in a step there
constexpr double kMostlyFull = 0.8;
constexpr double kTrapShown = 1;   ///< h of a charge that stays in recovery, to be seen
constexpr double kTrickle = 2e-3;  ///< of the capacity per hour: so little that it has settled
constexpr double kHoldHours = 24;  ///< at the set voltage in the short steps
constexpr double kHoldLong = 0.01; ///< of the hours at the set voltage: a longer step there
constexpr double kFullFrom = 0.97; ///< charge under which nothing is called full
constexpr double kLike = 1e-4;     ///< of the charge: two states no further apart are like
constexpr int kMostCycles = 60;    ///< that are followed while each gains a little
constexpr double kMoment = 1e-3;   ///< h in which a device that comes and goes was on
constexpr double kGains = 1e-3;    ///< of what the charger gives: less into the pack is nothing

constexpr std::array<std::string_view, 10> kNevers{
    "not_rechargeable", "too_cold", "wrong_topology",    "input_too_high", "source_too_weak",
    "recovery_trap",    "end_trap", "device_takes_more", "too_slow",       "ends_early"};

/// One charge on the stepper.
class ChargeSimulation {
  public:
    ChargeSimulation(ChargeContext& bench, const ChargeOptions& ask) : m_bench(bench), m_ask(ask) {
        m_out.charger = bench.project.stages[bench.charger].id;
        m_out.source = bench.project.stages[bench.source].id;
        m_out.pack = bench.project.stages[bench.packAt].id;
        if (bench.panel)
            m_out.light = bench.panel->light;
        m_out.mode = bench.mode;
        m_out.from = ask.from;
        if (bench.part.timer)
            m_until = bench.part.timer->value();
        m_recovering = bench.settings.recoveryBelow > 0 && bench.settings.recoveryCurrent > 0;
        m_out.peakPart = bench.ambient.value();
        m_out.endAmps = bench.settings.endCurrent;
        m_out.setAmps = bench.settings.current;
        m_budget.steps = kMostSteps;
        m_budget.stop = ask.stop;
        if (ask.off)
            bench.node.switchOff();
    }

    ChargeRun go() {
        if (const auto never = refusal(m_bench)) {
            m_out.failure = never;
            return std::move(m_out);
        }
        Integration driver;
        driver.amps = [&](const PackState& state, double) -> std::optional<double> {
            askAt(state);
            return -m_now.node.packAmps;
        };
        driver.regime = [&] {
            return (static_cast<int>(m_now.limit) * 2 + (wouldSwitch() ? 1 : 0)) * 64 +
                   static_cast<int>(std::min<std::size_t>(m_now.node.under(), 63));
        };
        driver.event = [&](const PackState& state, double since, double) {
            return over(state, m_base + since);
        };
        driver.record = [&](double hours, const PackState& state, double, double) {
            record(hours, state);
        };
        driver.acceptance = m_bench.settings.efficiency;
        StepControl rule;
        rule.maxChargeStep *= m_ask.stepShare;
        rule.voltsPerCell *= m_ask.stepShare;
        // At the set voltage the current moves while the voltage does not: short steps there.
        PackState state{m_bench.model.level(m_ask.from), 0};
        double hours = 0;
        for (const bool holding : {false, true}) {
            m_untilHeld = !holding;
            m_base = hours;
            driver.until = holding ? std::min(m_until - hours, kHoldHours) : m_until - hours;
            driver.ampsShare = holding ? kHoldShare * m_ask.stepShare : 0;
            driver.longest = holding ? kHoldStep * m_ask.stepShare : 0;
            driver.budget = m_budget;
            DriveResult driven = integrate(m_bench.model, state, driver, rule);
            hours += driven.hours;
            m_budget.steps -= std::min(m_budget.steps, driven.steps);
            // What is held for long moves little: its steps grow with the hours held.
            for (double held = driven.hours; holding && driven.end == IntegrationEnd::time &&
                                             hours < m_until && !m_ask.stop.stop_requested();
                 held += driven.hours) {
                m_base = hours;
                driver.longest = std::max(driver.longest, kHoldLong * held);
                driver.until = std::min(m_until - hours, std::max(kHoldHours, held));
                driver.budget = m_budget;
                driven = integrate(m_bench.model, driven.state, driver, rule);
                hours += driven.hours;
                m_budget.steps -= std::min(m_budget.steps, driven.steps);
            }
            state = driven.state;
            if (driven.end == IntegrationEnd::event && m_untilHeld && !m_done)
                continue;
            finish(driven.end, hours);
            break;
        }
        return std::move(m_out);
    }

  private:
    [[nodiscard]] TheveninSource inside(const PackState& state) const {
        return m_bench.model.source(state);
    }
    [[nodiscard]] bool wouldSwitch() const {
        return m_bench.node.wouldSwitch(m_now.node,
                                        {m_now.chargerAmps, m_inside.volts, m_inside.ohms});
    }
    [[nodiscard]] ChargerPoint momentAt(const PackState& state) const {
        const auto [e, r] = inside(state);
        return m_bench.limits.at(e, r, m_recovering);
    }
    /// `m_now` of this state; what was asked last is not worked out again.
    void askAt(const PackState& state) {
        const auto same = [&] {
            return m_asked && m_asked->wells.available == state.wells.available &&
                   m_asked->wells.bound == state.wells.bound && m_asked->rcVolts == state.rcVolts;
        };
        if (same())
            return;
        m_inside = inside(state);
        m_now = momentAt(state);
        m_asked = state;
    }
    [[nodiscard]] bool holds() const { return m_now.limit == ChargeLimit::cv; }

    /// Is it over, or at least something new, with `m_now` of this state?
    bool over(const PackState& state, double hours) {
        m_done = true;
        if (m_now.starved || m_cycled)
            return true;
        if (trapped() && !m_trappedAt)
            m_trappedAt = hours;
        if (m_trappedAt && hours >= *m_trappedAt + kTrapShown)
            return true;
        if (holds() && !endless() && m_now.chargerAmps <= m_bench.settings.endCurrent)
            return true;
        const double ampHours = m_bench.model.usable * m_bench.model.parallel;
        const bool topped = m_now.node.packAmps < kTrickle * ampHours &&
                            m_bench.model.charge(state.wells) > kMostlyFull;
        if (topped && (endless() || (holds() && !sipper::endsByCurrent(m_bench.part))))
            return true;
        m_done = false;
        return m_untilHeld && holds();
    }
    /// In recovery, with nothing left for the pack.
    [[nodiscard]] bool trapped() const {
        return m_now.limit == ChargeLimit::recovery &&
               m_now.node.loadAmps >= m_bench.settings.recoveryCurrent * (1 - kRelTol);
    }
    /// At the set voltage, with the load taking the end current or more.
    [[nodiscard]] bool endless() const {
        return holds() && sipper::endsByCurrent(m_bench.part) &&
               !isSupercapacitor(m_bench.pack.cell) &&
               m_now.node.loadAmps >= m_bench.settings.endCurrent * (1 - kRelTol);
    }

    void record(double sinceDrive, const PackState& state) {
        const double hours = m_base + sinceDrive;
        askAt(state);
        const auto [e, r] = inside(state);
        ChargePoint p;
        p.hours = hours;
        p.charge = m_bench.model.charge(state.wells);
        p.packVolts = m_now.node.volts;
        p.packAmps = m_now.node.packAmps;
        p.inputAmps = m_now.inputAmps;
        p.inputVolts = m_now.feed.volts;
        p.loss = m_now.loss;
        p.openCircuit = e;
        p.ohms = r;
        p.recovering = m_recovering;
        if (m_out.phases.empty() || m_out.phases.back().limit != m_now.limit) {
            if (!m_out.phases.empty())
                m_out.phases.back().to = hours;
            m_out.phases.push_back({hours, std::nullopt, m_now.limit});
        }
        reach80(p);
        if (m_out.curve.empty())
            m_wasOn = connected();
        sum(hours);
        book(p, state);
        m_out.peakLoss = std::max(m_out.peakLoss, p.loss);
        m_out.curve.push_back(p);
        if (m_recovering && m_now.limit != ChargeLimit::recovery) {
            m_recovering = false; // left for good
            m_asked.reset();
        }
        if (m_bench.node.switchAt(m_now.node, {m_now.chargerAmps, e, r})) {
            m_asked.reset();
            askAt(state);
        }
        watchCycle(p);
    }

    /// Amp-hours at the node since the start, and the hours in which the device was on.
    struct Sums {
        double hours = 0;
        double onHours = 0;
        double given = 0;
        double givenOn = 0;
        double taken = 0;
        Sums operator-(const Sums& o) const {
            return {hours - o.hours, onHours - o.onHours, given - o.given, givenOn - o.givenOn,
                    taken - o.taken};
        }
    };
    [[nodiscard]] bool connected() const {
        return !m_bench.node.heldOpen() && m_now.node.under() == 0;
    }
    /// A device that comes back at a charge no higher than the last time goes round for ever.
    void watchCycle(const ChargePoint& p) {
        const bool on = connected();
        if (on && !m_wasOn && m_switched) {
            if (m_cycles++ > 0 && m_recovering == m_cycleRecovering) {
                m_cycle = m_sums - m_cycleSums;
                // While it is off the pack gains anyway: what counts is when it is on.
                const bool gains = m_onAmps && *m_onAmps < *m_onGives * (1 - kGains);
                m_cycled = (p.charge <= m_cycleCharge + kLike && !gains) || m_cycles > kMostCycles;
            }
            m_cycleSums = m_sums;
            m_cycleCharge = p.charge;
            m_cycleRecovering = m_recovering;
        }
        m_switched = m_switched || on != m_wasOn;
        m_wasOn = on;
    }
    void sum(double hours) {
        if (connected()) {
            m_onAmps = m_now.node.loadAmps;
            m_onGives = m_now.chargerAmps;
        }
        const double dt = hours - m_sums.hours;
        m_sums.hours = hours;
        m_sums.onHours += m_wasOn ? dt : 0;
        m_sums.given += m_now.chargerAmps * dt;
        m_sums.givenOn += m_wasOn ? m_now.chargerAmps * dt : 0;
        m_sums.taken += m_now.node.loadAmps * dt;
    }
    void reach80(const ChargePoint& p) {
        if (m_out.hoursTo80 || p.charge < kMostlyFull)
            return;
        if (m_out.curve.empty() || p.charge <= m_out.curve.back().charge) {
            m_out.hoursTo80 = p.hours;
            return;
        }
        const ChargePoint& last = m_out.curve.back();
        m_out.hoursTo80 = last.hours + (p.hours - last.hours) * (kMostlyFull - last.charge) /
                                           (p.charge - last.charge);
    }

    /// Watts of everything now, and their hours since the last point by the trapezoid rule.
    void book(const ChargePoint& p, const PackState& state) {
        const PackModel& m = m_bench.model;
        ChargeLedger now;
        now.input = m_now.feed.sourceVolts * m_now.feed.sourceAmps;
        now.charger = m_now.loss;
        const double rest = m.restVolts(m.height(state.wells));
        const double kept = p.packAmps > 0 ? m_bench.settings.efficiency : 1;
        now.stored = rest * p.packAmps * kept;
        now.packHeat = p.packVolts * p.packAmps - now.stored;
        if (m_ask.ledger)
            shares(now);
        if (!m_out.curve.empty())
            add(m_before, now, p.hours - m_out.curve.back().hours);
        m_before = std::move(now);
    }
    void shares(ChargeLedger& now) {
        const Project& way = m_bench.feed.project();
        if (m_bench.feed.flowsAt(m_now.inputAmps, m_flows)) {
            for (const std::size_t i : m_bench.feed.network().order())
                now.stages[way.stages[i].id] += m_flows.stages[i].loss();
            for (std::size_t i = 0; i + 1 < way.loads.size(); ++i)
                if (m_bench.feed.network().reachesLoad(i))
                    now.loads[way.loads[i].id] += m_flows.loads[i].v * m_flows.loads[i].i;
        }
        const double amps = m_now.chargerAmps;
        for (const Stage* s : chargeLeg(m_bench.project, m_out.charger))
            now.stages[s->id] += legPartOf(*s, m_bench.ambient).volts(amps) * amps;
        const Project& all = m_bench.project;
        if (!m_bench.node.flowsAt(m_now.node, m_flows))
            return;
        for (const std::size_t i : m_bench.node.network().order())
            now.stages[all.stages[i].id] += m_flows.stages[i].loss();
        for (std::size_t i = 0; i < all.loads.size(); ++i)
            if (m_bench.node.network().reachesLoad(i))
                now.loads[all.loads[i].id] += m_flows.loads[i].v * m_flows.loads[i].i;
    }
    void add(const ChargeLedger& a, const ChargeLedger& b, double hours) {
        ChargeLedger& out = m_out.ledger;
        const auto mean = [&](double x, double y) { return (x + y) / 2 * hours; };
        out.input += mean(a.input, b.input);
        out.charger += mean(a.charger, b.charger);
        out.packHeat += mean(a.packHeat, b.packHeat);
        out.stored += mean(a.stored, b.stored);
        for (const auto& [of, list] :
             {std::pair{&a.stages, &out.stages}, std::pair{&b.stages, &out.stages},
              std::pair{&a.loads, &out.loads}, std::pair{&b.loads, &out.loads}})
            for (const auto& [id, watts] : *of)
                (*list)[id] += watts / 2 * hours;
    }

    void finish(IntegrationEnd end, double hours) {
        m_out.inputWh = m_out.ledger.input;
        m_out.storedWh = m_out.ledger.stored;
        m_out.peakPart =
            m_bench.ambient.value() + m_bench.limits.converter().theta * m_out.peakLoss;
        m_out.afterAmps = std::max(0.0, m_now.node.packAmps);
        const Sums& over = m_cycled && m_cycle.hours > 0 ? m_cycle : m_sums;
        m_out.givesAmps = m_cycled && over.onHours > kMoment ? over.givenOn / over.onHours
                          : m_cycled && m_onGives            ? *m_onGives
                          : over.hours > 0                   ? over.given / over.hours
                                                             : m_now.chargerAmps;
        // A device that is on for moments only is told by what it takes in one of them.
        m_out.takesAmps = over.onHours > kMoment ? over.taken / over.onHours
                          : m_onAmps             ? *m_onAmps
                                                 : m_now.node.loadAmps;
        m_out.failure = whyNever(end, over);
        if (m_out.failure || m_out.cutShort)
            return;
        const double charge = m_out.curve.empty() ? 0 : m_out.curve.back().charge;
        m_out.endsAtCharge = charge;
        m_out.endsAtHours = hours;
        if (!m_out.phases.empty())
            m_out.phases.back().to = hours;
        if (charge < kFullFrom)
            m_out.failure = ChargeFailure::endsEarly;
        else
            m_out.hoursToFull = hours;
    }
    [[nodiscard]] std::optional<ChargeFailure> whyNever(IntegrationEnd end, const Sums& over) {
        const bool timed = end == IntegrationEnd::time && m_bench.part.timer &&
                           m_sums.hours < kLongest * (1 - kRelTol);
        if (m_now.starved)
            return ChargeFailure::sourceTooWeak;
        if (m_trappedAt)
            return ChargeFailure::recoveryTrap;
        if (endless()) // at their fullest, or never begun
            return m_now.node.packAmps < 0 && m_out.storedWh < 0 ? ChargeFailure::deviceTakesMore
                                                                 : ChargeFailure::endTrap;
        if (!m_cycled && (timed || end == IntegrationEnd::full || end == IntegrationEnd::event))
            return std::nullopt;
        m_out.cutShort = end == IntegrationEnd::stepLimit && m_ask.stop.stop_requested();
        if (m_out.cutShort)
            return std::nullopt;
        const bool weak =
            m_now.limit == ChargeLimit::source || m_now.limit == ChargeLimit::inputLimit;
        if (weak && !m_bench.panel && over.taken <= 0)
            return ChargeFailure::sourceTooWeak;
        const bool gains = !m_cycled && end != IntegrationEnd::empty &&
                           end != IntegrationEnd::noAnswer &&
                           m_now.node.packAmps > kGains * m_now.chargerAmps;
        const bool cycleGains =
            m_cycled && over.given - over.taken > kGains * over.given && m_cycles > kMostCycles;
        return gains || cycleGains ? ChargeFailure::tooSlow : ChargeFailure::deviceTakesMore;
    }

    ChargeContext& m_bench;
    const ChargeOptions& m_ask;
    ChargeRun m_out;
    ChargerPoint m_now;
    std::optional<PackState> m_asked; ///< the state of `m_now`
    TheveninSource m_inside{0, 0};    ///< of that state
    ChargeLedger m_before;
    Flows m_flows;
    double m_until = kLongest;
    double m_base = 0;
    std::optional<double> m_trappedAt; ///< hours
    WorkBudget m_budget;
    Sums m_sums;
    Sums m_cycleSums;                ///< when the device last came back
    Sums m_cycle;                    ///< of one full cycle
    std::optional<double> m_onAmps;  ///< what the device took when it was last on
    std::optional<double> m_onGives; ///< and the charger gave
    double m_cycleCharge = 0;
    int m_cycles = 0;
    bool m_cycleRecovering = false;
    bool m_cycled = false; ///< it goes round and gets nowhere
    bool m_switched = false;
    bool m_wasOn = true;
    bool m_recovering = false;
    bool m_untilHeld = true;
    bool m_done = false;
};

} // namespace

std::string_view failureName(ChargeFailure never) {
    return kNevers.at(static_cast<std::size_t>(never));
}

double ChargeLedger::imbalance() const {
    double sum = charger + packHeat + stored;
    for (const auto& [id, wh] : stages)
        sum += wh;
    for (const auto& [id, wh] : loads)
        sum += wh;
    return input != 0 ? (input - sum) / input : 0;
}

double ChargeRun::hoursLimitedBy(ChargeLimit limit) const {
    double hours = 0;
    for (const ChargePhase& phase : phases)
        if (phase.limit == limit && phase.to)
            hours += *phase.to - phase.from;
    return hours;
}

std::optional<ChargeLimit> ChargeRun::bindingLimit() const {
    std::optional<ChargeLimit> longest;
    double most = 0;
    for (const ChargePhase& phase : phases) {
        if (phase.limit == ChargeLimit::cv)
            continue; // every charge tapers at its set voltage
        const double hours = hoursLimitedBy(phase.limit);
        if (!phase.to || hours > most) {
            most = hours;
            longest = phase.limit;
        }
    }
    return longest ? longest : phases.empty() ? std::nullopt : std::optional(phases.back().limit);
}

Outcome<ChargeRun> chargeOf(const Project& project, const ChargeOptions& ask) {
    auto bench = chargeContextOf(project, ask);
    if (!bench)
        return bench.error();
    ChargeRun charge = ChargeSimulation(*bench.value(), ask).go();
    if (!ask.besideOff || ask.off)
        return charge;
    if (!charge.failure && bench.value()->node.loadAt(bench.value()->restVolts(ask.from)) == 0 &&
        !bench.value()->node.heldOpen()) {
        charge.offHoursToFull = charge.hoursToFull; // nothing hangs on it
        return charge;
    }
    ChargeOptions off = ask;
    off.off = true;
    off.ledger = false;
    if (auto without = chargeContextOf(project, off))
        charge.offHoursToFull = ChargeSimulation(*without.value(), off).go().hoursToFull;
    return charge;
}

} // namespace sipper
