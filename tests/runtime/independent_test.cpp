// SPDX-License-Identifier: GPL-3.0-or-later
// Runs against a second implementation of the design, written apart: fine steps, two wells as plain
// differential equations, every current found by looking along the axis. It shares no code with the
// core but the document.
#include "support.hpp"

#include <random>

using namespace sipper;

namespace {

struct ModeTruth {
    std::string id;
    double watts;
    double burstAmps; ///< at the load; 0: none
    double burstSeconds;
    double burstsPerSecond;
    double share;
    double seconds; ///< infinity for what fills
};

struct Bench {
    // cell and pack
    double capacity, c, k, r0, r1, tau, self, connection, series, parallel;
    std::vector<std::pair<double, double>>
        ocv; ///< straight lines, steep enough that the curve hardly differs
    // guard and boost
    double guardOhm, guardAmps, cutoff, delay;
    double set, fixed, drop, ohm, boostAmps;
    std::vector<ModeTruth> day;    ///< no window open
    std::vector<ModeTruth> window; ///< empty: no window
    double start, from, to;        ///< minutes

    [[nodiscard]] double volts(double h) const {
        for (std::size_t i = 1; i < ocv.size(); ++i)
            if (h <= ocv[i].first || i + 1 == ocv.size())
                return ocv[i - 1].second + (h - ocv[i - 1].first) /
                                               (ocv[i].first - ocv[i - 1].first) *
                                               (ocv[i].second - ocv[i - 1].second);
        return 0;
    }
    /// Pack current for a source e - r i and watts at the boost's output; nan: none.
    [[nodiscard]] double current(double e, double r, double watts) const {
        if (watts == 0)
            return guardAmps + boostAmps;
        const auto excess = [&](double i) {
            const double j = i - guardAmps - boostAmps;
            const double v = e - r * i - guardOhm * (i - guardAmps);
            return v * j - watts - fixed - drop * j - ohm * j * j;
        };
        const double most = e / (r + guardOhm + 1e-9);
        double low = guardAmps + boostAmps;
        for (int n = 1; n <= 1000; ++n) {
            double high = most * n / 1000;
            if (high <= low)
                continue;
            if (excess(high) < 0) {
                low = high;
                continue;
            }
            for (int round = 0; round < 60; ++round) {
                const double middle = (low + high) / 2;
                (excess(middle) < 0 ? low : high) = middle;
            }
            return high;
        }
        return std::nan("");
    }
};

struct Answer {
    double hours;
    std::string reason;
    std::string mode;
};

Answer simulate(const Bench& b, double dt) {
    double y1 = b.capacity * b.c;
    double y2 = b.capacity * (1 - b.c);
    const double k = b.k * b.c * (1 - b.c);
    double mean = 0;
    bool wasOpen = false;
    for (double t = 0;; t += dt) {
        const double minute = std::fmod(b.start + t / 60, 1440.0);
        const bool open = !b.window.empty() && (b.from < b.to ? minute >= b.from && minute < b.to
                                                              : minute >= b.from || minute < b.to);
        const auto& modes = open ? b.window : b.day;
        if (open != wasOpen)
            mean = 0;
        wasOpen = open;
        const double h = b.c < 1 ? y1 / b.c / b.capacity : y1 / b.capacity;
        const double e = b.volts(h);
        std::vector<double> plain(modes.size());
        for (int round = 0; round < 40; ++round) {
            double sum = 0;
            for (std::size_t m = 0; m < modes.size(); ++m) {
                const double g =
                    std::isfinite(modes[m].seconds) ? 1 - std::exp(-modes[m].seconds / b.tau) : 1;
                const double source = b.series * (e - mean / b.parallel * b.r1 * (1 - g));
                const double ohms = b.series / b.parallel * (b.r0 + b.r1 * g) + b.connection;
                plain[m] = b.current(source, ohms, modes[m].watts);
                if (std::isnan(plain[m]))
                    return {t / 3600, "collapse", modes[m].id};
                double amps = plain[m];
                if (modes[m].burstsPerSecond > 0) {
                    const double slow =
                        b.series * (e - b.r1 * (g * plain[m] + (1 - g) * mean) / b.parallel);
                    const double burst =
                        b.current(slow, b.series / b.parallel * b.r0 + b.connection,
                                  modes[m].burstAmps * b.set);
                    amps += modes[m].burstsPerSecond * modes[m].burstSeconds * (burst - plain[m]);
                }
                if (std::isnan(amps))
                    return {t / 3600, "collapse", modes[m].id};
                sum += modes[m].share * amps;
            }
            const bool settled = std::abs(sum - mean) <= 1e-12 * sum;
            mean = sum;
            if (settled)
                break;
        }
        if (y1 <= 0)
            return {t / 3600, "empty", modes[0].id};
        for (std::size_t m = 0; m < modes.size(); ++m) {
            const double g =
                std::isfinite(modes[m].seconds) ? 1 - std::exp(-modes[m].seconds / b.tau) : 1;
            const double v =
                b.series *
                    (e - (plain[m] * (b.r0 + b.r1 * g) + mean * b.r1 * (1 - g)) / b.parallel) -
                plain[m] * b.connection;
            if (v < b.cutoff && modes[m].seconds >= b.delay)
                return {t / 3600, "cutoff", modes[m].id};
            if (modes[m].burstAmps <= 0)
                continue;
            const double slow =
                b.series * (e - b.r1 * (g * plain[m] + (1 - g) * mean) / b.parallel);
            const double ohms = b.series / b.parallel * b.r0 + b.connection;
            const double burst = b.current(slow, ohms, modes[m].burstAmps * b.set);
            if (std::isnan(burst))
                return {t / 3600, "collapse", modes[m].id};
            if (slow - ohms * burst < b.cutoff && modes[m].burstSeconds >= b.delay)
                return {t / 3600, "cutoff", modes[m].id};
        }
        const double drain = mean / b.parallel + b.self;
        const double step = dt / 3600;
        const auto flow = [&](double a, double z) {
            return b.c < 1 ? k * (z / (1 - b.c) - a / b.c) : 0.0;
        };
        const double f = flow(y1, y2);
        const double g = flow(y1 + step / 2 * (f - drain), y2 - step / 2 * f);
        y1 += step * (g - drain);
        y2 -= step * g;
    }
}

Project projectOf(const Bench& b) {
    Project p = test::idealProject(0, b.capacity);
    p.modes.clear();
    Pack& pack = test::packOf(p);
    pack.series = b.series;
    pack.parallel = b.parallel;
    pack.connection = Ohms{b.connection};
    pack.cell.openCircuit = {};
    for (const auto& [x, y] : b.ocv)
        pack.cell.openCircuit.emplace_back(x, y);
    pack.cell.availableFraction = b.c;
    pack.cell.wellRate = PerHour{b.k};
    pack.cell.resistance = Ohms{b.r0};
    pack.cell.relaxation = Ohms{b.r1};
    pack.cell.relaxationTime = Seconds{b.tau};
    pack.cell.selfDischargeShare = b.self * 730.5 / b.capacity;
    Guard guard;
    guard.cutoff = Volts{b.cutoff};
    guard.delay = Seconds{b.delay};
    guard.resistance = Ohms{b.guardOhm};
    guard.quiescent = Amps{b.guardAmps};
    p.stages.push_back(test::stageOf("guard", guard, "cells"));
    Switcher boost;
    boost.topology = Topology::boost;
    boost.set = Volts{b.set};
    boost.fixed = Watts{b.fixed};
    boost.drop = Volts{b.drop};
    boost.resistance = Ohms{b.ohm};
    boost.quiescent = Amps{b.boostAmps};
    p.stages.push_back(test::stageOf("boost", boost, "guard"));
    p.loads.push_back(test::loadOf("load", "boost", 0, 2 * b.set));
    const auto add = [&](const ModeTruth& m, auto shape) {
        if (p.mode(m.id))
            return;
        Mode& mode = p.modes.emplace_back();
        mode.id = m.id;
        shape(mode);
        Draw draw = test::powerDraw(m.id, m.watts);
        if (m.burstAmps > 0) {
            draw.burst = Amps{m.burstAmps};
            draw.burstTime = Seconds{m.burstSeconds};
            if (m.burstsPerSecond > 0)
                draw.burstsPerSecond = PerSecond{m.burstsPerSecond};
        }
        p.loads[0].draws.push_back(draw);
    };
    const auto repeats = [](const ModeTruth& m) {
        return [&m](Mode& mode) {
            mode.duration = Seconds{m.seconds};
            mode.every = Seconds{m.seconds / m.share};
        };
    };
    add(b.day[0], [](Mode& mode) { mode.base = true; });
    for (std::size_t i = 1; i < b.day.size(); ++i)
        add(b.day[i], repeats(b.day[i]));
    if (!b.window.empty()) {
        add(b.window[0], [&](Mode& mode) { mode.daily = {{clockText(b.from), clockText(b.to)}}; });
        for (std::size_t i = 1; i < b.window.size(); ++i)
            add(b.window[i], [&](Mode& mode) {
                repeats(b.window[i])(mode);
                mode.within = b.window[0].id;
            });
    }
    p.brief.startTime = clockText(b.start);
    return p;
}

} // namespace

TEST_CASE("runs agree with a second implementation, fine-stepped", "[independent]") {
    std::map<std::string, int> reasons;
    for (const auto& [seed, from, to] :
         {std::tuple{41U, 0, 40}, std::tuple{977U, 179, 180}, std::tuple{977U, 432, 433},
          std::tuple{977U, 591, 592}, std::tuple{5U, 467, 468}}) {
        std::mt19937 random(seed);
        const auto pick = [&](double a, double z) {
            return a + (z - a) * static_cast<double>(random()) / 4294967296.0;
        };
        for (int round = 0; round < to; ++round) {
            Bench b{};
            b.capacity = pick(0.3, 0.9);
            b.c = random() % 4 ? pick(0.4, 0.95) : 1;
            b.k = pick(0.2, 6);
            b.r0 = pick(0.02, 0.25);
            b.r1 = pick(0, 0.15);
            b.tau = pick(5, 120);
            b.self = pick(0, 2e-4);
            b.connection = pick(0, 0.05);
            b.series = 1 + static_cast<double>(random() % 3);
            b.parallel = 1 + static_cast<double>(random() % 2);
            b.ocv = {{0, 2.9}, {1, 4.1}};
            b.guardOhm = pick(0, 0.08);
            b.guardAmps = pick(0, 1e-4);
            b.cutoff = b.series * (random() % 3 ? pick(2.6, 3.2) : 0.1);
            b.delay = random() % 2 ? 0 : pick(0.5, 6);
            b.set = b.series * 4.1 + pick(1, 8);
            b.fixed = pick(0, 0.02);
            b.drop = pick(0, 0.1);
            b.ohm = pick(0, 0.15);
            b.boostAmps = pick(0, 2e-4);
            double watts = pick(0.2, 2.2) * b.parallel * b.series;
            if (random() % 3 == 0) { // near what the pack can give at all
                const double ohms =
                    b.series / b.parallel * b.r0 + b.connection + b.guardOhm + b.ohm;
                watts = pick(0.5, 0.95) * std::pow(b.series * 3.1, 2) / (4 * ohms);
                b.cutoff = 0.05;
            }
            const double share = pick(0.05, 0.4);
            b.day = {
                {"rest", watts * 0.1, 0, 0, 0, 1 - share, std::numeric_limits<double>::infinity()},
                {"work", watts, 0, 0, 0, share, pick(1, 8)}};
            if (random() % 2) {
                b.day[1].burstAmps = watts / b.set * pick(1.3, 3);
                b.day[1].burstSeconds = pick(0.005, 0.4);
                b.day[1].burstsPerSecond = random() % 3 ? pick(0.1, 1) : 0;
            }
            b.start = std::floor(pick(0, 1440));
            if (random() % 2) {
                b.from = std::fmod(std::floor(b.start + pick(10, 60)), 1440);
                b.to = std::fmod(std::floor(b.from + pick(20, 120)), 1440);
                const double length = std::fmod(b.to - b.from + 1440, 1440) * 60;
                b.window = {{"night", watts * 0.6, 0, 0, 0, 0, length},
                            b.day[1],
                            {"flash", watts * 1.2, 0, 0, 0, 0.1, pick(0.2, 3)}};
                b.window[0].share = 1 - share - 0.1;
            }
            if (round < from)
                continue;
            const Answer truth = simulate(b, 1.0);
            const Runtime r = predictRuntime(projectOf(b));
            INFO("seed " << seed << ", round " << round << ": " << truth.hours << " h, "
                         << truth.reason << " in " << truth.mode);
            REQUIRE(r.hours);
            CHECK(r.hours->value() == Approx(truth.hours).epsilon(2e-3).margin(3.0 / 3600));
            CHECK(reasonName(r.ending.reason) == truth.reason);
            if (truth.reason !=
                "empty") // empty holds for every mode: there the file's order decides
                CHECK(r.ending.mode == truth.mode);
            CHECK(std::abs(r.ledger.imbalance()) < 1e-3);
            ++reasons[truth.reason];
        }
    }
    CHECK(reasons["cutoff"] > 5);
    CHECK(reasons["collapse"] > 2);
}
