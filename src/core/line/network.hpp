// SPDX-License-Identifier: GPL-3.0-or-later
// The supply line as a tree behind the pack, compiled for solving.
#pragma once

#include "line/physics.hpp"
#include "project/project.hpp"

#include <cstdint>
#include <limits>

namespace sipper {

/// What a stage is doing.
enum class StageState {
    on,
    regulating,
    droppingOut,
    steppingDown,
    steppingUp,
    passing,
    holding,
    limiting,
    off
};
[[nodiscard]] std::string_view stateName(StageState state);

/// Volts, amps and watts at one stage.
struct StageFlow {
    double vIn = 0;
    double iIn = 0;
    double vOut = 0;
    double iOut = 0;
    double inductor = 0; ///< inductor current of a switching stage
    StageState state = StageState::off;
    [[nodiscard]] double loss() const { return vIn * iIn - vOut * iOut; }
};
struct LoadFlow {
    double v = 0;
    double i = 0;
    bool starved = false; ///< a light string that does not get the current meant for it
};
/// Does it get too little: volts under its window, or as a light string too little current?
[[nodiscard]] bool underWindow(const LoadFlow& load, const Window& window);
/// Everything on the line at one moment, in the order of the project's stages and loads.
struct Flows {
    double sourceAmps = 0; ///< of the source that it was solved from
    double sourceVolts = 0;
    std::vector<StageFlow> stages;
    std::vector<LoadFlow> loads;
};

/// Factors on what is uncertain, for ranges. Empty means 1 for every stage, for every load.
struct LineScale {
    std::vector<double> losses; ///< on the loss terms of converters, by stage
    std::vector<double> draws;
};

/// What every load draws at one moment. `atSetPoint` caches, per stage, the output current of a
/// regulator that holds its set-point: it does not depend on the pack.
struct Demand {
    /// `string`: lit by a current regulator, whose volts it sets.
    enum class Kind : std::uint8_t { current, power, resistance, light, string };
    struct Draw {
        Kind kind = Kind::current;
        double value = 0; ///< A, W, ohm; of a light string 1/ohm over `from`, on a driver A
        double from = 0;  ///< V, where a light string goes dark
    };
    std::vector<Draw> draws;
    std::vector<double> atSetPoint;
    /// The loads of one place together, where there are many: they see the same volts.
    struct Together {
        double amps = 0;
        double watts = 0;
        double siemens = 0;
        std::vector<std::uint32_t> lights;
        [[nodiscard]] double at(double v, const std::vector<Draw>& draws) const;
    };
    std::vector<Together> together; ///< by stage; empty where no place has many
    /// What a current regulator gives, per stage; empty where there is none.
    struct Drive {
        double volts = 0;     ///< at its output while it pushes `amps`
        double amps = 0;      ///< A while it is on; 0: nothing to push
        double share = 1;     ///< of the time that it is on
        double wanted = 0;    ///< A that the strings take on the mean
        bool strings = false; ///< strings set its volts; else it stands at its highest
        bool reached = true;  ///< it can give the volts that they need
    };
    std::vector<Drive> drives;
    /// What a capacitor does in a burst, per stage; empty where none helps: its input takes
    /// `(1 - k) I_out + k modeOut + more`, or, at the limit of what feeds it, `input`, its output
    /// `extra` volts lower.
    struct CapacitorSupport {
        double k = 0;
        double modeOut = 0; ///< A out of it in the mode
        double more = 0;    ///< A, while it comes back
        bool fixed = false;
        double input = 0; ///< A
        double extra = 0; ///< V
    };
    std::vector<CapacitorSupport> assists;
};

/// The stages and loads that one source feeds. What only another source feeds is left out.
class Network {
  public:
    /// Where the network begins, and which sources are there: a select follows the first live feed.
    struct Root {
        std::size_t source;
        std::vector<std::size_t> present; ///< with `source` among them
    };
    /// From the pack, with every other source unplugged. `ambient` sets the temperature of wires. A
    /// project without a pack gives an empty network.
    Network(const Project& project, Celsius ambient, const LineScale& scale = {});
    Network(const Project& project, Celsius ambient, const LineScale& scale, const Root& root);

    [[nodiscard]] bool empty() const { return m_root.stages.empty() && m_root.loads.empty(); }
    [[nodiscard]] std::size_t loadCount() const { return m_loadCount; }
    [[nodiscard]] bool reachesStage(std::size_t i) const { return m_nodes[i].reached; }
    [[nodiscard]] bool reachesLoad(std::size_t i) const { return m_loadReached[i]; }
    /// Stages behind the pack from the source outwards, each after the one that feeds it.
    [[nodiscard]] const std::vector<std::size_t>& order() const { return m_order; }
    /// The stage that feeds stage `i` on the way from the pack; the pack's index at the start.
    [[nodiscard]] std::size_t feederOf(std::size_t i) const { return m_nodes[i].parent; }

    /// The demand of a mode; `burst`: npos for none, kAllBursts for all, or a load's index.
    [[nodiscard]] Demand demand(std::size_t mode, std::size_t burst) const;
    static constexpr std::size_t kNoBurst = std::numeric_limits<std::size_t>::max();
    static constexpr std::size_t kAllBursts = kNoBurst - 1;
    /// No draw at all: every load at 0 A.
    [[nodiscard]] Demand idle() const;
    [[nodiscard]] bool hasBurst(std::size_t mode, std::size_t load) const;
    [[nodiscard]] double burstSeconds(std::size_t mode, std::size_t load) const;
    [[nodiscard]] double burstShare(std::size_t mode, std::size_t load) const;

    [[nodiscard]] bool hasCapacitors() const { return !m_capacitors.empty(); }
    /// A burst's demand with what the capacitors before it give (docs/model.md: Stages). `plain`:
    /// the flows of the mode without it; `burst` as in `demand`; `rootOhms`: of the source, where
    /// no regulator stands between. `energy`: the mean share of one burst by itself, in place of
    /// the share at its end.
    [[nodiscard]] Demand assisted(const Demand& demand, const Flows& plain, std::size_t mode,
                                  std::size_t burst, double rootOhms, bool energy) const;
    enum class AtLimit { ask, held, assume };
    /// Where, so helped, a regulator that alone feeds a capacitor would have to give more than its
    /// limit: it gives the limit, the capacitor the rest. False where none does.
    /// `burst` tells what comes to the regulator's input, and whether it is over its limit: `ask`;
    /// or it is already solved at the limit: `held`; or there is no answer without it: `assume`.
    bool limitAssisted(Demand& demand, const Flows& plain, const Flows& burst, std::size_t mode,
                       std::size_t which, double rootOhms, AtLimit at) const;
    /// Amps that each capacitor gave in a burst that was solved so, by stage.
    void addGiven(const Flows& flows, double share, std::vector<double>& given) const;
    /// The mode's demand while every capacitor takes so many amps more, by stage.
    [[nodiscard]] Demand refilling(const Demand& demand, const std::vector<double>& amps) const;

    /// How closely a fork's current is found, relative.
    void setTolerance(double tolerance) { m_tolerance = tolerance; }

    /// A stage held open: what is behind it draws nothing; a guard goes on drawing its own use.
    void setOpen(std::size_t stage, bool open) { m_nodes[stage].open = open; }

    /// The pack current for a pack that gives E - R i: the smallest that the line asks for (the
    /// solution of the higher voltage). NaN when there is none: the supply collapses.
    /// `hint`: a current thought to lie a little below the answer, 0 for none; it saves rounds.
    [[nodiscard]] double current(const Demand& demand, double e, double r, double hint = 0) const;
    /// The same, with every stage and load filled in. False on a collapse.
    bool solve(const Demand& demand, double e, double r, Flows& flows, double hint = 0) const;
    /// Fills in the flows of a current that `current` has found for the same demand and source.
    void fill(const Demand& demand, double e, double r, double amps, Flows& flows) const;
    /// Is the stage over its limit (a guard's trip, a fuse's rating, output, power or switch)?
    [[nodiscard]] bool overLimit(std::size_t stage, const StageFlow& flow, bool inBurst) const;

    /// The least share that is left to one of those limits; infinite where the stage has none.
    [[nodiscard]] double roomToLimit(std::size_t stage, const StageFlow& flow, bool inBurst) const;

    /// Recomputes what a demand caches; needed after `setOpen`, and after a change of its draws.
    void prepare(Demand& demand) const;

  private:
    class Tree; ///< all node voltages at once (line/tree.cpp)
    struct Children {
        std::vector<std::uint32_t> stages;
        std::vector<std::uint32_t> loads;
        double shunt = 0;      ///< 1/ohm from here to ground
        int forks = 0;         ///< one behind the other, from here outwards
        std::size_t place = 0; ///< the stage at whose output they hang
    };
    static constexpr std::size_t kManyLoads = 8; ///< of one place, from which they are summed up
    [[nodiscard]] double loadsAt(const Children& c, const Demand& d, double v) const;
    void sumUp(const Children& c, Demand& d) const;
    /// From so many on each search of a fork has another inside, and the tree is solved as a whole.
    static constexpr int kNestedForks = 2;
    struct Node : Physics {
        explicit Node(const Physics& physics) : Physics(physics) {}
        bool reached = false;
        bool open = false;
        bool reservoir = false; ///< a capacitor that helps
        std::size_t parent = 0;
        Children children;
    };
    [[nodiscard]] double branch(const Children& c, const Demand& d, double e, double r,
                                double hint = 0) const;
    /// The same without the shunt.
    [[nodiscard]] double fork(const Children& c, const Demand& d, double e, double r,
                              double hint) const;
    [[nodiscard]] double sum(const Children& c, const Demand& d, double v) const;
    /// What these take at a voltage, by the sum or, where forks stand behind forks, by the tree.
    [[nodiscard]] double demandAt(const Children& c, const Demand& d, double v) const;
    [[nodiscard]] double stageCurrent(const Node& n, std::size_t index, const Demand& d, double e,
                                      double r, double hint = 0) const;
    /// The same without what it takes across its input.
    [[nodiscard]] double through(const Node& n, std::size_t index, const Demand& d, double e,
                                 double r, double hint) const;
    [[nodiscard]] double linearCurrent(const Node& n, double set, const Demand& d, double e,
                                       double r) const;
    [[nodiscard]] double buckCurrent(const Node& n, double set, const Demand& d, double e,
                                     double r) const;
    [[nodiscard]] double boostCurrent(const Node& n, double set, const Demand& d, double e,
                                      double r) const;
    static double buckBoostCurrent(const Node& n, double set, double e, double r);
    static double stepDown(const Physics& n, double out, double e, double r);
    static double stepUp(const Physics& n, double out, double e, double r);
    static double loadCurrent(const Demand::Draw& draw, double e, double r);
    static double openCurrent(const Node& n, double e, double r);
    /// Light strings behind a place with no regulator between.
    struct Strings {
        bool any = false;
        double amps = 0; ///< on the mean
    };
    [[nodiscard]] Strings stringsBehind(const Children& c, const Demand& d) const;
    /// Volts that they need here while `perAmp` times their mean current flows; of those that are
    /// lit, or of all.
    [[nodiscard]] double stringVolts(const Children& c, const Demand& d, double perAmp,
                                     bool lit) const;
    [[nodiscard]] Demand::Drive driveOf(const Node& n, const Demand& d) const;
    /// A current regulator at its source.
    struct Driven {
        double input = 0;    ///< A on the mean; NaN: no answer
        double output = 0;   ///< A while it is on
        double volts = 0;    ///< at its output
        double inductor = 0; ///< A while it is on
        StageState state = StageState::off;
    };
    [[nodiscard]] static Driven drivenFrom(const Node& n, const Demand::Drive& drive, double e,
                                           double r);
    /// Amps while it is on where its input leaves it no headroom, or a boost's string no work.
    [[nodiscard]] static double followed(const Node& n, const Demand::Drive& drive, double e,
                                         double r);
    /// Input volts down to which a linear or a buck holds its current.
    [[nodiscard]] static double driverEdge(const Node& n, const Demand::Drive& drive);
    struct Lit {
        double share = 1;    ///< of the mean current that the strings ask for
        double onPerAmp = 0; ///< A while on, over that mean
        bool starved = false;
    };
    void flowStrings(const Children& c, const Demand& d, double v, const Lit& lit,
                     Flows& flows) const;
    void flowDriver(const Node& n, std::size_t index, const Demand& d, double v,
                    Flows& flows) const;
    void darken(const Children& c, Flows& flows) const;
    /// `through` and `in`: the current that comes, where it is known; else not a number. `tree`:
    /// what it was solved with, where forks stand behind forks; else null.
    void flow(const Children& c, const Demand& d, double v, double through, Flows& flows,
              const Tree* tree) const;
    void flowStage(const Node& n, std::size_t index, const Demand& d, double v, double in,
                   Flows& flows, const Tree* tree) const;
    /// Forks that lie one behind the other from here outwards.
    int countForks(Children& c);
    [[nodiscard]] bool nested(const Children& c) const { return c.forks >= kNestedForks; }

    /// A capacitor that helps the loads behind it.
    struct Reservoir {
        std::size_t stage;
        double farad;
        double esr;
        double ohms = 0;       ///< of the way from the last regulator, or from the source
        bool fromRoot = false; ///< no regulator stands before it
        std::size_t regulator = kNoBurst; ///< that feeds it and nothing else; none: kNoBurst
        std::vector<char> behind;         ///< loads, without a regulator between or with
    };
    void findReservoirs(const Project& project);
    [[nodiscard]] double longestBurst(const Reservoir& c, std::size_t mode,
                                      std::size_t burst) const;
    [[nodiscard]] double limitAmps(const Node& n, const StageFlow& flow) const;

    std::vector<Node> m_nodes;
    std::vector<Reservoir> m_capacitors;
    Children m_root;
    double m_tolerance = 1e-11;
    std::size_t m_pack = 0;
    std::size_t m_loadCount = 0;
    std::vector<bool> m_loadReached;
    std::vector<std::size_t> m_order;
    struct ModeDraw {
        Demand::Draw draw;
        bool bursts = false;
        Demand::Draw burst;
        double burstSeconds = 0;
        double burstsPerSecond = 0;
    };
    std::vector<std::vector<ModeDraw>> m_draws; ///< by mode, by load
};

} // namespace sipper
