// One pack with everything that can stand behind it: whole branches of combinations are counted at
// once where one reason holds for all of them, or where what has run beats the best that any of
// them could do; only the rest is looked at one by one.
#pragma once

#include "search/sieve.hpp"

namespace sipper {

class PackWalk {
  public:
    PackWalk(const Sieve& sieve, std::size_t index, Sieve::Pass pass, const Front& front,
             std::size_t most);
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
        double gramsLow = 0;
        double gramsHigh = 0;
        double priceLow = 0;
        double priceHigh = 0;
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
    void descend(std::size_t depth);
    [[nodiscard]] bool settled(std::uint64_t count);
    /// The branch falls for one reason, by between `least` and `most`: counted at once where that
    /// is sure, and where nobody in it is among the nearest.
    [[nodiscard]] bool fallAll(Fell fell, std::uint64_t count, double least, double most);
    [[nodiscard]] Span spanOf() const;
    [[nodiscard]] double overBy(double steady, double burst) const;
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
    const std::uint64_t m_first; ///< number of the pack's first candidate
    double m_low = 0;
    double m_high = 0;
    double m_grams = 0; ///< without regulators, fuse and guard
    double m_price = 0;
    bool m_fits = true;
    std::array<double, kFellKinds> m_limits{};
    Sieve::Looks m_looks;
    std::array<double, 4> m_between{}; ///< of fuse and guard: grams and price, least and most
    const Structure* m_structure = nullptr;
    std::uint64_t m_offset = 0;                     ///< of the structure
    std::vector<std::uint64_t> m_base;              ///< places in the number's mixed base
    std::vector<std::vector<std::uint16_t>> m_sets; ///< by rail: what is open still
    std::vector<std::uint16_t> m_parts;
    PackPass m_out;
};

} // namespace sipper
