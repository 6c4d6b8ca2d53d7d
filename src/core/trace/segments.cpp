// SPDX-License-Identifier: GPL-3.0-or-later
#include "trace/segments.hpp"

#include "base/statistics.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <numeric>

namespace sipper {
namespace {

constexpr std::size_t kBins = 400;    ///< of the log current; finer than 3 % over six decades
constexpr double kWeightPower = 0.25; ///< rare levels count almost as much as long sleep
constexpr double kStrong =
    0.7; ///< silhouette of a strong structure (Rousseeuw 1987); halves of noise reach 0.6
constexpr double kSameLevel = 1.3;     ///< ratio under which two levels are one
constexpr double kConstant = 1.25;     ///< a trace that varies less has one level
constexpr double kHysteresis = 0.15;   ///< of the log distance, to either side of the middle
constexpr double kLongestBurst = 0.05; ///< s
constexpr double kPeakShare = 0.999;   ///< of the samples lie at or under the peak
constexpr double kFloorShare = 1e-6;   ///< of the largest current: what is lower counts as that

double floorOf(const Trace& t) {
    const double most = *std::max_element(t.amps.begin(), t.amps.end());
    return std::max(1e-9, most * kFloorShare);
}

/// How long sample i stands for.
double standsFor(const Trace& t, std::size_t i) {
    if (i + 1 < t.seconds.size())
        return t.seconds[i + 1] - t.seconds[i];
    return t.seconds.size() > 1 ? t.seconds[i] - t.seconds[i - 1] : 0;
}

struct Bin {
    double x;
    double weight;
};

std::vector<Bin> histogram(const Trace& t) {
    const double floor = floorOf(t);
    double low = 1e300;
    double high = -1e300;
    for (const double a : t.amps) {
        const double x = std::log10(std::max(a, floor));
        low = std::min(low, x);
        high = std::max(high, x);
    }
    if (high - low < 1e-9)
        return {{low, 1}};
    std::vector<double> times(kBins, 0);
    for (std::size_t i = 0; i < t.amps.size(); ++i) {
        const double x = std::log10(std::max(t.amps[i], floor));
        const auto bin =
            std::min(kBins - 1, static_cast<std::size_t>((x - low) / (high - low) * kBins));
        times[bin] += standsFor(t, i);
    }
    // Bins that hold almost nothing are the flanks between levels.
    const double total = std::accumulate(times.begin(), times.end(), 0.0);
    std::vector<Bin> bins;
    for (std::size_t i = 0; i < kBins; ++i)
        if (times[i] > total * 2e-6)
            bins.push_back({low + (static_cast<double>(i) + 0.5) * (high - low) / kBins,
                            std::pow(times[i] / total, kWeightPower)});
    return bins;
}

/// The mean by time, in the log, of bins a to b - 1: amps.
double centreOf(const std::vector<Bin>& bins, std::size_t a, std::size_t b) {
    double sum = 0;
    double weight = 0;
    for (std::size_t i = a; i < b; ++i) {
        const double w = std::pow(bins[i].weight, 1 / kWeightPower);
        sum += w * bins[i].x;
        weight += w;
    }
    return std::pow(10.0, sum / weight);
}

/// Exact weighted 1-D k-means: the first bin of every cluster.
std::vector<std::vector<std::size_t>> clusters(const std::vector<Bin>& bins, int most) {
    const std::size_t n = bins.size();
    std::vector<double> w(n + 1, 0);
    std::vector<double> wx(n + 1, 0);
    std::vector<double> wxx(n + 1, 0);
    for (std::size_t i = 0; i < n; ++i) {
        w[i + 1] = w[i] + bins[i].weight;
        wx[i + 1] = wx[i] + bins[i].weight * bins[i].x;
        wxx[i + 1] = wxx[i] + bins[i].weight * bins[i].x * bins[i].x;
    }
    const auto cost = [&](std::size_t a, std::size_t b) { // bins a to b - 1
        const double weight = w[b] - w[a];
        const double sum = wx[b] - wx[a];
        return weight > 0 ? wxx[b] - wxx[a] - sum * sum / weight : 0;
    };
    std::vector<double> before(n + 1, 1e300);
    before[0] = 0;
    std::vector<std::vector<std::size_t>> from;
    std::vector<std::vector<std::size_t>> result;
    for (int k = 1; k <= most; ++k) {
        std::vector<double> now(n + 1, 1e300);
        from.emplace_back(n + 1, 0);
        for (std::size_t b = 1; b <= n; ++b)
            for (std::size_t a = 0; a < b; ++a)
                if (const double c = before[a] + cost(a, b); c < now[b]) {
                    now[b] = c;
                    from.back()[b] = a;
                }
        before = now;
        std::vector<std::size_t> starts;
        std::size_t b = n;
        for (int j = k; j > 0; --j) {
            b = from[static_cast<std::size_t>(j - 1)][b];
            starts.insert(starts.begin(), b);
        }
        result.push_back(starts);
    }
    return result;
}

struct Silhouette {
    double mean;
    double weakest; ///< of the clusters' own means
};

/// Silhouettes, weighted; distance to the nearest other cluster's members. A bin's own samples lie
/// half a bin apart.
Silhouette silhouette(const std::vector<Bin>& bins, const std::vector<std::size_t>& starts) {
    const std::size_t n = bins.size();
    const double within = (bins.back().x - bins.front().x) / kBins / 2;
    std::vector<std::size_t> cluster(n, 0);
    for (std::size_t i = 0; i < n; ++i)
        cluster[i] = static_cast<std::size_t>(std::upper_bound(starts.begin(), starts.end(), i) -
                                              starts.begin()) -
                     1;
    std::vector<double> sums(starts.size(), 0);
    std::vector<double> weights(starts.size(), 0);
    std::vector<double> distance(starts.size());
    std::vector<double> mass(starts.size());
    for (std::size_t i = 0; i < n; ++i) {
        std::fill(distance.begin(), distance.end(), 0.0);
        std::fill(mass.begin(), mass.end(), 0.0);
        for (std::size_t k = 0; k < n; ++k) {
            distance[cluster[k]] +=
                bins[k].weight * std::max(within, std::abs(bins[k].x - bins[i].x));
            mass[cluster[k]] += bins[k].weight;
        }
        double other = 1e300;
        for (std::size_t c = 0; c < starts.size(); ++c)
            if (c != cluster[i])
                other = std::min(other, distance[c] / mass[c]);
        const double inside = distance[cluster[i]] / mass[cluster[i]];
        sums[cluster[i]] += bins[i].weight * (other - inside) / std::max(inside, other);
        weights[cluster[i]] += bins[i].weight;
    }
    Silhouette s{0, 1};
    double all = 0;
    for (std::size_t c = 0; c < starts.size(); ++c) {
        s.mean += sums[c];
        all += weights[c];
        s.weakest = std::min(s.weakest, sums[c] / weights[c]);
    }
    s.mean /= all;
    return s;
}

std::vector<Dwell> stays(const Trace& t, const std::vector<double>& levels) {
    const double floor = floorOf(t);
    std::vector<double> centres;
    for (const double a : levels)
        centres.push_back(std::log10(std::max(a, floor)));
    std::vector<double> up;   // to leave level i for i + 1
    std::vector<double> down; // to leave level i + 1 for i
    for (std::size_t i = 0; i + 1 < centres.size(); ++i) {
        const double middle = (centres[i] + centres[i + 1]) / 2;
        const double slack = kHysteresis * (centres[i + 1] - centres[i]);
        up.push_back(std::pow(10.0, middle + slack));
        down.push_back(std::pow(10.0, middle - slack));
    }
    std::vector<Dwell> list;
    std::size_t mode = 0;
    while (mode < up.size() && t.amps[0] > std::sqrt(up[mode] * down[mode]))
        ++mode;
    std::size_t first = 0;
    for (std::size_t i = 1; i < t.amps.size(); ++i) {
        std::size_t next = mode;
        while (next < up.size() && t.amps[i] > up[next])
            ++next;
        while (next > 0 && t.amps[i] < down[next - 1])
            --next;
        if (next == mode)
            continue;
        list.push_back({first, i, mode});
        first = i;
        mode = next;
    }
    list.push_back({first, t.amps.size(), mode});
    return list;
}

double lasts(const Trace& t, const Dwell& s) {
    return (s.last < t.seconds.size() ? t.seconds[s.last] : t.seconds.back()) - t.seconds[s.first];
}

/// Single samples between two others are the flank on the way, not a stay.
void dropFlanks(std::vector<Dwell>& list) {
    std::vector<Dwell> kept;
    for (std::size_t i = 0; i < list.size(); ++i) {
        const Dwell& s = list[i];
        const bool between = i > 0 && i + 1 < list.size() && s.last - s.first == 1 &&
                             ((list[i - 1].mode < s.mode && s.mode < list[i + 1].mode) ||
                              (list[i - 1].mode > s.mode && s.mode > list[i + 1].mode));
        if (!kept.empty() && (between || kept.back().mode == s.mode))
            kept.back().last = s.last;
        else
            kept.push_back(s);
    }
    list = std::move(kept);
}

/// What is added up of one mode.
struct Tally {
    double time = 0;
    double charge = 0;
    double plainTime = 0; ///< without bursts
    double plainCharge = 0;
    double square = 0;
    double energy = 0;
    std::vector<double> samples;
    std::vector<double> lengths;
    std::vector<double> starts;
    double burstCharge = 0;
    double burstTime = 0;
    std::vector<double> burstLengths;
};

/// Short visits from a mode above sleep that come back to it are its bursts: they are marked, and
/// their stays become part of that mode's.
std::vector<Dwell> foldBursts(const Trace& t, const std::vector<Dwell>& stays,
                              std::vector<Tally>& tallies, std::vector<char>& isBurst) {
    std::vector<Dwell> whole;
    for (std::size_t i = 0; i < stays.size(); ++i) {
        const Dwell& s = stays[i];
        const bool visit = !whole.empty() && i + 1 < stays.size() &&
                           whole.back().mode == stays[i + 1].mode && whole.back().mode > 0 &&
                           whole.back().mode < s.mode && lasts(t, s) < kLongestBurst;
        if (visit) {
            Tally& b = tallies[whole.back().mode];
            for (std::size_t k = s.first; k < s.last; ++k) {
                isBurst[k] = 1;
                b.burstCharge += t.amps[k] * standsFor(t, k);
                b.burstTime += standsFor(t, k);
            }
            b.burstLengths.push_back(lasts(t, s));
            whole.back().last = s.last;
        } else if (!whole.empty() && whole.back().mode == s.mode) {
            whole.back().last = s.last;
        } else {
            whole.push_back(s);
        }
    }
    return whole;
}

/// `few`: so few stays that those at the trace's ends count as whole ones.
void tallyStay(const Trace& t, const Dwell& s, const std::vector<char>& isBurst, bool few,
               Tally& tally) {
    for (std::size_t k = s.first; k < s.last; ++k) {
        const double dt = standsFor(t, k);
        tally.time += dt;
        tally.charge += t.amps[k] * dt;
        if (isBurst[k])
            continue;
        tally.plainTime += dt;
        tally.plainCharge += t.amps[k] * dt;
        if (!t.volts.empty())
            tally.energy += t.amps[k] * t.volts[k] * dt;
        tally.square += t.amps[k] * t.amps[k] * dt;
        tally.samples.push_back(t.amps[k]);
    }
    const bool touchesEdge = s.first == 0 || s.last == t.amps.size();
    if (!touchesEdge || few)
        tally.lengths.push_back(lasts(t, s));
    if (s.first > 0)
        tally.starts.push_back(t.seconds[s.first]);
}

/// Mean, spread, peak, durations and bursts of a mode that something stays in.
TraceMode modeOf(Tally& tally) {
    TraceMode mode;
    if (tally.plainTime > 0) {
        mode.amps = tally.plainCharge / tally.plainTime;
        mode.watts = tally.energy / tally.plainTime;
        mode.spread =
            std::sqrt(std::max(0.0, tally.square / tally.plainTime - mode.amps * mode.amps));
        auto& list = tally.samples;
        const auto rank = static_cast<std::size_t>(kPeakShare * static_cast<double>(list.size()));
        const auto at = list.begin() + static_cast<std::ptrdiff_t>(std::min(list.size() - 1, rank));
        std::nth_element(list.begin(), at, list.end());
        mode.peak = *at;
    }
    mode.typicalSeconds = tally.lengths.empty() ? tally.time : median(tally.lengths);
    std::vector<double> gaps;
    for (std::size_t i = 1; i < tally.starts.size(); ++i)
        gaps.push_back(tally.starts[i] - tally.starts[i - 1]);
    mode.everySeconds = median(gaps);
    if (!tally.burstLengths.empty()) {
        mode.burstAmps = tally.burstCharge / tally.burstTime;
        mode.burstSeconds = median(tally.burstLengths);
        mode.burstsPerSecond = static_cast<double>(tally.burstLengths.size()) / tally.time;
    }
    return mode;
}

} // namespace

std::vector<double> findLevels(const Trace& trace) {
    const std::vector<Bin> bins = histogram(trace);
    if (bins.size() < 2 || bins.back().x - bins.front().x < std::log10(kConstant))
        return {centreOf(bins, 0, bins.size())};
    const int most = std::min<int>(kMostLevels, static_cast<int>(bins.size()));
    const auto candidates = clusters(bins, most);
    // The finest cut in which every level stands well apart; where there is none, the best on
    // average.
    std::vector<std::size_t> best;
    double bestMean = -2;
    bool apart = false;
    for (std::size_t k = 1; k < candidates.size(); ++k) {
        const Silhouette s = silhouette(bins, candidates[k]);
        const bool strong = s.weakest >= kStrong;
        if ((strong && !apart) || (strong == apart && (strong || s.mean > bestMean))) {
            bestMean = s.mean;
            best = candidates[k];
            apart = apart || strong;
        }
    }
    std::vector<double> levels;
    for (std::size_t c = 0; c < best.size(); ++c) {
        const double level =
            centreOf(bins, best[c], c + 1 < best.size() ? best[c + 1] : bins.size());
        if (levels.empty() || level > levels.back() * kSameLevel)
            levels.push_back(level);
    }
    return levels;
}

TraceSegments segmentTrace(const Trace& t, const std::vector<double>& levels) {
    TraceSegments cut;
    cut.stays = stays(t, levels);
    dropFlanks(cut.stays);
    std::vector<Tally> tallies(levels.size());
    std::vector<char> isBurst(t.amps.size(), 0);
    cut.stays = foldBursts(t, cut.stays, tallies, isBurst);
    for (const Dwell& s : cut.stays)
        tallyStay(t, s, isBurst, cut.stays.size() < 3, tallies[s.mode]);

    double allTime = 0;
    double allCharge = 0;
    for (const Tally& tally : tallies) {
        allTime += tally.time;
        allCharge += tally.charge;
    }
    // Levels that nothing stays at are none (a level of bursts only, say).
    std::vector<std::size_t> renumber(levels.size(), 0);
    for (std::size_t m = 0; m < levels.size(); ++m) {
        renumber[m] = cut.modes.size();
        if (!(tallies[m].time > 0))
            continue;
        TraceMode mode = modeOf(tallies[m]);
        mode.level = levels[m];
        mode.share = allTime > 0 ? tallies[m].time / allTime : 0;
        mode.chargeShare = allCharge != 0 ? tallies[m].charge / allCharge : 0;
        cut.modes.push_back(mode);
    }
    for (Dwell& s : cut.stays)
        s.mode = renumber[s.mode];
    cut.meanAmps = allTime > 0 ? allCharge / allTime : 0;
    cut.peakAmps = *std::max_element(t.amps.begin(), t.amps.end());
    cut.sleepCharge = cut.modes.empty() ? 0 : cut.modes.front().chargeShare;
    return cut;
}

std::vector<double> mergedLevels(const TraceSegments& cut, std::size_t index) {
    std::vector<double> levels;
    for (const TraceMode& mode : cut.modes)
        levels.push_back(mode.level);
    if (index == 0 || index >= levels.size())
        return levels;
    const double a = cut.modes[index - 1].share;
    const double b = cut.modes[index].share;
    levels[index - 1] =
        std::exp((a * std::log(levels[index - 1]) + b * std::log(levels[index])) / (a + b));
    levels.erase(levels.begin() + static_cast<std::ptrdiff_t>(index));
    return levels;
}

std::vector<double> splitLevels(const Trace& trace, const TraceSegments& cut, std::size_t index) {
    std::vector<double> levels;
    for (const TraceMode& mode : cut.modes)
        levels.push_back(mode.level);
    if (index >= levels.size() || levels.size() >= static_cast<std::size_t>(kMostLevels))
        return levels;
    const auto middle = [&](std::size_t i) { return std::log10(levels[i] * levels[i + 1]) / 2; };
    const double from = index == 0 ? -1e300 : middle(index - 1);
    const double to = index + 1 == levels.size() ? 1e300 : middle(index);
    std::vector<Bin> bins;
    for (const Bin& bin : histogram(trace))
        if (bin.x > from && bin.x < to)
            bins.push_back(bin);
    if (bins.size() < 2)
        return levels;
    const std::size_t cutAt = clusters(bins, 2).back()[1];
    const double low = centreOf(bins, 0, cutAt);
    const double high = centreOf(bins, cutAt, bins.size());
    levels[index] = low;
    levels.insert(levels.begin() + static_cast<std::ptrdiff_t>(index) + 1, high);
    return levels;
}

std::vector<TraceColumn> traceColumns(const Trace& t, double fromSeconds, double toSeconds,
                                      std::size_t count) {
    std::vector<TraceColumn> columns;
    if (t.seconds.empty() || count == 0 || toSeconds <= fromSeconds)
        return columns;
    const auto at = [&](double seconds) {
        return static_cast<std::size_t>(
            std::lower_bound(t.seconds.begin(), t.seconds.end(), seconds) - t.seconds.begin());
    };
    std::size_t first = at(fromSeconds);
    first -= first > 0;
    const std::size_t last = std::min(t.seconds.size(), at(toSeconds) + 1);
    columns.reserve(count + 2);
    const double wide = (toSeconds - fromSeconds) / static_cast<double>(count);
    std::size_t i = first;
    while (i < last) {
        const double column = std::floor((t.seconds[i] - fromSeconds) / wide);
        const double until = fromSeconds + (column + 1) * wide;
        TraceColumn c{t.seconds[i], t.amps[i], t.amps[i]};
        for (++i; i < last && t.seconds[i] < until; ++i) {
            c.low = std::min(c.low, t.amps[i]);
            c.high = std::max(c.high, t.amps[i]);
        }
        columns.push_back(c);
    }
    return columns;
}

TraceSegments segmentTrace(const Trace& trace) {
    return segmentTrace(trace, findLevels(trace));
}

} // namespace sipper
