// SPDX-License-Identifier: GPL-3.0-or-later
#include "runtime/externalload.hpp"

#include "base/tolerance.hpp"
#include "line/schedule.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <limits>

namespace sipper {
namespace {

class ExternalLoadAnalyser {
  public:
    ExternalLoadAnalyser(const Project& project, std::size_t source) : m_project(project) {
        m_out.source = source;
        std::vector<std::size_t> present{source};
        if (project.pack())
            present.push_back(packIndex(project));
        m_present = present;
        m_out.model = sourceModel(project.stages[source].part);
        m_out.seen.resize(project.stages.size(), project.loads.size());
    }

    ExternalLoad go() {
        // As if it had no limit: a limit is judged by itself.
        Project free = m_project;
        if (auto* adapter = std::get_if<Adapter>(&free.stages[m_out.source].part))
            adapter->beyondLimit.reset();
        SourceLine usual(free, m_out.source, m_present, m_project.brief.air().usual());
        SourceLine warm(free, m_out.source, m_present, m_project.brief.air().warmest());
        const Network& network = usual.network();
        for (std::size_t i = 0; i < m_project.loads.size(); ++i)
            m_out.reachesLoad.push_back(network.reachesLoad(i));
        const Schedule schedule(m_project);
        const std::vector<double> hours = schedule.hoursBySetting();
        for (std::size_t s = 0; s < hours.size(); ++s)
            for (const Share& share : schedule.settings[s].shares) {
                if (hours[s] <= 0 || share.share <= 0)
                    continue;
                bool bursts = false;
                for (std::size_t l = 0; l < m_project.loads.size(); ++l)
                    bursts = bursts || network.hasBurst(share.mode, l);
                for (const double volts : {m_out.model.low, m_out.model.volts, m_out.model.high}) {
                    const bool typical = volts == m_out.model.volts;
                    look(usual, share.mode, Network::kNoBurst, volts, share.seconds,
                         typical ? hours[s] * share.share / 24 : 0);
                    if (bursts)
                        look(usual, share.mode, Network::kAllBursts, volts, share.seconds, 0);
                }
                heat(warm, share);
            }
        return std::move(m_out);
    }

  private:
    void look(SourceLine& line, std::size_t mode, std::size_t burst, double volts, double seconds,
              double dayShare) {
        const bool inBurst = burst != Network::kNoBurst;
        const SourceLine::Answer a = line.solve(mode, burst, volts, seconds);
        if (a.collapsed) {
            m_out.collapses = true;
            m_out.tripMode = mode;
            m_out.tripsInBurst = inBurst;
            return;
        }
        OperatingSweep& s = m_out.seen;
        const Flows& f = a.flows;
        if (volts == m_out.model.volts) {
            if (!m_out.worst.valid || f.sourceAmps > m_out.worst.value) {
                m_out.worst = {f.sourceAmps, 1, mode, inBurst, true};
                m_out.worstWatts = f.sourceAmps * f.sourceVolts;
            }
            m_out.meanWatts += f.sourceAmps * f.sourceVolts * dayShare;
        }
        if (m_out.model.limit > 0 && exceeds(f.sourceAmps, m_out.model.limit) && !m_out.trips) {
            m_out.trips = true;
            m_out.tripMode = mode;
            m_out.tripsInBurst = inBurst;
        }
        s.stageIn[m_out.source].include(f.sourceVolts);
        s.stageOut[m_out.source].include(f.sourceVolts);
        s.take(m_project, line.network(), f, {1, mode, inBurst}, OperatingSweep::Keep::least);
    }

    /// Heat of a mode that lasts: in the warmest air, at either end of the band.
    void heat(SourceLine& line, const Share& share) {
        for (const double volts : {m_out.model.low, m_out.model.high}) {
            const SourceLine::Answer a =
                line.solve(share.mode, Network::kNoBurst, volts, share.seconds);
            if (a.collapsed)
                continue;
            double watts = 0;
            for (const std::size_t i : line.network().order()) {
                const double loss = a.flows.stages[i].loss();
                watts += loss;
                const double c = partTemperature(m_project.stages[i].part, loss,
                                                 m_project.brief.air().warmest().value());
                if (c > m_out.hottestC || m_out.hottestC == 0) {
                    m_out.hottest = i;
                    m_out.hottestC = c;
                }
            }
            m_out.heatWatts = std::max(m_out.heatWatts, watts);
        }
    }

    const Project& m_project;
    std::vector<std::size_t> m_present;
    ExternalLoad m_out;
};

} // namespace

std::vector<ExternalLoad> externalLoadsOf(const Project& project) {
    std::vector<ExternalLoad> list;
    for (const std::size_t source : externalSources(project))
        list.push_back(ExternalLoadAnalyser(project, source).go());
    return list;
}

} // namespace sipper
