// SPDX-License-Identifier: GPL-3.0-or-later
#include "line/line.hpp"

#include "line/fixedpoint.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>

namespace sipper {

namespace {
constexpr int kAtLimitRounds = 40;      ///< of a regulator at its limit and its input's volts
constexpr double kLimitSettled = 1e-11; ///< of the current, where both agree
constexpr int kBlameRounds = 400;       ///< of the mean current, where it creeps towards a collapse
} // namespace

namespace {

/// What a capacitor's node falls under the set-point of the regulator at its limit before it, the
/// whole way between falls with it: the regulator's output too, whose loss that is.
void sinkAtLimit(const Network& network, const Demand& d, Flows& flows) {
    for (std::size_t i = 0; i < d.assists.size(); ++i) {
        const double lower = d.assists[i].fixed ? d.assists[i].extra : 0;
        if (lower == 0)
            continue;
        flows.stages[i].vIn -= lower;
        std::size_t at = network.feederOf(i);
        for (; flows.stages[at].state == StageState::on; at = network.feederOf(at)) {
            flows.stages[at].vIn -= lower;
            flows.stages[at].vOut -= lower;
        }
        flows.stages[at].vOut -= lower;
    }
}

} // namespace

Conditions typicalConditions(const Project& project) {
    Conditions c;
    c.ambient = project.brief.air().usual();
    return c;
}

namespace {

Pack packUnder(const Project& project, const Conditions& c) {
    assert(project.pack());
    Pack pack = *project.pack();
    if (c.health)
        pack.health = c.health;
    if (c.charge)
        pack.charge = c.charge;
    return pack;
}

Network::Root rootUnder(const Project& project, const Conditions& c) {
    const std::size_t pack = packIndex(project);
    Network::Root root{pack, {pack}};
    for (const std::string& id : c.pluggedIn)
        if (const std::size_t at = stageIndex(project, id); at != kNotFound)
            root.present.push_back(at);
    return root;
}

} // namespace

Line::Line(const Project& project, const Conditions& c)
    : m_pack(packUnder(project, c), c.ambient, c.pack),
      m_network(project, c.ambient, c.line, rootUnder(project, c)), m_schedule(project),
      m_packIndex(sipper::packIndex(project)) {
    prepare();
}

void Line::setOpen(std::size_t stage, bool open) {
    m_network.setOpen(stage, open);
    prepare();
}

void Line::prepare() {
    m_settings.clear();
    for (const ModeMix& setting : m_schedule.settings) {
        std::vector<ModeCases> cases;
        for (const Share& share : setting.shares) {
            ModeCases m;
            m.share = share;
            m.rcSettling =
                share.fills || m_pack.tau <= 0 ? 1 : -std::expm1(-share.seconds / m_pack.tau);
            if (share.fills && std::isfinite(share.seconds) && m_pack.tau > 0)
                m.rcSettling = -std::expm1(-share.seconds / m_pack.tau);
            m.plain.demand = m_network.demand(share.mode, Network::kNoBurst);
            for (std::size_t load = 0; load < m_network.loadCount(); ++load) {
                if (!m_network.hasBurst(share.mode, load))
                    continue;
                m.hasBurst = true;
                m.burstSeconds = std::max(m.burstSeconds, m_network.burstSeconds(share.mode, load));
                const double part = m_network.burstShare(share.mode, load);
                if (part > 0)
                    m.singles.push_back({m_network.demand(share.mode, load), part, load});
            }
            if (m.hasBurst)
                m.burst.demand = m_network.demand(share.mode, Network::kAllBursts);
            cases.push_back(std::move(m));
        }
        m_settings.push_back(std::move(cases));
    }
}

bool Line::drawsAnything() const {
    for (const auto& setting : m_settings)
        for (const ModeCases& m : setting) {
            if (m.share.share <= 0)
                continue;
            const double volts = m_pack.restVolts(1);
            const double amps = m_network.current(m.plain.demand, volts, 0);
            if (!(amps == 0))
                return true;
            if (m.hasBurst && !(m_network.current(m.burst.demand, volts, 0) == 0))
                return true;
        }
    return false;
}

/// (docs/model.md: Solving the line): V = E(h) - i_m (R0 + R1 g) - i_mean R1 (1 - g), as a source E
/// - R i.
std::pair<double, double> Line::source(const ModeCases& m, const PackView& v) const {
    const double s = m_pack.series;
    return {s * (v.e - v.mean * v.r1 * (1 - m.rcSettling)),
            s / m_pack.parallel * (v.r0 + v.r1 * m.rcSettling) + m_pack.connection};
}

/// In a burst through R0 only: V = E - i_burst R0 - R1 (g i_m + (1 - g) i_mean).
std::pair<double, double> Line::burstSource(const ModeCases& m, const PackView& v,
                                            double plainAmps) const {
    const double s = m_pack.series;
    const double slow = m.rcSettling * plainAmps / m_pack.parallel + (1 - m.rcSettling) * v.mean;
    return {s * (v.e - v.r1 * slow), s / m_pack.parallel * v.r0 + m_pack.connection};
}

double Line::modeMean(const ModeCases& m, const PackView& v, const ModeSolution* before) const {
    const auto [e, r] = source(m, v);
    const double plain =
        m_network.current(m.plain.demand, e, r, before ? before->steady.sourceAmps : 0);
    double mean = plain;
    if (m.singles.empty() || !std::isfinite(plain))
        return mean;
    if (m_network.hasCapacitors()) {
        ModeSolution helped;
        if (!m_network.solve(m.plain.demand, e, r, helped.steady))
            return std::nan("");
        return solveWithCapacitors(m, v, 0, false, helped) == Solved::whole ? helped.meanAmps
                                                                            : std::nan("");
    }
    const auto [eb, rb] = burstSource(m, v, plain);
    for (std::size_t k = 0; k < m.singles.size(); ++k) {
        const double hint =
            before && k < before->singles.size() ? before->singles[k].flows.sourceAmps : plain;
        mean += m.singles[k].share * (m_network.current(m.singles[k].demand, eb, rb, hint) - plain);
    }
    return mean;
}

std::size_t Line::collapsingMode(const std::vector<ModeCases>& cases, PackView view) const {
    view.mean = 0;
    for (int round = 0; round < kBlameRounds; ++round) {
        double sum = 0;
        for (std::size_t i = 0; i < cases.size(); ++i) {
            if (cases[i].share.share <= 0)
                continue;
            const double amps = modeMean(cases[i], view, nullptr);
            if (!std::isfinite(amps))
                return i;
            sum += cases[i].share.share * amps;
        }
        view.mean = sum / m_pack.parallel;
    }
    const auto greatest =
        std::max_element(cases.begin(), cases.end(), [&](const ModeCases& a, const ModeCases& b) {
            return modeMean(a, view, nullptr) < modeMean(b, view, nullptr);
        });
    return static_cast<std::size_t>(greatest - cases.begin());
}

void Line::finishFlows(Flows& flows, double openCircuit) const {
    StageFlow& pack = flows.stages[m_packIndex];
    pack.vIn = openCircuit;
    pack.vOut = flows.sourceVolts;
    pack.iIn = pack.iOut = flows.sourceAmps;
    pack.state = StageState::on;
}

/// The mean current of the stretch, as the smallest common fixed point of its modes; modes that
/// fill the stretch do not depend on it. `before`: the moment that is a little above, or null.
std::optional<double> Line::dayMean(const std::vector<ModeCases>& cases, PackView view,
                                    const LineSolution* before, double guess) const {
    const auto dependsOnMean = [&](const ModeCases& m) { return m.rcSettling < 1 && view.r1 > 0; };
    const auto sumOf = [&](double mean, bool dependent) {
        PackView at = view;
        at.mean = mean / m_pack.parallel;
        double sum = 0;
        for (std::size_t i = 0; i < cases.size(); ++i) {
            if (cases[i].share.share <= 0 || dependsOnMean(cases[i]) != dependent)
                continue;
            const double amps = modeMean(cases[i], at, before ? &before->modes[i] : nullptr);
            if (!std::isfinite(amps))
                return amps;
            sum += cases[i].share.share * amps;
        }
        return sum;
    };
    const double steady = sumOf(0, false);
    if (!std::isfinite(steady))
        return std::nullopt;
    if (std::none_of(cases.begin(), cases.end(), dependsOnMean))
        return steady;
    const double most = m_pack.series * view.e /
                        (m_pack.connection + 1e-12 + m_pack.series * view.r0 / m_pack.parallel);
    return smallestFixedPoint([&](double mean) { return steady + sumOf(mean, true); }, guess, most,
                              m_meanTolerance);
}

/// A mode whose bursts capacitors help in, `mode.plain` solved: the burst, each burst by itself,
/// and the rest of the time, in which what was given comes back, as one more of them.
Line::Solved Line::solveWithCapacitors(const ModeCases& m, const PackView& view, double openCircuit,
                                       bool windows, ModeSolution& mode) const {
    const std::pair<double, double> bursting = burstSource(m, view, mode.steady.sourceAmps);
    const double ohms = m_pack.series / m_pack.parallel * view.r0 + m_pack.connection;
    const auto solveBurst = [&](const Demand& demand, std::size_t which, bool energy,
                                Flows& flows) {
        Demand d = m_network.assisted(demand, mode.steady, m.share.mode, which, ohms, energy);
        using At = Network::AtLimit;
        // Without its limit it may ask for more than there is.
        const bool solved = m_network.solve(d, bursting.first, bursting.second, flows);
        if (!solved)
            flows = mode.steady;
        // At its limit a regulator takes less of its input than it was asked for, whose volts then
        // stand higher, and so does the limit: until both agree.
        double before = flows.sourceAmps;
        At at = solved ? At::ask : At::assume;
        for (int round = 0; round < kAtLimitRounds; ++round) {
            if (!m_network.limitAssisted(d, mode.steady, flows, m.share.mode, which, ohms, at)) {
                if (!solved && round == 0)
                    return false;
                break;
            }
            if (!m_network.solve(d, bursting.first, bursting.second, flows))
                return false;
            if (std::abs(flows.sourceAmps - before) <= kLimitSettled * flows.sourceAmps)
                break;
            before = flows.sourceAmps;
            at = At::held;
        }
        sinkAtLimit(m_network, d, flows);
        finishFlows(flows, openCircuit);
        return true;
    };
    if (windows && !solveBurst(m.burst.demand, Network::kAllBursts, false, mode.burst))
        return Solved::collapsesInBurst;
    mode.meanAmps = mode.steady.sourceAmps;
    mode.singles.resize(m.singles.size());
    std::vector<double> given;
    double busy = 0;
    for (std::size_t k = 0; k < m.singles.size(); ++k) {
        ModeSolution::Single& single = mode.singles[k];
        single.share = m.singles[k].share;
        single.load = m.singles[k].load;
        if (!solveBurst(m.singles[k].demand, single.load, true, single.flows))
            return Solved::collapsesInBurst;
        m_network.addGiven(single.flows, single.share, given);
        busy += single.share;
    }
    if (!given.empty() && busy < 1) {
        for (double& amps : given)
            amps /= 1 - busy;
        ModeSolution::Single rest;
        rest.share = 1 - busy;
        rest.load = Network::kNoBurst;
        const auto [es, rs] = source(m, view);
        if (!m_network.solve(m_network.refilling(m.plain.demand, given), es, rs, rest.flows))
            return mode.share > 0 ? Solved::collapses : Solved::whole;
        finishFlows(rest.flows, openCircuit);
        mode.singles.push_back(std::move(rest));
    }
    for (const ModeSolution::Single& single : mode.singles)
        mode.meanAmps += single.share * (single.flows.sourceAmps - mode.steady.sourceAmps);
    return Solved::whole;
}

/// `warm`: the buffers hold the moment before.
Line::Solved Line::solveMode(const ModeCases& m, const PackView& view, double openCircuit,
                             bool warm, ModeSolution& mode) const {
    const auto solveCase = [&](const Case& one, std::pair<double, double> source, Flows& flows) {
        if (!m_network.solve(one.demand, source.first, source.second, flows,
                             warm ? flows.sourceAmps : 0))
            return false;
        finishFlows(flows, openCircuit);
        return true;
    };
    mode.mode = m.share.mode;
    mode.share = m.share.share;
    mode.seconds = m.share.seconds;
    mode.fills = m.share.fills;
    mode.hasBurst = m.hasBurst;
    mode.burstSeconds = m.burstSeconds;
    if (!solveCase(m.plain, source(m, view), mode.steady))
        return mode.share > 0 ? Solved::collapses : Solved::whole; // else it never comes about
    mode.meanAmps = mode.steady.sourceAmps;
    mode.singles.resize(m.singles.size());
    if (!m.hasBurst)
        return Solved::whole;
    if (m_network.hasCapacitors())
        return solveWithCapacitors(m, view, openCircuit, true, mode);
    const auto bursting = burstSource(m, view, mode.steady.sourceAmps);
    if (!solveCase(m.burst, bursting, mode.burst))
        return Solved::collapsesInBurst;
    if (!m_energies) {
        mode.singles.clear();
        for (const Case& one : m.singles) {
            const double amps = m_network.current(one.demand, bursting.first, bursting.second,
                                                  mode.steady.sourceAmps);
            if (!std::isfinite(amps))
                return Solved::collapsesInBurst;
            mode.meanAmps += one.share * (amps - mode.steady.sourceAmps);
        }
        return Solved::whole;
    }
    for (std::size_t k = 0; k < m.singles.size(); ++k) {
        ModeSolution::Single& single = mode.singles[k];
        single.share = m.singles[k].share;
        single.load = m.singles[k].load;
        if (!solveCase(m.singles[k], bursting, single.flows))
            return Solved::collapsesInBurst;
        mode.meanAmps += single.share * (single.flows.sourceAmps - mode.steady.sourceAmps);
    }
    return Solved::whole;
}

void Line::solve(std::size_t setting, const Wells& wells, LineSolution& out, double guess) const {
    const double height = m_pack.height(wells);
    solveAtNodeVolts(setting, m_pack.openCircuitAt(height), m_pack.resistanceAt(height),
                     m_pack.relaxation, out, guess);
}

void Line::solveAtNodeVolts(std::size_t setting, double cellVolts, double r0, double r1,
                            LineSolution& out, double guess) const {
    const std::vector<ModeCases>& cases = m_settings[setting];
    PackView view{cellVolts, r0, r1, 0};
    // What the buffers hold from the last time is a little below the answer while the pack sinks.
    const bool warm = out.setting == setting && !out.collapsed;
    out.setting = setting;
    out.collapsed = false;
    out.inBurst = false;
    out.openCircuit = m_pack.series * view.e;
    out.modes.resize(cases.size());
    const auto collapse = [&](std::size_t mode, bool burst) {
        out.collapsed = true;
        out.collapsedMode = cases[mode].share.mode;
        out.inBurst = burst;
    };
    const auto mean = dayMean(cases, view, warm ? &out : nullptr, guess);
    if (!mean)
        return collapse(collapsingMode(cases, view), false);
    out.meanAmps = *mean;
    view.mean = *mean / m_pack.parallel;
    for (std::size_t i = 0; i < cases.size(); ++i) {
        const Solved solved = solveMode(cases[i], view, out.openCircuit, warm, out.modes[i]);
        if (solved != Solved::whole)
            return collapse(i, solved == Solved::collapsesInBurst);
    }
}

} // namespace sipper
