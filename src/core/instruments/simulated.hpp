// SPDX-License-Identifier: GPL-3.0-or-later
// A simulated bench: an electronic load on the source or behind a stage, and a bench supply in the
// source's place, on a clock of its own (docs/model.md: Bench: simulated instruments). The source
// is the pack; of a project without one the first that can be plugged in.
#pragma once

#include "base/outcome.hpp"
#include "line/line.hpp"
#include "line/sources.hpp"
#include "measure/plantedfault.hpp"

#include <memory>

namespace sipper {

enum class LoadFunction { current, power, resistance };
enum class SupplyMode { off, voltage, current };

struct SimulatedOptions {
    double charge = 1;
    Celsius ambient{20};
    std::string at; ///< id of the stage that the load hangs on; empty: the source
    std::vector<PlantedFault> faults;
};

/// Where the meter's probe is: at a stage's output or input or on a load, with the project in one
/// of its modes; or doing a whole check of the bench, as somebody careful does it.
struct ProbePlace {
    std::string at;
    bool input = false;
    PointQuantity quantity = PointQuantity::vOut; ///< vOut, iOut or partC
    std::size_t mode = 0;
    std::optional<CheckKind> check;
    bool operator==(const ProbePlace&) const = default;
};

/// What the electronic load is set to, and what it counts.
struct LoadState {
    LoadFunction function = LoadFunction::current;
    double current = 0;
    double power = 0;
    double resistance = 1e4;
    double cutoff = 0; ///< V; 0: none
    bool on = false;
    bool tripped = false;
    double ah = 0;
    double wh = 0;
    double seconds = 0; ///< on
};

struct SupplyState {
    double volts = 0;
    double limit = 1;
    bool on = false;
    std::size_t mode = 0; ///< of the project
};

/// Volts and amps at a pair of terminals.
struct Terminals {
    double volts = 0;
    double amps = 0;
};

class SimulatedBench {
  public:
    /// Errors: "no_source", "dangling_id" where the stage is not behind it.
    [[nodiscard]] static Outcome<std::unique_ptr<SimulatedBench>> make(const Project& project,
                                                                       const SimulatedOptions& ask);

    [[nodiscard]] const Project& project() const { return m_project; }
    LoadState load;
    SupplyState supply;

    [[nodiscard]] double clock() const { return m_clock; } ///< s
    /// On by so many seconds: steps of 10 s at most, 1 s with the load on.
    void advance(double seconds);
    /// On or off; on clears the trip.
    void switchLoad(bool on);
    void clearCounters();

    /// What the probe shows, in V, A or degrees Celsius; 0 where nothing is, or on a collapse.
    [[nodiscard]] double probed(const ProbePlace& place, PointQuantity quantity) const;
    /// The project as it was given, without its faults.
    [[nodiscard]] const Project& asDrawn() const { return m_drawn; }

    [[nodiscard]] Terminals atLoad();
    [[nodiscard]] Terminals atSupply();
    [[nodiscard]] SupplyMode supplyMode();
    /// Of the pack, 0 to 1; 1 without one.
    [[nodiscard]] double charge() const { return m_model ? m_model->charge(m_wells) : 1; }
    /// Id of what feeds the line.
    [[nodiscard]] const std::string& source() const { return m_source; }

  private:
    SimulatedBench(const Project& project, std::string source, const SimulatedOptions& ask);
    /// What flows at the load with its present setting; nothing where it can't be held.
    struct Point {
        Terminals load;
        double sourceAmps = 0;
    };
    [[nodiscard]] std::optional<Point> solveLoad(bool on);
    [[nodiscard]] std::optional<Point> solveAtSource(bool on) const;
    [[nodiscard]] std::optional<Point> solveBehind(bool on);
    [[nodiscard]] std::optional<Point> solveBehindPack(const Project& tested);
    [[nodiscard]] std::optional<Point> solveBehindPlug(const Project& tested) const;
    [[nodiscard]] TheveninSource thevenin() const;
    void step(double seconds);
    [[nodiscard]] Terminals supplyAt(double volts) const;
    void solveSupply();

    Project m_drawn;
    FaultyBench m_faulty;
    Project m_project;
    Celsius m_ambient;
    std::string m_source;
    std::optional<PackModel> m_model;
    std::string m_at; ///< empty: the source
    Wells m_wells;
    double m_v1 = 0; ///< of one cell
    double m_clock = 0;
    std::vector<std::size_t> m_opened; ///< what has opened on the way to the load
    Terminals m_supply;
    SupplyMode m_supplyMode = SupplyMode::off;
    std::optional<SupplyState> m_supplySolved; ///< for which settings
};

} // namespace sipper
