// SPDX-License-Identifier: GPL-3.0-or-later
// The line at one moment: every mode of a stretch solved against the pack's state.
#pragma once

#include "line/network.hpp"
#include "line/packmodel.hpp"
#include "line/schedule.hpp"

namespace sipper {

/// What varies when a project is looked at under other conditions.
struct Conditions {
    Celsius ambient{25};
    PackScale pack;
    LineScale line;
    std::optional<double> health;
    std::optional<double> charge;
    std::vector<std::string> pluggedIn;  ///< ids of the sources that are there besides the pack
    double irradiance = 0;               ///< W/m2 on every panel; 0: night
    std::optional<Celsius> panelAmbient; ///< around the panels; nothing: the ambient
};

/// The conditions that a headline is made for: the brief's typical ambient.
[[nodiscard]] Conditions typicalConditions(const Project& project);

/// One mode of a stretch, solved.
struct ModeSolution {
    std::size_t mode = 0;
    double share = 0;
    double seconds = 0;
    bool fills = false;
    Flows steady;
    bool hasBurst = false;
    double burstSeconds = 0; ///< the longest
    Flows burst;             ///< all bursts of the mode falling together
    struct Single {
        double share;
        std::size_t load; ///< kNoBurst: the rest of the time, in which capacitors come back
        Flows flows;
    };
    std::vector<Single> singles; ///< each burst by itself with its share of the mode, for energy
    double meanAmps = 0;         ///< pack current with bursts' energy included
};

/// A stretch at one pack state. On a collapse only `collapsedMode` counts.
struct LineSolution {
    bool collapsed = false;
    std::size_t collapsedMode = 0;
    bool inBurst = false;
    std::size_t setting = static_cast<std::size_t>(-1); ///< what the buffers were last filled for
    double openCircuit = 0;                             ///< pack volts S E(h)
    double meanAmps = 0;
    std::vector<ModeSolution> modes;
};

/// A project ready to be solved under given conditions. The pack must exist.
class Line {
  public:
    Line(const Project& project, const Conditions& conditions);

    [[nodiscard]] const PackModel& pack() const { return m_pack; }
    [[nodiscard]] const Network& network() const { return m_network; }
    [[nodiscard]] const Schedule& schedule() const { return m_schedule; }
    [[nodiscard]] std::size_t packIndex() const { return m_packIndex; }

    /// Solves every mode of a setting at a pack state; the mean current of the stretch is the
    /// common fixed point of its modes, found from below. `guess` (amps of the pack, 0 for none)
    /// may name a mean current known to lie below, to save rounds. Reuses the buffers of `moment`.
    void solve(std::size_t setting, const Wells& wells, LineSolution& moment,
               double guess = 0) const;

    /// The same for a pack whose cells stand at `cellVolts` with these ohms of one cell, whatever
    /// its wells hold: what pushes into its node from elsewhere may be in the volts.
    void solveAtNodeVolts(std::size_t setting, double cellVolts, double r0, double r1,
                          LineSolution& moment, double guess = 0) const;

    /// From here on bursts count in the mean current alone: none is kept by itself, so that
    /// energies are not those of the day. Where many loads burst this is most of the work.
    void leaveOutEnergies() { m_energies = false; }

    /// How closely the mean current of a stretch is found, and the current of every fork, relative:
    /// a coarse run may ask for less.
    void setTolerance(double ofMean, double ofForks) {
        m_meanTolerance = ofMean;
        m_network.setTolerance(ofForks);
    }

    /// Does anything draw at all, in any mode?
    [[nodiscard]] bool drawsAnything() const;

    /// The same line with stages held open (a guard after its cut-off, a part under its minimum).
    void setOpen(std::size_t stage, bool open);

  private:
    struct Case {
        Demand demand;
        double share = 0;
        std::size_t load = 0;
    };
    struct ModeCases {
        Share share;
        double rcSettling = 1; ///< g = 1 - exp(-d/tau)
        Case plain;
        bool hasBurst = false;
        double burstSeconds = 0;
        Case burst;
        std::vector<Case> singles;
    };
    struct PackView {
        double e;  ///< volts of one cell at rest
        double r0; ///< ohms of one cell
        double r1;
        double mean; ///< amps of one cell over the stretch
    };
    void prepare();
    /// Mean pack current of one mode; NaN on a collapse.
    double modeMean(const ModeCases& m, const PackView& v, const ModeSolution* before) const;
    /// The mode that a collapse is put down to: the mean current is followed from nothing up, mode
    /// by mode in file order, until one has no answer.
    [[nodiscard]] std::size_t collapsingMode(const std::vector<ModeCases>& cases,
                                             PackView view) const;
    [[nodiscard]] std::pair<double, double> source(const ModeCases& m, const PackView& v) const;
    [[nodiscard]] std::pair<double, double> burstSource(const ModeCases& m, const PackView& v,
                                                        double plainAmps) const;
    void finishFlows(Flows& flows, double openCircuit) const;
    enum class Solved { whole, collapses, collapsesInBurst };
    [[nodiscard]] std::optional<double> dayMean(const std::vector<ModeCases>& cases, PackView view,
                                                const LineSolution* before, double guess) const;
    [[nodiscard]] Solved solveWithCapacitors(const ModeCases& m, const PackView& view,
                                             double openCircuit, bool windows,
                                             ModeSolution& mode) const;
    [[nodiscard]] Solved solveMode(const ModeCases& m, const PackView& view, double openCircuit,
                                   bool warm, ModeSolution& mode) const;

    PackModel m_pack;
    Network m_network;
    Schedule m_schedule;
    std::size_t m_packIndex;
    bool m_energies = true;
    double m_meanTolerance = 1e-10;
    std::vector<std::vector<ModeCases>> m_settings;
};

} // namespace sipper
