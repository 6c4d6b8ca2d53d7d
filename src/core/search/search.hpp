// SPDX-License-Identifier: GPL-3.0-or-later
// Every supply that the parts of the library can make for a project: thrown out for a reason, or
// run as any project is (docs/model.md: Finding a supply).
#pragma once

#include "base/parallelfor.hpp"
#include "inventory/inventory.hpp"
#include "project/library.hpp"
#include "search/requirements.hpp"

#include <array>
#include <functional>
#include <map>
#include <stop_token>

namespace sipper {

/// Why a candidate fell out, the first that holds, in this order. `beaten`: by the bound on its
/// hours one that runs as long is no heavier and no dearer, so that it can't be on the Pareto
/// front; it was not run, and may reach the target.
enum class RejectReason {
    notRefillable,
    cold,
    neverAbove,
    noHeadroom,
    overCurrent,
    noise,
    tooHeavy,
    tooDear,
    tooLarge,
    tooShort,
    dominated
};
inline constexpr std::size_t kRejectReasons = 11;
/// `not_refillable`, …: as files and scripts have it.
[[nodiscard]] std::string_view rejectReasonName(RejectReason fell);
/// `can't be refilled as asked`: as people say it.
[[nodiscard]] std::string_view rejectReasonText(RejectReason fell);

struct SearchOptions {
    std::optional<double> mostGrams; ///< besides the brief's
    std::optional<double> mostPrice;
    std::optional<double> leastHours;
    std::vector<std::string> cells; ///< names or ids of library cells; empty: all
    std::vector<OwnedCell> hand;    ///< cells to hand: these alone, and no more than there are
    /// Up to how many are run one by one; past that, bounds decide what needs no run.
    std::size_t runAll = 1200;
    /// Only packs that a charger of the library fills by the ways that the brief names.
    bool charged = false;
    bool adviseWholeFront = false; ///< advice for all of the Pareto front, not the short list alone
};

struct Candidate {
    std::uint64_t number = 0; ///< in the order of the search; the same project, the same number
    std::string says;         ///< the whole supply in one line
    std::string cell;         ///< id
    Chemistry chemistry = Chemistry::other;
    double series = 1;
    double parallel = 1;
    struct OnRail {
        std::vector<std::string> loads;
        std::string kind; ///< cells, linear, buck, boost, buck_boost
        std::string part; ///< name in the library; empty for cells
        std::optional<std::size_t> behind;
    };
    std::vector<OnRail> rails;
    double hours = 0;
    double grams = 0;
    double price = 0;
    double pieces = 1;      ///< of cells that are bought: a block is one
    double millilitres = 0; ///< of the cells as blocks; 0 where their size says nothing
    double worstShare = 0;  ///< of what the cells allow
    bool own = false;       ///< made of parts of the user's own only, besides fuse and guard
    struct Advice {
        int stop = 0;
        int care = 0;
        int note = 0;
        std::string first; ///< title of the gravest
    };
    /// How the pack is refilled, unless the brief says that it is swapped alone; nothing where no
    /// charger of the library fits. Its grams and price are besides the candidate's own.
    struct Refilled {
        std::string by;              ///< socket, adapter, sun
        std::string part;            ///< name of the charger in the library
        std::string says;            ///< its label
        std::optional<double> hours; ///< from 10 % to full, the device off; nothing by the sun
        double grams = 0;
        double price = 0;
    };
    std::optional<Refilled> refill;
    std::optional<Advice> advice; ///< of the Pareto front, or of the short list; and of `yours`
};

/// Weight and price with the charger, fuse and panel that belong to it; a socket or adapter weighs
/// nothing where it stays.
[[nodiscard]] double gramsWithRefill(const Candidate& candidate);
[[nodiscard]] double priceWithRefill(const Candidate& candidate);

struct SearchCounts {
    std::uint64_t tried = 0;
    std::uint64_t ran = 0;
    std::uint64_t kept = 0;
    std::uint64_t toRun = 0; ///< at most
    std::uint64_t total = 0; ///< all that there are to try; while it searches
    std::array<std::uint64_t, kRejectReasons> rejected{};
    bool operator==(const SearchCounts&) const = default;
};

/// One that fell out by little: what stands in the way, as a share of what is allowed.
struct NearMiss {
    std::uint64_t number = 0;
    double by = 0; ///< how far off: V, A, g, price, h by the reason; 0 where it can't be measured
    std::string says;
};

struct Search {
    SearchCounts counts;
    std::vector<Candidate> feasible;      ///< by number
    std::vector<std::size_t> paretoFront; ///< indices into `kept`, the lightest first
    std::vector<std::size_t> shortList;   ///< at most five of the Pareto front
    Candidate yours;
    bool hasYours = false;
    bool stopped =
        false; ///< before its end: kept are those that ran so far, and counts do not add up
    double leastHours = 0;                                     ///< that a candidate had to reach
    std::array<std::vector<NearMiss>, kRejectReasons> nearest; ///< at most three of each reason
    std::array<double, kRejectReasons> lets{};             ///< by how much it would have to be less
    std::array<std::uint64_t, kRejectReasons> lettingIn{}; ///< how many that would let in
};

/// What was counted, and what does it, so far.
using SearchProgress = std::function<void(const SearchCounts&, const std::vector<Candidate>& kept)>;

/// Searches. The same on any number of threads. Errors: "no_loads" where nothing draws,
/// "no_cells" where no cell of that name is there, "too_many_rails" over six.
[[nodiscard]] Outcome<Search> findSupplies(const Project& project, const Library& library,
                                           const SearchOptions& ask,
                                           const std::stop_token& stop = {},
                                           const SearchProgress& progress = {},
                                           const ParallelFor& parallelFor = twoThreadFor);

/// Candidate `number` of the same search as a project; its guard closes again where the rebound
/// allows it. `charger`: with its refill, source and charger, besides what the candidate weighs
/// and costs. Errors: as `findSupplies`, "no_candidate".
[[nodiscard]] Outcome<Project> takeCandidate(const Project& project, const Library& library,
                                             const SearchOptions& ask, std::uint64_t number,
                                             bool charger = false);

/// Whether `a` is at least as good as `b` in hours, grams and price at once.
[[nodiscard]] bool beats(const Candidate& a, const Candidate& b);

} // namespace sipper
