// SPDX-License-Identifier: GPL-3.0-or-later
// A network made of a project, and what its loads ask for in a mode.
#include "line/network.hpp"

#include "base/tolerance.hpp"
#include "line/fixedpoint.hpp"
#include "line/sources.hpp"
#include "line/tree.hpp"
#include "parts/figures.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <array>
#include <cmath>

namespace sipper {
namespace {

Network::Root packRoot(const Project& project) {
    const std::size_t at = packIndex(project);
    return at == kNotFound ? Network::Root{kNotFound, {}} : Network::Root{at, {at}};
}

} // namespace

Network::Network(const Project& project, Celsius ambient, const LineScale& scale)
    : Network(project, ambient, scale, packRoot(project)) {}

Network::Network(const Project& project, Celsius ambient, const LineScale& scale, const Root& root)
    : m_loadCount(project.loads.size()), m_loadReached(project.loads.size()) {
    m_nodes.reserve(project.stages.size());
    for (std::size_t i = 0; i < project.stages.size(); ++i)
        m_nodes.emplace_back(
            physicsOf(project.stages[i].part, ambient, scale.losses.empty() ? 1 : scale.losses[i]));
    if (root.source >= project.stages.size())
        return;
    m_pack = root.source;
    const std::vector<std::size_t> lead = leadingFeeds(project, root.present);
    std::vector<std::size_t> front{m_pack};
    m_nodes[m_pack].reached = true;
    m_root.place = m_pack;
    while (!front.empty()) {
        std::vector<std::size_t> next;
        for (const std::size_t at : front) {
            Children& children = at == m_pack ? m_root : m_nodes[at].children;
            for (std::size_t i = 0; i < project.stages.size(); ++i) {
                if (lead[i] != at || m_nodes[i].reached)
                    continue;
                m_nodes[i].reached = true;
                m_nodes[i].parent = at;
                m_nodes[i].children.shunt = m_nodes[i].outShunt;
                m_nodes[i].children.place = i;
                children.stages.push_back(static_cast<std::uint32_t>(i));
                m_order.push_back(i);
                next.push_back(i);
            }
            for (std::size_t i = 0; i < project.loads.size(); ++i)
                if (project.loads[i].fedBy == project.stages[at].id) {
                    m_loadReached[i] = true;
                    children.loads.push_back(static_cast<std::uint32_t>(i));
                }
        }
        front = std::move(next);
    }
    findReservoirs(project);
    const std::string& baseId =
        project.modes.empty() ? std::string() : project.modes[project.baseMode()].id;
    // A string's volts are its own where the last regulator before it holds a current.
    std::vector<std::size_t> feeder(m_loadCount, kNotFound);
    for (std::size_t i = 0; i < m_nodes.size(); ++i)
        for (const std::uint32_t load : m_nodes[i].children.loads)
            feeder[load] = i;
    const auto onDriver = [&](std::size_t load) {
        for (std::size_t at = feeder[load]; at != kNotFound && at != m_pack;
             at = m_nodes[at].parent) {
            if (m_nodes[at].setAmps > 0)
                return true;
            if (m_nodes[at].kind != TransferKind::series &&
                m_nodes[at].kind != TransferKind::fuse && m_nodes[at].kind != TransferKind::guard)
                return false;
        }
        return false;
    };
    for (const Mode& mode : project.modes) {
        std::vector<ModeDraw> draws(m_loadCount);
        for (std::size_t i = 0; i < m_loadCount; ++i) {
            const Draw* found = nullptr;
            for (const Draw& d : project.loads[i].draws)
                if (d.mode == mode.id || (!found && d.mode == baseId))
                    found = &d;
            if (!found)
                continue;
            const double factor = scale.draws.empty() ? 1 : scale.draws[i];
            ModeDraw& out = draws[i];
            if (found->current)
                out.draw = {Demand::Kind::current, found->current->value() * factor};
            else if (found->power)
                out.draw = {Demand::Kind::power, found->power->value() * factor};
            else if (found->led && onDriver(i)) {
                out.draw = {Demand::Kind::string, found->led->value() * factor,
                            orZero(found->ledVolts)};
            } else if (found->led) {
                const double from = orZero(found->ledVolts);
                const double nominal = project.loads[i].window.middle().value();
                out.draw = {Demand::Kind::light, found->led->value() * factor / (nominal - from),
                            from};
            } else
                out.draw = {Demand::Kind::resistance, found->resistance->value() / factor};
            if (found->hasBurst()) {
                out.bursts = true;
                out.burst = found->burst ? Demand::Draw{Demand::Kind::current,
                                                        found->burst->value() * factor}
                                         : Demand::Draw{Demand::Kind::resistance,
                                                        found->burstOhms->value() / factor};
                out.burstSeconds = found->burstTime->value();
                out.burstsPerSecond = found->burstsPerSecond ? found->burstsPerSecond->value() : 0;
            }
        }
        m_draws.push_back(std::move(draws));
    }
    countForks(m_root);
}

bool Network::hasBurst(std::size_t mode, std::size_t load) const {
    return m_loadReached[load] && m_draws[mode][load].bursts;
}
double Network::burstSeconds(std::size_t mode, std::size_t load) const {
    return m_draws[mode][load].burstSeconds;
}
double Network::burstShare(std::size_t mode, std::size_t load) const {
    return m_draws[mode][load].burstSeconds * m_draws[mode][load].burstsPerSecond;
}

Demand Network::idle() const {
    Demand d;
    d.draws.resize(m_loadCount);
    for (std::size_t i = 0; i < m_loadCount && !m_draws.empty(); ++i)
        if (m_draws[0][i].draw.kind == Demand::Kind::string)
            d.draws[i] = {Demand::Kind::string, 0, m_draws[0][i].draw.from};
    prepare(d);
    return d;
}

Demand Network::demand(std::size_t mode, std::size_t burst) const {
    Demand d;
    d.draws.reserve(m_loadCount);
    for (std::size_t i = 0; i < m_loadCount; ++i) {
        const ModeDraw& draw = m_draws[mode][i];
        const bool bursting = draw.bursts && (burst == kAllBursts || burst == i);
        d.draws.push_back(bursting ? draw.burst : draw.draw);
    }
    prepare(d);
    return d;
}

int Network::countForks(Children& c) {
    int behind = 0;
    for (const std::uint32_t i : c.stages)
        behind = std::max(behind, countForks(m_nodes[i].children));
    const auto bends = [&](std::uint32_t load) { // constant currents only shift the voltage
        return std::any_of(m_draws.begin(), m_draws.end(), [&](const auto& draws) {
            const ModeDraw& d = draws[load];
            return d.draw.kind != Demand::Kind::current ||
                   (d.bursts && d.burst.kind != Demand::Kind::current);
        });
    };
    const auto loads = std::count_if(c.loads.begin(), c.loads.end(), bends);
    c.forks = behind + (c.stages.size() + static_cast<std::size_t>(loads) > 1 ? 1 : 0);
    return c.forks;
}

void Network::sumUp(const Children& c, Demand& d) const {
    if (c.loads.size() >= kManyLoads) {
        d.together.resize(m_nodes.size());
        Demand::Together& all = d.together[c.place];
        all = {};
        for (const std::uint32_t i : c.loads)
            switch (const Demand::Draw& draw = d.draws[i]; draw.kind) {
            case Demand::Kind::current:
                all.amps += draw.value;
                break;
            case Demand::Kind::power:
                all.watts += draw.value;
                break;
            case Demand::Kind::resistance:
                all.siemens += 1 / draw.value;
                break;
            case Demand::Kind::light:
                all.lights.push_back(i);
                break;
            case Demand::Kind::string:
                break;
            }
    }
    for (const std::uint32_t i : c.stages)
        sumUp(m_nodes[i].children, d);
}

void Network::prepare(Demand& d) const {
    sumUp(m_root, d);
    d.atSetPoint.assign(m_nodes.size(), 0);
    for (auto at = m_order.rbegin(); at != m_order.rend(); ++at) {
        const Node& n = m_nodes[*at];
        if (n.setAmps > 0) {
            d.drives.resize(m_nodes.size());
            d.drives[*at] = driveOf(n, d);
        } else if (n.set > 0)
            d.atSetPoint[*at] = demandAt(n.children, d, n.set);
    }
}

} // namespace sipper
