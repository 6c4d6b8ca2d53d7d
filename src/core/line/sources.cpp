// SPDX-License-Identifier: GPL-3.0-or-later
#include "line/sources.hpp"

#include "base/tolerance.hpp"
#include "line/curve.hpp"
#include "line/operating.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kUsualTolerance = 0.05; ///< of a regulated adapter that states none
constexpr int kHoldSteps = 200;          ///< of the search for the voltage a held current leaves
constexpr int kHoldRounds = 60;

SourceModel modelOf(const Adapter& a) {
    SourceModel m;
    m.beyond = a.beyondLimit;
    if (a.set) {
        const double tolerance = a.tolerance.value_or(kUsualTolerance);
        m.volts = a.set->value();
        m.low = m.volts * (1 - tolerance);
        m.high = m.volts * (1 + tolerance);
        m.limit = a.limit ? a.limit->value() : a.ratedCurrent ? a.ratedCurrent->value() : 0;
        return m;
    }
    const double rated = a.rated ? a.rated->value() : 0;
    m.volts = a.noLoad ? a.noLoad->value() : rated * kNoLoadFactor;
    m.high = m.low = m.volts;
    if (a.ratedCurrent && a.ratedCurrent->value() > 0)
        m.ohms = std::max(0.0, (m.volts - rated) / a.ratedCurrent->value());
    m.limit = a.limit ? a.limit->value() : a.ratedCurrent ? a.ratedCurrent->value() : 0;
    return m;
}

SourceModel modelOf(const Pack& pack) {
    SourceModel m;
    const Curve open(pack.cell.openCircuit);
    m.volts = pack.series * open.at(0.5);
    m.low = pack.series * open.at(0);
    m.high = pack.series * open.at(1);
    const double ohms = pack.measuredResistance ? pack.measuredResistance->value()
                        : pack.cell.resistance  ? pack.cell.resistance->value()
                                                : 0;
    m.ohms = pack.series * ohms / pack.parallel + (pack.connection ? pack.connection->value() : 0);
    return m;
}

SourceModel modelOf(const Usb& usb) {
    SourceModel m;
    m.volts = kSocketVolts;
    m.low = kSocketVolts * (1 - kSocketTolerance);
    m.high = kSocketVolts * (1 + kSocketTolerance);
    m.limit = usb.advertises ? usb.advertises->value() : kPlainSocketAmps;
    return m;
}

SourceModel modelOf(const Vehicle&) {
    SourceModel m;
    m.volts = kVehicleVolts;
    m.low = kVehicleLow;
    m.high = kVehicleHigh;
    return m;
}

SourceModel modelOf(const Panel& panel) {
    SourceModel m;
    m.volts = m.low = m.high = orZero(panel.openCircuit) * panel.countSeries.value_or(1);
    m.limit = orZero(panel.shortCircuit) * panel.countParallel.value_or(1);
    return m;
}

} // namespace

SourceModel sourceModel(const Part& part) {
    return std::visit(
        []<class P>(const P& p) -> SourceModel {
            if constexpr (requires { modelOf(p); }) {
                return modelOf(p);
            } else {
                return {};
            }
        },
        part);
}

std::string socketText(const Usb& usb) {
    const double a = usb.advertises ? usb.advertises->value() : kPlainSocketAmps;
    const auto pullUp = [&](const char* ohms, const char* amps) {
        return fmt::format("{} pull-up to 5 V says {}; a sink shows 5.1k to ground on each "
                           "configuration line",
                           ohms, amps);
    };
    if (std::abs(a - 3.0) < 0.05)
        return pullUp("10k", "3 A");
    if (std::abs(a - 1.5) < 0.05)
        return pullUp("22k", "1.5 A");
    if (std::abs(a - 0.9) < 0.05)
        return "0.9 A is the class of a faster data port, given once the device has asked";
    if (std::abs(a - 0.5) < 0.05)
        return pullUp("56k", "0.5 A");
    return "no class of socket says that: 0.5, 0.9, 1.5 or 3 A";
}

std::vector<std::size_t> externalSources(const Project& p) {
    std::vector<std::size_t> list;
    for (std::size_t i = 0; i < p.stages.size(); ++i)
        if (isExternalSource(p.stages[i].part))
            list.push_back(i);
    return list;
}

std::vector<std::size_t> leadingFeeds(const Project& p, const std::vector<std::size_t>& present) {
    const std::size_t n = p.stages.size();
    std::vector<std::size_t> lead(n, kNotFound);
    std::vector<char> live(n, 0);
    for (const std::size_t i : present)
        live[i] = 1;
    // Outwards, as often as the longest way is long: a later look may find an earlier feed live.
    for (std::size_t round = 0; round < n; ++round) {
        bool moved = false;
        for (std::size_t i = 0; i < n; ++i) {
            if (isSource(p.stages[i].part) || isCharger(p.stages[i].part))
                continue;
            for (const std::string& feed : p.stages[i].fedBy) {
                const std::size_t at = stageIndex(p, feed);
                if (at == kNotFound || !live[at])
                    continue;
                moved = moved || lead[i] != at || !live[i];
                lead[i] = at;
                live[i] = 1;
                break; // the first in the list wins
            }
        }
        if (!moved)
            break;
    }
    return lead;
}

SourceLine::SourceLine(const Project& project, std::size_t source,
                       const std::vector<std::size_t>& present, Celsius ambient)
    : m_project(project), m_source(source), m_model(sourceModel(project.stages[source].part)),
      m_network(project, ambient, {}, {source, present}) {}

void SourceLine::darken(Flows& flows, double openCircuit) const {
    flows.stages.assign(m_project.stages.size(), {});
    flows.loads.assign(m_project.loads.size(), {});
    flows.sourceAmps = 0;
    flows.sourceVolts = 0;
    flows.stages[m_source].vIn = openCircuit;
}

/// What the source does when more is asked than its limit.
void SourceLine::limit(Answer& a, const Demand& demand, double openCircuit) const {
    a.limited = true;
    if (!m_model.beyond)
        return; // not said: what is asked for is shown, and that it is too much
    if (*m_model.beyond != BeyondLimit::hold) {
        darken(a.flows, openCircuit);
        return;
    }
    // The highest voltage at which the line takes no more than the limit.
    const auto fits = [&](double v) {
        const double i = m_network.current(demand, v, 0);
        return std::isfinite(i) && !exceeds(i, m_model.limit);
    };
    double high = openCircuit - m_model.ohms * m_model.limit;
    for (int step = 1; step <= kHoldSteps; ++step) {
        double low = (openCircuit - m_model.ohms * m_model.limit) *
                     (1 - static_cast<double>(step) / kHoldSteps);
        if (!fits(low)) {
            high = low;
            continue;
        }
        low = bisect(low, high, kHoldRounds, fits);
        if (low > 0 && m_network.solve(demand, low, 0, a.flows))
            return;
        break;
    }
    darken(a.flows, openCircuit);
}

SourceLine::Answer SourceLine::solve(std::size_t mode, std::size_t burst, double openCircuit,
                                     double seconds) {
    Answer a;
    std::vector<std::size_t> opened;
    for (std::size_t round = 0; round <= m_project.stages.size(); ++round) {
        Demand demand = m_network.demand(mode, burst);
        if (burst != Network::kNoBurst && m_network.hasCapacitors()) {
            Flows plain;
            if (m_network.solve(m_network.demand(mode, Network::kNoBurst), openCircuit,
                                m_model.ohms, plain))
                demand = m_network.assisted(demand, plain, mode, burst, m_model.ohms, false);
        }
        a.collapsed = !m_network.solve(demand, openCircuit, m_model.ohms, a.flows);
        a.limited = false;
        a.asked = a.collapsed ? 0 : a.flows.sourceAmps;
        if (m_model.limit > 0 && (a.collapsed || exceeds(a.asked, m_model.limit))) {
            limit(a, demand, openCircuit);
            if (a.collapsed && !m_model.beyond)
                darken(a.flows, openCircuit);
        } else if (a.collapsed) {
            darken(a.flows, openCircuit);
        }
        const auto& order = m_network.order();
        const auto next = std::find_if(order.begin(), order.end(), [&](std::size_t i) {
            const StageFlow& f = a.flows.stages[i];
            return f.state != StageState::off && opens(m_project.stages[i].part, f, seconds);
        });
        if (next == order.end())
            break;
        m_network.setOpen(*next, true);
        opened.push_back(*next);
    }
    for (const std::size_t i : opened)
        m_network.setOpen(i, false);
    StageFlow& source = a.flows.stages[m_source];
    source.vIn = openCircuit;
    source.vOut = a.flows.sourceVolts;
    source.iIn = source.iOut = a.flows.sourceAmps;
    source.state = a.limited     ? StageState::limiting
                   : a.collapsed ? StageState::off
                                 : StageState::on;
    return a;
}

} // namespace sipper
