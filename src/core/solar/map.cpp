// SPDX-License-Identifier: GPL-3.0-or-later
#include "solar/map.hpp"

#include "parts/chemistry.hpp"
#include "solar/simulation.hpp"

#include <algorithm>
#include <cmath>
#include <mutex>

namespace sipper {
namespace {

constexpr std::array<std::size_t, 4> kStrides{8, 4, 2, 1};
constexpr double kAgreeHours = 1.5;  ///< between neighbours: what lies between is read, not run
constexpr double kAgreeShare = 0.01; ///< or this share of them

using Place = std::pair<std::size_t, std::size_t>; ///< panel, pack

class Mapper {
  public:
    Mapper(const Project& project, const Weather& weather, const std::string& charger,
           const SizingMapOptions& ask, const SunMapHeard& heard, const std::stop_token& stop)
        : m_project(project), m_weather(weather), m_charger(charger), m_ask(ask), m_heard(heard),
          m_stop(stop), m_map(std::make_unique<SizingMap>()) {
        m_map->years = ask.years;
    }

    Outcome<std::unique_ptr<SizingMap>> go(const ParallelFor& parallelFor) {
        auto first = SolarSimulation::of(m_project, m_weather, m_charger);
        if (!first)
            return first.error();
        label(first.value()->impl());
        m_free.push_back(std::move(first).value());
        for (const std::size_t stride : kStrides) {
            fill(parallelFor, stride);
            if (m_stop.stop_requested())
                return std::unique_ptr<SizingMap>();
        }
        for (const std::size_t years : m_ask.lines) {
            line(parallelFor, years);
            if (m_stop.stop_requested())
                return std::unique_ptr<SizingMap>();
        }
        m_map->share = 1;
        return std::move(m_map);
    }

  private:
    void label(const SolarSimulation::Impl& b) {
        const double watts = labelWatts(std::get<Panel>(b.project.stages[b.panelAt].part));
        const double wattHours = labelWattHours(b.pack);
        for (std::size_t k = 0; k < SizingMap::kSide; ++k) {
            m_map->panelW[k] = watts * SizingMap::scaleOf(k);
            m_map->packWh[k] = wattHours * SizingMap::scaleOf(k);
        }
    }

    /// A bench for one piece of work; charts that one run has made serve the next.
    class Lent {
      public:
        explicit Lent(Mapper& of) : m_of(of), m_bench(of.lend()) {}
        Lent(const Lent&) = delete;
        Lent& operator=(const Lent&) = delete;
        ~Lent() {
            const std::lock_guard lock(m_of.m_guard);
            m_of.m_free.push_back(std::move(m_bench));
        }
        SolarSimulation& operator*() { return *m_bench; }

      private:
        Mapper& m_of;
        std::unique_ptr<SolarSimulation> m_bench;
    };
    std::unique_ptr<SolarSimulation> lend() {
        {
            const std::lock_guard lock(m_guard);
            if (!m_free.empty()) {
                auto bench = std::move(m_free.back());
                m_free.pop_back();
                return bench;
            }
        }
        return std::move(SolarSimulation::of(m_project, m_weather, m_charger))
            .value(); // as the first
    }

    [[nodiscard]] std::optional<SolarYear> run(Place at, std::size_t years, bool untilUnmet) {
        Lent bench(*this);
        SolarOptions ask;
        ask.years = years;
        ask.panelScale = SizingMap::scaleOf(at.first);
        ask.packScale = SizingMap::scaleOf(at.second);
        ask.details = false;
        ask.untilUnmet = untilUnmet;
        return (*bench).run(ask, m_stop);
    }

    /// Every field of this stride: decided by what is there already, or run.
    void fill(const ParallelFor& parallelFor, std::size_t stride) {
        std::vector<Place> open;
        for (std::size_t panel = 0; panel < SizingMap::kSide; panel += stride)
            for (std::size_t pack = 0; pack < SizingMap::kSide; pack += stride)
                if (!m_map->at(panel, pack).known)
                    open.emplace_back(panel, pack);
        // The last row and column close the coarse grids, so that fields lie between two.
        if (stride > 1) {
            const std::size_t end = SizingMap::kSide - 1;
            for (std::size_t k = 0; k < SizingMap::kSide; k += stride) {
                open.emplace_back(end, k);
                open.emplace_back(k, end);
            }
            open.emplace_back(end, end);
        }
        parallelFor(open.size(), [&](std::size_t i) { decide(open[i], stride); });
    }

    void decide(Place at, std::size_t stride) {
        if (m_stop.stop_requested())
            return;
        {
            const std::lock_guard lock(m_guard);
            if (m_map->at(at.first, at.second).known)
                return;
            if (const auto known = byNeighbours(at, stride)) {
                put(at, *known, false);
                return;
            }
        }
        const auto year = run(at, m_ask.years, false);
        if (!year)
            return;
        const std::lock_guard lock(m_guard);
        put(at, year->all.lossOfLoadHours, true);
    }

    void put(Place at, double unmet, bool solved) {
        SizingMap::Field& field = m_map->at(at.first, at.second);
        field = {unmet, true, solved};
        ++m_count;
        m_map->share = 0.7 * static_cast<double>(m_count) /
                       static_cast<double>(SizingMap::kSide * SizingMap::kSide);
        if (m_heard && solved)
            m_heard(*m_map);
    }

    /// Nothing missed with less of both: nothing missed here. Else what lies between the nearest
    /// known ones on both sides, along panels or along packs, where those nearly agree.
    [[nodiscard]] std::optional<double> byNeighbours(Place at, std::size_t stride) const {
        for (std::size_t panel = 0; panel <= at.first; ++panel)
            for (std::size_t pack = 0; pack <= at.second; ++pack) {
                const SizingMap::Field& f = m_map->at(panel, pack);
                if (f.known && f.solved && f.lossOfLoadHours == 0)
                    return 0;
            }
        if (stride > 2)
            return std::nullopt; // too far apart to be read between
        const auto between = [&](bool alongPanels) -> std::optional<double> {
            const auto known = [&](std::size_t k) -> const SizingMap::Field* {
                const SizingMap::Field& f =
                    alongPanels ? m_map->at(k, at.second) : m_map->at(at.first, k);
                return f.known && f.solved ? &f : nullptr;
            };
            const std::size_t here = alongPanels ? at.first : at.second;
            if (here < stride || here + stride >= SizingMap::kSide)
                return std::nullopt;
            const SizingMap::Field* below = known(here - stride);
            const SizingMap::Field* above = known(here + stride);
            if (!below || !above)
                return std::nullopt;
            const double apart = std::abs(below->lossOfLoadHours - above->lossOfLoadHours);
            if (below->lossOfLoadHours == 0 || above->lossOfLoadHours == 0 ||
                apart > std::max(kAgreeHours, kAgreeShare * std::min(below->lossOfLoadHours,
                                                                     above->lossOfLoadHours)))
                return std::nullopt;
            return (below->lossOfLoadHours + above->lossOfLoadHours) / 2;
        };
        const auto one = between(true);
        const auto two = between(false);
        return one ? one : two;
    }

    /// With more panel the least pack is no larger, with more years no smaller: what is known of
    /// both bounds it from two sides. Two halves of the panels run in parallel.
    void line(const ParallelFor& parallelFor, std::size_t years) {
        auto& line = m_map->least[years];
        const auto fewer = m_map->least.find(m_before);
        const auto* under = m_before > 0 && m_before < years ? &fewer->second : nullptr;
        parallelFor(2, [&](std::size_t half) {
            const std::size_t from = half * SizingMap::kSide / 2;
            std::size_t pack = SizingMap::kSide; // what is known to miss nothing; the side: none is
            for (std::size_t panel = from; panel < from + SizingMap::kSide / 2; ++panel) {
                if (m_stop.stop_requested())
                    return;
                std::size_t low = !under            ? 0
                                  : (*under)[panel] ? *(*under)[panel]
                                                    : SizingMap::kSide;
                while (low < pack) {
                    const std::size_t middle = (low + pack) / 2;
                    if (missesNothing({panel, middle}, years))
                        pack = middle;
                    else
                        low = middle + 1;
                }
                const std::lock_guard lock(m_guard);
                if (pack < SizingMap::kSide)
                    line[panel] = pack;
                m_map->share = std::min(0.99, m_map->share + 0.3 / (3.0 * SizingMap::kSide));
                if (m_heard)
                    m_heard(*m_map);
            }
        });
        m_before = years;
    }
    [[nodiscard]] bool missesNothing(Place at, std::size_t years) {
        {
            const std::lock_guard lock(m_guard);
            const SizingMap::Field& f = m_map->at(at.first, at.second);
            if (f.known && f.solved && years == m_map->years)
                return f.lossOfLoadHours == 0;
            // What is missed in the first year is missed in ten.
            if (f.known && f.solved && f.lossOfLoadHours > 0 && years > m_map->years)
                return false;
        }
        const auto year = run(at, years, true);
        return year && !year->firstLossOfLoad;
    }

    const Project& m_project;
    const Weather& m_weather;
    std::string m_charger;
    SizingMapOptions m_ask;
    const SunMapHeard& m_heard;
    std::stop_token m_stop;
    std::unique_ptr<SizingMap> m_map;
    std::mutex m_guard;
    std::vector<std::unique_ptr<SolarSimulation>> m_free;
    std::size_t m_count = 0;
    std::size_t m_before = 0; ///< years of the line before this one
};

} // namespace

double SizingMap::scaleOf(std::size_t k) {
    return std::exp2((static_cast<double>(k) - static_cast<double>(kOwn)) / kPerDoubling);
}

Outcome<std::unique_ptr<SizingMap>>
sunMapOf(const Project& project, const Weather& weather, const std::string& charger,
         const SizingMapOptions& ask, const ParallelFor& parallelFor, const SunMapHeard& heard,
         const std::stop_token& stop) {
    return Mapper(project, weather, charger, ask, heard, stop).go(parallelFor);
}

} // namespace sipper
