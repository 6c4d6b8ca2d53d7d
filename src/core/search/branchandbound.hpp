// One pack with everything that can stand behind it: whole branches of combinations are counted at
// once where one reason holds for all of them, or where what has run beats the best that any of
// them could do; only the rest is looked at one by one.
#pragma once

#include "search/feasibility.hpp"

#include <optional>
#include <unordered_map>

namespace sipper {

class PackWalk {
    struct Span;

  public:
    /// What is the same for all packs of a group, worked out for the first that asks.
    struct Memo {
        Sieve::Looks looks;
        std::unordered_map<std::uint64_t, Span> spans; ///< by the branch
        struct Leaf {
            Sieve::Guarded guarded;
            bool carried = false; ///< there are a fuse and a guard for it
            bool noise = false;
            std::optional<LineTable> line; ///< once a pack came so far
            bool beaten = false;           ///< whatever the pack, by another leaf
        };
        std::unordered_map<std::uint64_t, Leaf> leaves; ///< by number within a pack
        std::vector<const Leaf*> best;                  ///< of those with lines, beaten by none
    };
    PackWalk(const Sieve& sieve, std::size_t index, Sieve::Pass pass, const Front& front,
             std::size_t most, Memo& memo);
    [[nodiscard]] PackPass walk();

  private:
    using Look = Sieve::Look;
    /// Between what lies everything that a branch can be.
    struct Span {
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
    void structure(const Structure& s);
    void countRanks();
    void dropBeaten();
    void seeds();
    void keepBest();
    void descend(std::size_t depth, std::uint64_t branch);
    [[nodiscard]] bool settled(std::uint64_t branch, std::uint64_t count);
    /// The branch falls for one reason, by between `least` and `most`: counted at once where that
    /// is sure, and where nobody in it is among the nearest.
    [[nodiscard]] bool fallAll(Fell fell, std::uint64_t count, double least, double most);
    [[nodiscard]] Span spanOf() const;
    [[nodiscard]] const Memo::Leaf& leafOf(std::uint64_t line);
    /// Its line, solved; and whether another leaf beats it with any pack.
    [[nodiscard]] bool beatenLine(std::uint64_t number);
    /// Is there a fuse, and a guard, for these amps?
    [[nodiscard]] bool carried(double steady, double burst) const;
    [[nodiscard]] double overBy(double steady, double burst, bool carried) const;
    void leaf();
    void fall(Fell fell, double by, std::uint64_t number);
    [[nodiscard]] std::uint64_t numberOf() const;

    const Sieve& m_sieve;
    const PackChoice& m_choice;
    const CellKind& m_kind;
    const Cell& m_cell;
    const Sieve::Pass m_pass;
    const Front& m_front;
    const std::size_t m_most;
    Memo& m_memo;
    const std::uint64_t m_first; ///< number of the pack's first candidate
    double m_low = 0;
    double m_high = 0;
    double m_grams = 0; ///< without regulators, fuse and guard
    double m_price = 0;
    bool m_fits = true;
    std::array<double, kFellKinds> m_limits{};
    const Sieve::Looks& m_looks;
    std::array<double, 4> m_between{}; ///< of fuse and guard: grams and price, least and most
    const Structure* m_structure = nullptr;
    std::uint64_t m_offset = 0;                     ///< of the structure
    std::vector<std::uint64_t> m_base;              ///< places in the number's mixed base
    std::vector<std::vector<std::uint16_t>> m_sets; ///< by rail: what is open still
    std::vector<std::uint16_t> m_parts;
    PackPass m_out;
};

} // namespace sipper
