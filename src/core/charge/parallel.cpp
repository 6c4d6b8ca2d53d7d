// SPDX-License-Identifier: GPL-3.0-or-later
#include "charge/parallel.hpp"

#include "base/tolerance.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

namespace sipper {
namespace {

constexpr int kDifferRounds = 50;

double meet(const std::vector<TheveninPack>& packs) {
    double current = 0;
    double siemens = 0;
    for (const TheveninPack& p : packs) {
        current += p.volts / p.ohms;
        siemens += 1 / p.ohms;
    }
    return current / siemens;
}

/// The first pack whose cells or lead take too much; its number, or none.
std::size_t overdone(const std::vector<TheveninPack>& packs, double volts, double leadAmps) {
    for (std::size_t i = 0; i < packs.size(); ++i) {
        const double into = (volts - packs[i].volts) / packs[i].ohms;
        if (overSet(into, packs[i].most) || overSet(std::abs(into), leadAmps))
            return i;
    }
    return packs.size();
}

} // namespace

Joined joinPacks(const std::vector<TheveninPack>& packs, double leadAmps) {
    Joined j;
    if (packs.size() < 2)
        return j;
    j.volts = meet(packs);
    for (const TheveninPack& p : packs) {
        j.amps.push_back((j.volts - p.volts) / p.ohms);
        j.mostInto = std::max(j.mostInto, j.amps.back());
    }
    j.order.resize(packs.size());
    std::iota(j.order.begin(), j.order.end(), std::size_t{0});
    std::stable_sort(j.order.begin(), j.order.end(),
                     [&](std::size_t a, std::size_t b) { return packs[a].volts < packs[b].volts; });
    const std::size_t bad = overdone(packs, j.volts, leadAmps);
    j.refused = bad < packs.size();
    if (j.refused) {
        const double into = j.amps[bad];
        const bool cells = overSet(into, packs[bad].most);
        j.why =
            fmt::format("{} would rush {} pack {}; its {} {} at the most",
                        writeQuantity(std::abs(into), Unit::ampere), into > 0 ? "into" : "out of",
                        bad + 1, cells ? "cells take" : "lead carries",
                        writeQuantity(cells ? packs[bad].most : leadAmps, Unit::ampere));
    }
    // The same spread drawn together until nothing is over.
    const double high = packs[j.order.back()].volts;
    const double low = packs[j.order.front()].volts;
    const double share = bisect(0, 1, kDifferRounds, [&](double part) {
        auto nearer = packs;
        for (TheveninPack& p : nearer)
            p.volts = high - (high - p.volts) * part;
        return overdone(nearer, meet(nearer), leadAmps) == nearer.size();
    });
    j.mayDiffer = j.refused ? (high - low) * share : high - low;
    return j;
}

double fillsFrom(double bigWh, double outEfficiency, double smallWh, double inEfficiency) {
    return smallWh > 0 ? bigWh * outEfficiency * inEfficiency / smallWh : 0;
}

} // namespace sipper
