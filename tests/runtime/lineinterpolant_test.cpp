// SPDX-License-Identifier: GPL-3.0-or-later
// What a chart reads between the heights that it has solved is what the line gives there.
#include "runtime/lineinterpolant.hpp"
#include "support.hpp"

#include <numeric>
#include <random>

using namespace sipper;
using namespace sipper::test;

namespace {

std::vector<Project> projects() {
    std::vector<Project> list;
    for (const char* name : {"kiln-probe", "meadow-node", "stall-lantern", "street-choir"})
        list.push_back(reference(name));
    for (const char* name : {"nest-box-listener", "lake-parade-lantern", "darkroom-timer",
                             "greenhouse-vent-opener", "model-ferry-winch", "stage-theremin"})
        list.push_back(example(name));
    return list;
}

} // namespace

TEST_CASE("a chart reads what is solved, in every setting and at any height", "[chart]") {
    std::mt19937 random(11);
    std::uniform_real_distribution<double> anywhere(0, 1);
    std::size_t good = 0;
    for (const Project& p : projects()) {
        const Line line(p, typicalConditions(p));
        for (std::size_t s = 0; s < line.schedule().settings.size(); ++s) {
            LineInterpolant chart(p, line, s, true, 1e-5);
            LineInterpolant other(p, line, s, true, 1e-5);
            for (int i = 0; i < 60; ++i) {
                const double height = anywhere(random);
                const LineInterpolant::Piece& piece = chart.at(height);
                const LineInterpolant::Node there = other.solved(height);
                INFO(p.name << ", setting " << s << ", height " << height);
                REQUIRE(piece.low <= height);
                REQUIRE(height <= piece.high);
                const double toEdge = std::min(height - piece.low, piece.high - height);
                if (toEdge > 1e-6)
                    CHECK(piece.ended() == there.ended());
                if (piece.ended() || there.ended())
                    continue;
                ++good;
                // A tenth of a thousandth of the runtime at the worst, and only at a corner.
                CHECK(chart.cellAmps(piece, height) == Approx(there.cellAmps).epsilon(1e-4));
                CHECK(chart.fillVolts(piece, height) == Approx(there.fillVolts).epsilon(1e-4));
                const auto w = LineInterpolant::weights(piece, height);
                CHECK(std::accumulate(w.begin(), w.end(), 0.0) == Approx(1));
            }
            CHECK(chart.nodes().size() < 400); // few are solved, wherever it is asked
        }
    }
    CHECK(good > 300);
}

TEST_CASE("a chart is as close as it is asked to be", "[chart]") {
    const Project p = example("nest-box-listener");
    const Line line(p, typicalConditions(p));
    double before = 1;
    for (const double tolerance : {1e-3, 1e-5, 1e-7}) {
        LineInterpolant chart(p, line, 0, true, tolerance);
        double most = 0;
        for (double h = 0.3; h < 1; h += 0.0071) {
            const LineInterpolant::Piece& piece = chart.at(h);
            if (!piece.ended())
                most = std::max(most,
                                std::abs(chart.cellAmps(piece, h) / chart.solved(h).cellAmps - 1));
        }
        CHECK(most <= before);
        CHECK(most < 20 * tolerance);
        before = most;
    }
}

TEST_CASE("the edge at which a run ends is found from above", "[chart]") {
    for (const Project& p : projects()) {
        const Line line(p, typicalConditions(p));
        for (std::size_t s = 0; s < line.schedule().settings.size(); ++s) {
            INFO(p.name << ", setting " << s);
            LineInterpolant chart(p, line, s, true, 1e-5);
            if (chart.at(1).ended())
                continue;
            const LineInterpolant::Piece* stop = chart.firstEnd(1, 0);
            if (!stop)
                continue;
            const LineInterpolant::Piece end = *stop;
            CHECK(end.ended());
            CHECK(end.high - end.seen < 1e-6);
            CHECK(chart.solved(end.seen).ended());
            CHECK_FALSE(chart.solved(end.high).ended());
            // Nothing ends before it, and from just above it is the next.
            CHECK_FALSE(chart.firstEnd(1, end.high + 1e-9));
            CHECK(chart.firstEnd(end.high + 1e-4, 0) != nullptr);
        }
    }
}

TEST_CASE("time spent is kept whole", "[chart]") {
    const Project p = example("stage-theremin");
    const Line line(p, typicalConditions(p));
    LineInterpolant chart(p, line, 0, true, 1e-5);
    double hours = 0;
    double wattHours = 0;
    for (double h = 0.9; h > 0.4; h -= 0.013) {
        const LineInterpolant::Piece& piece = chart.at(h);
        REQUIRE_FALSE(piece.ended());
        chart.spend(piece, h, 0.25);
        hours += 0.25;
        wattHours += 0.25 * LineInterpolant(p, line, 0, true, 1e-5).solved(h).terminal;
    }
    double booked = 0;
    double drawn = 0;
    for (const LineInterpolant::Node& n : chart.nodes()) {
        booked += n.hours;
        drawn += n.hours * n.terminal;
    }
    CHECK(booked == Approx(hours));
    CHECK(drawn == Approx(wattHours).epsilon(1e-5));
}
