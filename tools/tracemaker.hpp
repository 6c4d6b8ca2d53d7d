// SPDX-License-Identifier: GPL-3.0-or-later
// Makes a current trace whose truth is known: for tests, for benchmarks and for the traces that
// ship.
#pragma once

#include <cmath>
#include <cstdint>
#include <random>
#include <string>
#include <vector>

namespace sipper::tracemaker {

/// One thing that happens every `every` seconds, from `offset`, for `lasts`, at `amps`. Later ones
/// win.
struct Happening {
    double amps;
    double every;
    double lasts;
    double offset;
};

struct Recipe {
    double base; ///< amps when nothing happens
    std::vector<Happening> happenings;
    double span;  ///< seconds
    double step;  ///< seconds between samples
    double noise; ///< standard deviation as a share of the current
    std::uint32_t seed;
};

inline double ampsAt(const Recipe& r, double t) {
    double amps = r.base;
    for (const Happening& h : r.happenings) {
        const double into = std::fmod(t - h.offset + h.every * 4, h.every);
        if (t >= h.offset && into < h.lasts)
            amps = h.amps;
    }
    return amps;
}

template <class Row>
void make(const Recipe& r, Row row) {
    std::mt19937 random(r.seed);
    std::normal_distribution<double> normal(0, 1);
    const auto count = static_cast<std::size_t>(std::floor(r.span / r.step));
    for (std::size_t i = 0; i < count; ++i) {
        const double t = static_cast<double>(i) * r.step;
        row(t, ampsAt(r, t + r.step * 1e-6) * (1 + r.noise * normal(random)));
    }
}

/// The nest-box listener for ten minutes: asleep, listening 4 s every 60 s with short writes, one
/// lamp spell.
inline Recipe listenerNight(double noise = 0.02) {
    return {0.0004, {{0.12, 60, 4, 20}, {0.31, 2, 0.02, 21}, {0.238, 100000, 90, 305}},
            600,    0.01,
            noise,  7};
}

/// A vent opener over half an hour: a controller, a radio every 30 s, a motor twice.
inline Recipe ventMotor(double noise = 0.02) {
    return {0.0021, {{0.045, 30, 1.2, 11}, {1.35, 900, 22, 400}}, 1800, 0.05, noise, 11};
}

} // namespace sipper::tracemaker
