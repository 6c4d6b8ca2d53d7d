// SPDX-License-Identifier: GPL-3.0-or-later
// The arithmetic of the finder: packs, what may stand on each rail, the first reason against each,
// and a bound on the hours that no run passes.
#pragma once

#include "line/packmodel.hpp"
#include "search/approxrun.hpp"
#include "search/search.hpp"

#include <cstdint>

namespace sipper {

inline constexpr std::uint8_t kFine = 99;        ///< no reason against it
inline constexpr double kComparisonSlack = 1e-9; ///< of any figure
inline constexpr double kGuess = 0.85;           ///< efficiency by which fuse and guard are chosen
/// Volts of the pack at which a bound is worked out, from full down: what a part takes at least at
/// the upper end of each holds for all of it.
inline constexpr std::size_t kLevels = 8;
using Levels = std::array<double, kLevels>;
/// Modes that a bound tells apart: those that take most have one each, the rest share the last.
inline constexpr std::size_t kSlots = 4;
using Slots = std::array<double, kSlots>;
using SlotLevels = std::array<Levels, kSlots>;
inline constexpr std::size_t kMostRails = 6;      ///< of regulated volts
inline constexpr std::size_t kMostStretches = 12; ///< of the day, that a bound tells apart

[[nodiscard]] constexpr std::uint8_t rankOf(RejectReason fell) {
    return static_cast<std::uint8_t>(fell);
}

/// What one rail asks for.
struct RailDemand {
    double steady = 0;   ///< A in the worst mode, at the set volts
    double burst = 0;    ///< A in the worst burst, everything of the mode together
    double low = 0;      ///< V, the highest of the windows' minima
    double high = 0;     ///< V, the lowest of their maxima
    double never = 0;    ///< V, the lowest never-above; 0: none
    bool across = false; ///< something is drawn by ohms or as light
    bool minds = false;  ///< noise, with no filter between
    /// At least, on average over the modes of one slot.
    struct InSlot {
        double amps = 0;          ///< through a regulator that passes current on
        double peak = 0;          ///< the most of that in any of them
        double watts = 0;         ///< at the set volts
        double least = 0;         ///< W at the windows' lowest
        double straight = 0;      ///< A on the cells, of draws by current
        double straightWatts = 0; ///< W on the cells, of draws by power
    };
    std::array<InSlot, kSlots> slots;
};

/// How a rail may be fed.
struct FeedOption {
    enum class Kind : std::uint8_t { cells, regulator, behind } kind = Kind::cells;
    std::size_t rail = 0;                           ///< of `behind`: whose regulator feeds it
    std::vector<std::size_t> parts;                 ///< of the library
    std::vector<std::vector<std::uint16_t>> better; ///< places of parts that are no worse
};

/// One way for each rail; legal by construction.
struct RailTopology {
    std::vector<std::size_t> ways; ///< index into each rail's ways
    std::uint64_t count = 0;       ///< combinations of its parts
};

struct CellKind {
    std::size_t part = 0; ///< of `packs`
    double block = 1;     ///< cells in series that come together
    double full = 0;      ///< V of a cell
    double cutoff = 0;    ///< V of a cell, by the brief's care
    std::size_t most = 0; ///< how many there are; 0: as many as wanted
    double ah = 0;        ///< usable, of one cell
    double self = 0;      ///< A that one cell loses by itself
    double ohms = 0;      ///< R0 of one cell, at least
    Slots slow{};         ///< R1 of one cell, as far as a mode settles in it, by slot
    /// From full downwards: volts at the upper end, Ah of the step, R0 there or anywhere under it.
    struct Step {
        double volts = 0;
        double ah = 0;
        double ohms = 0;
    };
    std::vector<Step> steps;
    Levels levelAh{}; ///< Ah of each level of the volts
};
struct PackChoice {
    std::size_t cell = 0;
    double series = 1;
    double parallel = 1;
};

/// A candidate by its places.
struct Place {
    std::size_t pack = 0;
    std::size_t structure = 0;
    std::vector<std::uint16_t> parts; ///< place in the way's list, by rail
};

/// What is left of a candidate that passed: enough to order them and to run them.
struct Survivor {
    std::uint64_t number = 0;
    double most = 0; ///< hours, a bound
    double grams = 0;
    double price = 0;
};

/// Of those that ran: what is beaten by one of them needs no run.
class ParetoFront {
  public:
    void add(double hours, double grams, double price);
    /// Is one of them at least as long, as light and as cheap?
    [[nodiscard]] bool dominates(double hours, double grams, double price) const;
    /// Builds the lookup grid that `hoursLowerBound` reads, of the points so far.
    void buildIndex();
    /// Longest runtime among points no heavier and no dearer; 0 where there is none.
    [[nodiscard]] double hoursLowerBound(double grams, double price) const;

  private:
    static constexpr std::size_t kSide = 256;
    [[nodiscard]] static double placeAt(double value, double first, double scale) {
        return value > 0 ? (std::log(value) - first) * scale : -1;
    }
    std::vector<std::array<double, 3>> m_points;
    std::vector<double> m_least; ///< hours by grams and price, in steps of the same ratio
    double m_firstGrams = 0;     ///< logarithms
    double m_firstPrice = 0;
    double m_scaleGrams = 0;
    double m_scalePrice = 0;
};

/// What a pass over the packs brings, for one of them.
struct PackPass {
    SearchCounts counts;
    std::vector<Survivor> survivors;
    std::array<std::vector<NearMiss>, kRejectReasons> misses;
    std::array<std::uint64_t, kRejectReasons> lettingIn{};
    std::vector<std::uint64_t> nearShort; ///< counted as too short by their near run
    bool full = false;                    ///< more survivors than were asked for: it ended there
    void add(PackPass&& other);
};
/// Of these the nearest three, the nearest first.
void keepNearest(std::vector<NearMiss>& misses);

class BranchAndBound;

/// At most `kMostRails` rails.
class FeasibilityFilter {
  public:
    FeasibilityFilter(const Project& project, const Library& library, const SearchOptions& ask);

    [[nodiscard]] bool draws() const { return m_draws; }
    [[nodiscard]] const std::vector<PackChoice>& packs() const { return m_packs; }
    [[nodiscard]] std::uint64_t tried() const { return m_packs.size() * m_perPack; }
    [[nodiscard]] double leastHours() const { return m_least; }

    /// How much less a reason would have to ask for, that people wonder about: V, A, g, price, h.
    [[nodiscard]] std::array<double, kRejectReasons> steps() const;

    /// What a pass is for: to hand over all that may do it; only what is best in one thing, of
    /// which nothing is counted; all but what the front beats.
    enum class Pass { all, seeds, bound };
    /// Packs of the same volts: what stands behind them is solved once for all of them.
    [[nodiscard]] const std::vector<std::vector<std::size_t>>& groups() const { return m_groups; }
    /// All candidates of the packs of one group: reasons counted, survivors handed over. A pass
    /// over all ends, `full`, where one of them has more than `most` survivors.
    [[nodiscard]] PackPass group(std::size_t index, Pass pass, const ParetoFront& front,
                                 std::size_t most) const;

    /// Hours that no run of this candidate passes, and about what it runs (`approxHours`).
    [[nodiscard]] std::pair<double, double> boundsOf(std::uint64_t number) const;

    [[nodiscard]] Place placeOf(std::uint64_t number) const;
    [[nodiscard]] Project projectOf(const Place& place) const;
    [[nodiscard]] Candidate described(std::uint64_t number) const;

  private:
    friend class BranchAndBound;
    /// One option on one rail, between two input volts.
    struct RailOption {
        std::uint8_t rank = kFine; ///< the first reason against it
        double by = 0;             ///< how far off
        SlotLevels watts{};        ///< at least, at its input, by mode and the pack's volts
        Slots amps{};              ///< besides, at its input
        double steady = 0;         ///< A at its input at the lowest volts, worst mode
        double burst = 0;
        double grams = 0;
        double price = 0;
    };
    using Looks = std::vector<std::vector<std::vector<RailOption>>>; ///< by rail, way, part
    [[nodiscard]] RailOption optionFor(const Stage& stage, const RailDemand& need, double set,
                                       double low, double high, double moreSteady = 0,
                                       double moreBurst = 0) const;
    /// W besides, of a switching stage that hands on so many amps more, by level of the volts.
    [[nodiscard]] static Levels lossOf(const Stage& stage, double set, double amps, double high,
                                       double low);
    [[nodiscard]] static RailOption directOption(const RailDemand& need, double low, double high);
    /// Is `a` no worse than `b` in anything: the same kind, every loss, limit, weight and price?
    [[nodiscard]] static bool weaklyDominates(const Stage& a, const Stage& b, bool across);
    /// What all rails together ask of the pack.
    struct RailTotals {
        bool over = false; ///< a regulator that feeds others can't
        SlotLevels watts{};
        Slots amps{};
        double steady = 0;
        double burst = 0;
        double grams = 0;
        double price = 0;
    };
    /// The same with the fuse and the guard that carry it.
    struct ProtectedTotals {
        RailTotals sum;
        double ohms = 0; ///< of both
    };
    using Chosen = std::array<const RailOption*, kMostRails>; ///< by rail
    [[nodiscard]] ProtectedTotals guarded(const RailTopology& structure, const Chosen& looks,
                                          const std::vector<std::uint16_t>& parts, double low,
                                          double high) const;
    [[nodiscard]] RailTotals combined(const RailTopology& structure, const Chosen& looks,
                                      const std::vector<std::uint16_t>& parts, double low,
                                      double high) const;
    /// Of one part on a rail that hangs on the cells, or straight.
    [[nodiscard]] RailOption lookOf(std::size_t rail, const FeedOption& way, std::size_t part,
                                    double low, double high) const;
    /// What a candidate's rails ask for, with what guards them.
    [[nodiscard]] ProtectedTotals guardedAt(const Place& place) const;
    [[nodiscard]] Looks looksOf(double low, double high) const;
    void readNeeds(const Project& project);
    void readDay(const Project& project, const std::vector<std::size_t>& order, double lag);
    void readParts();
    void readCells(const SearchOptions& ask);
    void readStructures();
    void readPacks();
    /// Hours that no run passes: every step of the curve at its upper end, every mode at no less
    /// than it takes and behind no more than R0, the wells level throughout. `ohms`: besides the
    /// cells', on the way to what takes it.
    [[nodiscard]] double hoursUpperBound(const CellKind& cell, const PackChoice& choice,
                                         const SlotLevels& watts, const Slots& amps,
                                         double ohms = 0) const;
    /// The line of a candidate, for every pack of its group.
    [[nodiscard]] LineTable lineOf(std::uint64_t number) const;
    /// About what a pack runs on a line, a little over rather than under.
    [[nodiscard]] double hoursNear(const PackChoice& choice, const LineTable& line) const;
    /// The same in next to no time: a level of the volts at a time.
    [[nodiscard]] double hoursUpperBoundFast(const CellKind& cell, const PackChoice& choice,
                                             const SlotLevels& watts, const Slots& amps,
                                             double ohms = 0) const;
    [[nodiscard]] const Stage* fuseFor(double steady, double burst, double volts) const;
    /// The first that carries it, opens there and bears full cells.
    [[nodiscard]] const Stage* guardFor(double amps, double low, double high) const;

    const Library& m_library;
    Requirements m_kept;
    double m_least = 0;
    double m_headroom = 1;  ///< of the brief, over what parts are asked for
    double m_mostGrams = 0; ///< 0: none
    double m_mostPrice = 0;
    bool m_draws = false;
    Slots m_shares{}; ///< of the day, by slot
    /// That a mode of the slot lasts at a time, at least; 0 where one has bursts, which pass over
    /// the relaxation.
    Slots m_seconds{};
    /// The day from the brief's start on. Where there are more modes than slots it is one stretch
    /// of mean use, and `m_lag` hours are added, by which use may lag behind that.
    struct SlotSegment {
        double hours = 24;
        Slots shares{}; ///< of its time, by slot
    };
    std::vector<SlotSegment> m_day;
    double m_lag = 0;
    double m_mostLag = 0; ///< the same where every stretch is told apart
    /// h until each mode has recurred at least once and tripped a guard that it sags under;
    /// negative where guards don't look at it.
    Slots m_round{};
    bool m_fuse = false;
    bool m_guard = false;
    Celsius m_ambient{25};
    std::vector<RailDemand> m_needs;
    std::vector<std::vector<FeedOption>> m_ways;
    std::vector<RailTopology> m_structures;
    std::uint64_t m_perPack = 0;
    std::vector<LibraryPart> m_cellParts; ///< cells to choose from
    std::vector<CellKind> m_cells;
    std::vector<PackModel> m_models; ///< of the cells
    Schedule m_schedule;
    std::vector<DaySegment> m_segments;
    std::vector<ApproxCell> m_near; ///< of the cells
    bool m_charged = false;         ///< only packs that a charger of the library fills
    std::vector<PackChoice> m_packs;
    std::vector<std::vector<std::size_t>> m_groups;
    std::vector<const Stage*> m_fuses;  ///< by rating
    std::vector<const Stage*> m_guards; ///< by price
    Looks m_behind;                     ///< of the ways behind others: the same for every pack
    std::vector<std::size_t> m_fromLow; ///< rails, the lowest set volts first
    double m_baseGrams = 0;
    double m_basePrice = 0;
};

} // namespace sipper
