// SPDX-License-Identifier: GPL-3.0-or-later
// Loops over pieces: each once, and what one throws reaches the caller.
#include "base/parallelfor.hpp"
#include "support.hpp"

#include <atomic>

using namespace sipper;

TEST_CASE("every piece is done once, on one thread or two", "[parallel]") {
    for (const auto& loop : {ParallelFor(serialFor), ParallelFor(twoThreadFor)})
        for (const std::size_t pieces : {0, 1, 2, 1000}) {
            std::vector<std::atomic<int>> done(pieces);
            loop(pieces, [&](std::size_t i) { ++done[i]; });
            CHECK(std::all_of(done.begin(), done.end(), [](const auto& n) { return n == 1; }));
        }
}

TEST_CASE("what a piece throws reaches the caller, whichever thread it was on", "[parallel]") {
    for (int round = 0; round < 200; ++round)
        for (const std::size_t bad : {0, 1, 7}) {
            std::atomic<int> after{0};
            CHECK_THROWS_AS(twoThreadFor(1000,
                                         [&](std::size_t i) {
                                             if (i == bad)
                                                 throw std::runtime_error("of a piece");
                                             ++after;
                                         }),
                            std::runtime_error);
            CHECK(after < 1000);
        }
}
