// SPDX-License-Identifier: GPL-3.0-or-later
#include "measure/logreplay.hpp"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>

namespace sipper {
namespace {

constexpr double kVoltLimit = 0.005; ///< V of the meter
constexpr double kCellSigma = 0.010; ///< V of a cell's model
constexpr double kOnPart = 0.02;     ///< of the largest amps
constexpr double kBinSpan = 0.2;     ///< of them, from which a bin holds two states
constexpr std::size_t kBins = 40;
constexpr double kLongestStep = 60; ///< s, where hours are predicted
constexpr double kMostPieces = 10000;
constexpr std::size_t kMostSteps = 3000000;
constexpr double kLastPart = 0.1; ///< of a log, which goes on past its end
constexpr double kMostHours = 20; ///< times the log
constexpr double kHourSecs = 3600;

void step(const PackModel& m, Wells& wells, double& v1, double amps, double seconds) {
    const double cell = amps / m.parallel;
    wells = m.drained(wells, cell, seconds / kHourSecs);
    v1 = m.rcVoltsAfter(v1, cell, seconds);
}
double volts(const PackModel& m, const Wells& wells, double v1, double amps) {
    return m.volts(std::clamp(m.height(wells), 0.0, 1.0), v1, amps);
}
double atWatts(const PackModel& m, const Wells& wells, double v1, double watts) {
    const auto [e, r] = m.source(std::clamp(m.height(wells), 0.0, 1.0), v1);
    const double inner = e * e - 4 * r * watts;
    return r <= 0      ? watts / e
           : inner < 0 ? std::numeric_limits<double>::quiet_NaN()
                       : 2 * watts / (e + std::sqrt(inner));
}

} // namespace

double standardUncertainty(double limit) {
    return limit / std::sqrt(3.0);
}

LogReplay::LogReplay(const DischargeLog& log, const DischargeRun& sums,
                     const DischargeOptions& tester)
    : m_log(log), m_sums(sums) {
    double most = 0;
    for (const double a : log.amps)
        most = std::max(most, a);
    m_most = most;
    const double usual = usualStep(log.seconds);
    for (std::size_t i = 0; i < log.amps.size(); ++i) {
        const bool within = i >= sums.firstOn && i <= sums.lastOn;
        m_amps.push_back(log.amps[i] +
                         (within && log.volts[i] > 0 ? tester.ownWatts / log.volts[i] : 0));
        m_on.push_back(log.amps[i] > kOnPart * most);
        m_gap.push_back(i > 0 && log.seconds[i] - log.seconds[i - 1] > 5 * usual);
    }
    part();
}

void LogReplay::residuals(const PackModel& model, double start, double meter, double gapFactor,
                          std::vector<double>& out) const {
    std::vector<double> sums(m_count.size(), 0);
    Wells wells = model.level(start);
    double v1 = 0;
    for (std::size_t i = 0; i <= m_sums.lastOn; ++i) {
        if (i > 0)
            step(model, wells, v1, interval(i) * (m_gap[i] ? gapFactor : 1),
                 m_log.seconds[i] - m_log.seconds[i - 1]);
        if (m_part[i] < 0)
            continue;
        const double v = volts(model, wells, v1, m_amps[i]);
        sums[static_cast<std::size_t>(m_part[i])] += m_log.volts[i] - meter * v;
    }
    const double sigma = std::hypot(standardUncertainty(kVoltLimit), model.series * kCellSigma);
    for (std::size_t k = 0; k < sums.size(); ++k)
        out.push_back(sums[k] / static_cast<double>(m_count[k]) / sigma);
}

double LogReplay::hours(const PackModel& model, double start, double target,
                        std::vector<RunPoint>* curve) const {
    const bool byWatts = unrestOf(true) < unrestOf(false);
    const std::size_t a = m_sums.firstOn;
    const std::size_t b = m_sums.lastOn;
    if (b <= a)
        return 0;
    Wells wells = model.level(start);
    double v1 = 0;
    double t = 0;
    const double span = m_log.seconds[b] - m_log.seconds[a];
    const std::size_t tail = [&] {
        std::size_t i = b;
        while (i > a + 1 && m_log.seconds[b] - m_log.seconds[i - 1] <= kLastPart * span)
            --i;
        return std::max(i, a + 1);
    }();
    double before = volts(model, wells, v1, m_amps[a]);
    if (curve)
        curve->push_back({0, before});
    std::size_t i = a + 1;
    std::size_t steps = 0; // a log of nonsense must not run for ever
    while (t < kMostHours * std::max(span, 1.0) && steps < kMostSteps) {
        const double whole = m_log.seconds[i] - m_log.seconds[i - 1];
        const bool load = m_on[i];
        const double watts = (m_amps[i - 1] * m_log.volts[i - 1] + m_amps[i] * m_log.volts[i]) / 2;
        const auto pieces =
            static_cast<std::size_t>(std::clamp(std::ceil(whole / kLongestStep), 1.0, kMostPieces));
        const double dt = whole / static_cast<double>(pieces);
        steps += pieces;
        for (std::size_t k = 0; k < pieces; ++k) {
            const double amps = byWatts ? atWatts(model, wells, v1, watts) : interval(i);
            if (!std::isfinite(amps))
                return t / kHourSecs;
            step(model, wells, v1, amps, dt);
            if (wells.available <= 0)
                return (t + dt) / kHourSecs;
            const double now = volts(model, wells, v1, byWatts ? amps : m_amps[i]);
            if (load && now <= target) {
                const double share = before > now ? (before - target) / (before - now) : 1;
                const double end = (t + std::clamp(share, 0.0, 1.0) * dt) / kHourSecs;
                if (curve)
                    curve->push_back({end, std::min(before, target)});
                return end;
            }
            before = load ? now : before;
            t += dt;
            if (curve && load)
                curve->push_back({t / kHourSecs, now});
        }
        i = i < b ? i + 1 : tail;
    }
    return t / kHourSecs;
}

std::vector<RunPoint> LogReplay::measured() const {
    std::vector<RunPoint> points;
    for (std::size_t i = m_sums.firstOn; i <= m_sums.lastOn; ++i)
        if (m_on[i])
            points.push_back(
                {(m_log.seconds[i] - m_log.seconds[m_sums.firstOn]) / kHourSecs, m_log.volts[i]});
    return points;
}

double LogReplay::interval(std::size_t i) const {
    // A gap that is not bridged is taken as rest.
    if (m_gap[i] && !(m_on[i - 1] && m_on[i]))
        return 0;
    return (m_amps[i - 1] + m_amps[i]) / 2;
}

double LogReplay::unrestOf(bool watts) const {
    double sum = 0;
    double square = 0;
    double count = 0;
    for (std::size_t i = m_sums.firstOn; i <= m_sums.lastOn; ++i) {
        if (!m_on[i])
            continue;
        const double x = watts ? m_log.amps[i] * m_log.volts[i] : m_log.amps[i];
        sum += x;
        square += x * x;
        ++count;
    }
    if (count == 0 || sum <= 0)
        return 0;
    const double mean = sum / count;
    return std::sqrt(std::max(0.0, square / count - mean * mean)) / mean;
}

/// Rows on in forty bins of equal charge, a bin of two states parted between them.
void LogReplay::part() {
    const std::size_t a = m_sums.firstOn;
    const std::size_t b = m_sums.lastOn;
    m_part.assign(m_amps.size(), -1);
    std::vector<double> drawn(m_amps.size(), 0);
    for (std::size_t i = a + 1; i <= b; ++i)
        drawn[i] = drawn[i - 1] + interval(i) * (m_log.seconds[i] - m_log.seconds[i - 1]);
    const double all = drawn[b];
    struct Bin {
        double low = std::numeric_limits<double>::infinity();
        double high = -std::numeric_limits<double>::infinity();
    };
    std::vector<Bin> bins(kBins);
    const auto binOf = [&](std::size_t i) {
        const double share = all > 0 ? drawn[i] / all : 0;
        return std::min(kBins - 1, static_cast<std::size_t>(share * kBins));
    };
    for (std::size_t i = a; i <= b; ++i)
        if (m_on[i]) {
            Bin& bin = bins[binOf(i)];
            bin.low = std::min(bin.low, m_amps[i]);
            bin.high = std::max(bin.high, m_amps[i]);
        }
    std::map<std::pair<std::size_t, bool>, int> numbers;
    for (std::size_t i = a; i <= b; ++i) {
        if (!m_on[i])
            continue;
        const Bin& bin = bins[binOf(i)];
        const bool two = bin.high - bin.low >= kBinSpan * m_most;
        const bool upper = two && m_amps[i] > (bin.low + bin.high) / 2;
        const auto [at, fresh] =
            numbers.try_emplace({binOf(i), upper}, static_cast<int>(m_count.size()));
        if (fresh)
            m_count.push_back(0);
        m_part[i] = at->second;
        ++m_count[static_cast<std::size_t>(at->second)];
    }
}

} // namespace sipper
