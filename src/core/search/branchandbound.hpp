// SPDX-License-Identifier: GPL-3.0-or-later
// One pack with everything that can stand behind it: whole branches of combinations are counted at
// once where one reason holds for all of them, or where what has run beats the best that any of
// them could do; only the rest is looked at one by one.
#pragma once

#include "search/feasibility.hpp"

#include <optional>
#include <unordered_map>

namespace sipper {

inline constexpr std::size_t kNearest = 3; ///< of each reason, that are told
inline constexpr std::uint8_t kLastRank = rankOf(RejectReason::overCurrent); ///< of those reasons

class BranchAndBound {
    struct BranchBounds;

  public:
    /// What is the same for all packs of a group, worked out for the first that asks.
    struct Memo {
        FeasibilityFilter::Looks looks;
        std::unordered_map<std::uint64_t, BranchBounds> spans; ///< by the branch
        struct Leaf {
            FeasibilityFilter::ProtectedTotals guarded;
            bool carried = false; ///< there are a fuse and a guard for it
            bool noise = false;
            std::optional<LineTable> line; ///< once a pack came so far
            bool beaten = false;           ///< whatever the pack, by another leaf
        };
        std::unordered_map<std::uint64_t, Leaf> leaves; ///< by number within a pack
        std::vector<const Leaf*> best;                  ///< of those with lines, beaten by none
    };
    BranchAndBound(const FeasibilityFilter& filter, std::size_t index, FeasibilityFilter::Pass pass,
                   const ParetoFront& front, std::size_t most, Memo& memo);
    [[nodiscard]] PackPass walk();

  private:
    using RailChoice = FeasibilityFilter::RailOption;
    /// Bounds over all candidates of a branch.
    struct BranchBounds {
        SlotLevels watts{}; ///< at least, at the pack
        double steadyLow = 0;
        double steadyHigh = 0;
        double burstLow = 0;
        double burstHigh = 0;
        double gramsLow = 0; ///< besides the cells
        double gramsHigh = 0;
        double priceLow = 0;
        double priceHigh = 0;
        bool carriedLow = true; ///< there are a fuse and a guard for the least, and for the most
        bool carriedHigh = true;
        bool someOver = false; ///< a regulator that feeds others might be
        bool someNoise = false;
        bool allNoise = false;
    };
    [[nodiscard]] bool refused();
    [[nodiscard]] bool cellsFit() const;
    void structure(const RailTopology& s);
    void countRanks();
    void dropDominated();
    void seeds();
    void keepBest();
    void descend(std::size_t depth, std::uint64_t branch);
    [[nodiscard]] bool canPrune(std::uint64_t branch, std::uint64_t count);
    /// The branch falls for one reason, by between `least` and `most`: counted at once where that
    /// is sure, and where it holds no near miss.
    [[nodiscard]] bool rejectBranch(RejectReason fell, std::uint64_t count, double least,
                                    double most);
    [[nodiscard]] BranchBounds branchBounds() const;
    [[nodiscard]] const Memo::Leaf& leafOf(std::uint64_t line);
    /// Its line, solved; and whether another leaf beats it with any pack.
    [[nodiscard]] bool lineDominated(std::uint64_t number);
    /// Is there a fuse, and a guard, for these amps?
    [[nodiscard]] bool carried(double steady, double burst) const;
    [[nodiscard]] double overBy(double steady, double burst, bool carried) const;
    void evaluateLeaf();
    void reject(RejectReason fell, double by, std::uint64_t number);
    [[nodiscard]] std::uint64_t numberOf() const;

    const FeasibilityFilter& m_filter;
    const PackChoice& m_choice;
    const CellKind& m_kind;
    const Cell& m_cell;
    const FeasibilityFilter::Pass m_pass;
    const ParetoFront& m_front;
    const std::size_t m_most;
    Memo& m_memo;
    const std::uint64_t m_first; ///< number of the pack's first candidate
    double m_low = 0;
    double m_high = 0;
    double m_grams = 0; ///< without regulators, fuse and guard
    double m_price = 0;
    bool m_fits = true;
    std::array<double, kRejectReasons> m_limits{};
    const FeasibilityFilter::Looks& m_looks;
    std::array<double, 4> m_between{}; ///< of fuse and guard: grams and price, least and most
    const RailTopology* m_structure = nullptr;
    std::uint64_t m_offset = 0;                     ///< of the structure
    std::vector<std::uint64_t> m_base;              ///< places in the number's mixed base
    std::vector<std::vector<std::uint16_t>> m_sets; ///< by rail: what is open still
    std::vector<std::uint16_t> m_parts;
    PackPass m_out;
};

} // namespace sipper
