// SPDX-License-Identifier: GPL-3.0-or-later
// The steps by which a drawn supply line gets its places; linelayout.hpp asks for all of them.
#pragma once

#include "views/supplyline/linelayout.hpp"

#include "parts/kinds.hpp"
#include "project/project.hpp"

#include <cstddef>
#include <vector>

namespace sipper::app {

class Layouter {
  public:
    Layouter(const Project& p, const Results& r, const OperatingPoint& m, const QSizeF& size,
             double scale)
        : m_project(p), m_results(r), m_moment(m), m_size(size), m_scale(scale) {}

    LineLayout run(const VoltAxis* frozen);

  private:
    [[nodiscard]] double px(double n) const { return n * m_scale; }
    /// What occurs at a stage's output, or at a load, on the cells and on every other source.
    [[nodiscard]] VoltageRange outBand(std::size_t i) const;
    [[nodiscard]] VoltageRange loadBand(std::size_t i) const {
        return merged([i](const OperatingSweep& s) { return s.loads[i]; });
    }
    template <class Of>
    [[nodiscard]] VoltageRange merged(Of of) const {
        VoltageRange all;
        const auto take = [&](const VoltageRange& b) {
            if (!b.valid)
                return;
            all.include(b.low);
            all.include(b.high);
        };
        if (m_results.sweep)
            take(of(*m_results.sweep));
        for (const ExternalLoad& t : m_results.externalLoads)
            take(of(t.seen));
        return all;
    }
    [[nodiscard]] bool collapsed() const {
        return m_moment.collapse || m_moment.flows.stages.empty();
    }

    /// Height by which siblings are ordered; does not move with the charge.
    [[nodiscard]] double restVolts(std::size_t stage) const;
    /// Volts at the copper line now.
    [[nodiscard]] double nowVolts(std::size_t stage) const;

    void tree();
    /// Does a charger of the pack `i` end at stage `at`: itself, or the last on its leg?
    [[nodiscard]] bool charges(std::size_t at, std::size_t i) const;
    /// Chargers, and what feeds nothing but them.
    void markCharging();
    /// Where several feeds meet: behind the furthest of them, on the wire of the one that leads.
    void meet();

    /// A pack stands behind the furthest of its chargers.
    void meetChargers(std::size_t pack);

    void axis(const VoltAxis* frozen);

    void columns();
    [[nodiscard]] double columnX(std::size_t column) const {
        return (m_lefts[column] + m_lefts[column + 1]) / 2;
    }
    [[nodiscard]] double columnWidth(std::size_t column) const {
        return m_lefts[column + 1] - m_lefts[column];
    }
    [[nodiscard]] static bool isPill(const Part& part) {
        return !std::holds_alternative<Pack>(part) && !std::holds_alternative<Guard>(part) &&
               !isRegulator(part) && !isCharger(part) && !isSource(part);
    }

    void place();
    /// From the copper to the middle of the area: a pill's label stands above it.
    [[nodiscard]] double areaOffset(std::size_t i) const {
        const StagePlace& s = m_out.stages[i];
        return s.shape == Shape::pill ? -px(s.compact ? 6 : 11) : 0;
    }
    /// Too many for the column: one line of label at the pills, then whatever makes them fit.
    void squeeze(const std::vector<std::size_t>& here, std::vector<double>& heights);
    /// From the highest to the lowest of bracket, present voltage and what is missing, unshifted.
    [[nodiscard]] std::pair<double, double> reach(std::size_t i) const;
    [[nodiscard]] double loadVolts(std::size_t i) const;

    void shape(std::size_t i);
    void put(std::size_t i, double y, double shift);
    /// Puts a load's row at `centre`; what is taller than its row is drawn smaller, in proportion.
    void putLoad(std::size_t i, double centre, double wanted, double height);

    void bands();

    const Project& m_project;
    const Results& m_results;
    const OperatingPoint& m_moment;
    QSizeF m_size;
    double m_scale;
    LineLayout m_out;
    std::vector<std::size_t> m_order;
    std::vector<std::size_t> m_loadOrder;
    std::size_t m_columns = 1;
    std::vector<double> m_lefts; ///< of the columns, and the right end of the last
};

} // namespace sipper::app
