// SPDX-License-Identifier: GPL-3.0-or-later
// Latin hypercubes and quantiles.
#include "base/statistics.hpp"
#include "support.hpp"

using namespace sipper;

TEST_CASE("a Latin hypercube has one sample in every stratum", "[statistics]") {
    std::mt19937 random(7);
    for (const std::size_t count : {1, 2, 64, 401}) {
        const std::vector<double> values = latinHypercube(random, count);
        REQUIRE(values.size() == count);
        std::vector<int> hits(count, 0);
        for (const double v : values) {
            CHECK(v >= 0);
            REQUIRE(v < 1);
            ++hits[static_cast<std::size_t>(v * static_cast<double>(count))];
        }
        CHECK(std::all_of(hits.begin(), hits.end(), [](int n) { return n == 1; }));
    }
    // The order is random, and the same seed gives the same.
    std::mt19937 one(3);
    std::mt19937 other(3);
    const auto values = latinHypercube(one, 50);
    CHECK(values == latinHypercube(other, 50));
    CHECK_FALSE(std::is_sorted(values.begin(), values.end()));
}

TEST_CASE("quantiles lie on straight lines between order statistics", "[statistics]") {
    const std::vector<double> list{1, 2, 4, 8, 16};
    CHECK(quantile(list, 0) == 1);
    CHECK(quantile(list, 1) == 16);
    CHECK(quantile(list, 0.5) == 4);
    CHECK(quantile(list, 0.1) == Approx(1.4));
    CHECK(quantile(list, 0.9) == Approx(12.8));
    CHECK(quantile({3}, 0.7) == 3);
}
