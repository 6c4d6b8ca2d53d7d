// SPDX-License-Identifier: GPL-3.0-or-later
#include "explain/sweep.hpp"

#include "analysis/analysis.hpp"
#include "charge/charge.hpp"
#include "quantity/write.hpp"
#include "text/text.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr std::array<std::string_view, 8> kKeyNames{
    "runtime_h", "worst_a", "mean_pack_w", "mass_g", "price", "refill_h", "stop", "care"};
constexpr double kFound = 1e-4;   ///< of the span: how closely a break is found
constexpr double kJump = 0.05;    ///< of the hours
constexpr int kMostHalvings = 40; ///< of one break
constexpr int kMostBreaks = 8;    ///< between two neighbours

/// The place on the axis that is halved: x, or ln x.
struct Axis {
    bool logarithmic = false;
    [[nodiscard]] double at(double x) const { return logarithmic ? std::log(x) : x; }
    [[nodiscard]] double back(double t) const { return logarithmic ? std::exp(t) : t; }
};

enum class BreakKind { end, stop, hours };

class Sweeper {
  public:
    Sweeper(const Project& project, FieldPlace place, const SweepOptions& ask,
            const std::stop_token& stop)
        : m_place(std::move(place)), m_edit(project, m_place), m_ask(ask),
          m_stop(stop), m_axis{ask.logarithmic},
          m_close(kFound * std::abs(m_axis.at(ask.to) - m_axis.at(ask.from))) {}

    [[nodiscard]] SweepPoint solved(double x) const {
        SweepPoint point;
        point.x = x;
        auto with = m_edit.with(x);
        if (!with) {
            point.refused = with.error().message();
            return point;
        }
        const Project& p = with.value();
        point.grams = p.massGrams();
        point.price = p.totalPrice();
        if (wants(SweepKey::stops) || wants(SweepKey::cares))
            advise(p, point);
        else
            run(p, predictRuntime(p), point);
        if (wants(SweepKey::refillHours))
            if (const auto refill = refillOf(p))
                point.refillHours = refill->hoursToFull;
        return point;
    }

    /// Between two neighbours, from the left.
    [[nodiscard]] std::vector<SweepBreak> between(const SweepPoint& left,
                                                  const SweepPoint& right) const {
        std::vector<SweepBreak> list;
        if (left.refused || right.refused)
            return list;
        for (const BreakKind kind : {BreakKind::end, BreakKind::stop}) {
            if (kind == BreakKind::stop && !wants(SweepKey::stops))
                continue;
            SweepPoint from = left;
            for (int n = 0; n < kMostBreaks && differ(kind, from, right); ++n) {
                const auto [before, after] = narrowed(kind, from, right);
                if (m_stop.stop_requested() || before.refused || after.refused)
                    break;
                list.push_back(breakOf(kind, before, after));
                if (after.x == right.x)
                    break;
                from = after;
            }
        }
        jumps(left, right, kMostBreaks, list);
        return list;
    }

  private:
    [[nodiscard]] bool wants(SweepKey key) const { return m_ask.keys.contains(key); }

    static void run(const Project& p, const Runtime& runtime, SweepPoint& point) {
        if (runtime.hours)
            point.hours = runtime.hours->value();
        point.ending = runtime.ending;
        point.worstAmps = runtime.worstCurrent.value();
        point.packWatts = runtime.meanPower.value();
        point.endSays = runtime.ending.at.empty() ? runText(runtime) : endText(p, runtime.ending);
    }
    /// The jumps of the hours between two places: the largest, then those beside it. A change that
    /// is but steep ends it.
    void jumps(const SweepPoint& left, const SweepPoint& right, int most,
               std::vector<SweepBreak>& list) const {
        if (most == 0 || m_stop.stop_requested() || !differ(BreakKind::hours, left, right))
            return;
        const auto [before, after] = narrowed(BreakKind::hours, left, right);
        if (before.refused || after.refused || !differ(BreakKind::hours, before, after))
            return;
        list.push_back(breakOf(BreakKind::hours, before, after));
        jumps(left, before, most / 2, list);
        jumps(after, right, most / 2, list);
    }
    /// As `check` counts them: with the range of builds, where cares are asked for.
    void advise(const Project& p, SweepPoint& point) const {
        const QuickAnalysis quick = analyseQuick(p, {.bench = false}, m_stop, serialFor);
        run(p, quick.runtime, point);
        std::vector<Finding> findings = quick.findings;
        if (wants(SweepKey::cares)) {
            DeepOptions depth;
            depth.gains = depth.consequences = depth.cutoffPolicies = false;
            if (const auto deep = analyseDeep(p, quick, m_stop, depth, serialFor))
                findings = deep->findings;
        }
        point.stops = countOf(findings, Severity::stop);
        point.cares = countOf(findings, Severity::care);
        for (const Finding& f : findings)
            if (f.severity == Severity::stop)
                point.stopTitles.push_back(f.title);
    }

    [[nodiscard]] static bool differ(BreakKind kind, const SweepPoint& a, const SweepPoint& b) {
        switch (kind) {
        case BreakKind::end:
            return a.ending.at != b.ending.at || a.ending.mode != b.ending.mode ||
                   a.ending.reason != b.ending.reason;
        case BreakKind::stop:
            return a.stops != b.stops;
        case BreakKind::hours:
            if (!a.hours || !b.hours)
                return a.hours.has_value() != b.hours.has_value();
            return std::abs(*a.hours - *b.hours) > kJump * std::max(*a.hours, *b.hours);
        }
        return false;
    }

    /// The nearest two about the first change from the left that halving finds.
    [[nodiscard]] std::pair<SweepPoint, SweepPoint> narrowed(BreakKind kind, SweepPoint before,
                                                             SweepPoint after) const {
        for (int i = 0; i < kMostHalvings && !m_stop.stop_requested(); ++i) {
            const double low = m_axis.at(before.x);
            const double high = m_axis.at(after.x);
            double x = m_axis.back((low + high) / 2);
            if (m_place.whole())
                x = std::floor((before.x + after.x) / 2);
            if (x == before.x || x == after.x ||
                (!m_place.whole() && std::abs(high - low) <= m_close))
                break;
            SweepPoint middle = solved(x);
            if (middle.refused)
                return {middle, middle};
            const bool left = kind == BreakKind::hours ? gap(before, middle) < gap(middle, after)
                                                       : !differ(kind, before, middle);
            (left ? before : after) = std::move(middle);
        }
        return {std::move(before), std::move(after)};
    }
    /// How much of a jump of the hours lies between.
    [[nodiscard]] static double gap(const SweepPoint& a, const SweepPoint& b) {
        if (!a.hours || !b.hours)
            return a.hours.has_value() == b.hours.has_value()
                       ? 0
                       : std::numeric_limits<double>::infinity();
        return std::abs(*a.hours - *b.hours);
    }

    [[nodiscard]] SweepBreak breakOf(BreakKind kind, const SweepPoint& before,
                                     const SweepPoint& after) const {
        SweepBreak b;
        b.x =
            m_place.whole() ? after.x : m_axis.back((m_axis.at(before.x) + m_axis.at(after.x)) / 2);
        const auto stops = [](const SweepPoint& p) {
            std::string text = fmt::format("{}", p.stops);
            for (std::size_t i = 0; i < p.stopTitles.size(); ++i)
                text += (i == 0 ? ": " : "; ") + p.stopTitles[i];
            return text;
        };
        const auto hours = [](const SweepPoint& p) {
            return p.hours ? writeHours(*p.hours) : std::string("for ever");
        };
        switch (kind) {
        case BreakKind::end:
            b.what = "end";
            b.before = before.endSays;
            b.after = after.endSays;
            break;
        case BreakKind::stop:
            b.what = "stop";
            b.before = stops(before);
            b.after = stops(after);
            break;
        case BreakKind::hours:
            b.what = "hours";
            b.before = hours(before);
            b.after = hours(after);
            break;
        }
        return b;
    }

    FieldPlace m_place;
    FieldEdit m_edit;
    const SweepOptions& m_ask;
    const std::stop_token& m_stop;
    Axis m_axis;
    double m_close;
};

/// Where it is looked at: evenly; each whole number once, as long as they are not too many.
std::vector<double> placesOf(const FieldPlace& place, const SweepOptions& ask) {
    std::vector<double> list;
    const Axis axis{ask.logarithmic};
    const double first = std::ceil(ask.from);
    const double last = std::floor(ask.to);
    if (place.whole() && last - first < static_cast<double>(kMostSweepPoints)) {
        for (double x = first; x <= last; ++x)
            list.push_back(x);
        return list;
    }
    const double a = axis.at(ask.from);
    const double b = axis.at(ask.to);
    for (std::size_t i = 0; i < ask.points; ++i) {
        const double share = static_cast<double>(i) / static_cast<double>(ask.points - 1);
        double x = i == 0                ? ask.from
                   : i + 1 == ask.points ? ask.to
                                         : axis.back(a + (b - a) * share);
        if (place.whole())
            x = std::round(x);
        if (list.empty() || x != list.back())
            list.push_back(x);
    }
    return list;
}

} // namespace

std::string_view nameOfKey(SweepKey key) {
    return kKeyNames[static_cast<std::size_t>(key)];
}

std::optional<SweepKey> sweepKeyOf(std::string_view name) {
    const auto found = std::find(kKeyNames.begin(), kKeyNames.end(), name);
    if (found == kKeyNames.end())
        return {};
    return static_cast<SweepKey>(found - kKeyNames.begin());
}

std::set<SweepKey> allSweepKeys() {
    std::set<SweepKey> all;
    for (std::size_t i = 0; i < kKeyNames.size(); ++i)
        all.insert(static_cast<SweepKey>(i));
    return all;
}

Outcome<Sweep> sweepOf(const Project& project, std::string_view field, const SweepOptions& ask,
                       const std::stop_token& stop, const ParallelFor& pieces) {
    auto place = fieldAt(project, field);
    if (!place)
        return place.error();
    if (!(ask.from != ask.to) || !std::isfinite(ask.from) || !std::isfinite(ask.to))
        return Error{"range", "--to", writeExact(ask.to, place.value().facts.unit),
                     "another value than --from", ""};
    if (ask.logarithmic && (ask.from <= 0 || ask.to <= 0))
        return Error{"range", ask.from <= 0 ? "--from" : "--to",
                     writeExact(std::min(ask.from, ask.to), place.value().facts.unit),
                     "a value above 0, for a logarithmic span", ""};
    if (ask.points < 2 || ask.points > kMostSweepPoints)
        return Error{"range", "--points", fmt::format("{}", ask.points),
                     fmt::format("2 to {}", kMostSweepPoints), ""};
    Sweep out;
    out.field = std::move(place).value();
    SweepOptions rising = ask;
    if (ask.to < ask.from)
        std::swap(rising.from, rising.to);
    const Sweeper sweeper(project, out.field, rising, stop);
    const std::vector<double> places = placesOf(out.field, rising);
    if (places.size() < 2)
        return Error{"range", "--to", writeExact(ask.to, out.field.facts.unit),
                     "two whole numbers at least between --from and --to", ""};
    out.points.resize(places.size());
    pieces(places.size(), [&](std::size_t i) {
        if (!stop.stop_requested())
            out.points[i] = sweeper.solved(places[i]);
    });
    if (!ask.breaks || stop.stop_requested())
        return out;
    std::vector<std::vector<SweepBreak>> breaks(places.size() - 1);
    pieces(breaks.size(), [&](std::size_t i) {
        if (!stop.stop_requested())
            breaks[i] = sweeper.between(out.points[i], out.points[i + 1]);
    });
    for (std::vector<SweepBreak>& some : breaks)
        out.breaks.insert(out.breaks.end(), std::make_move_iterator(some.begin()),
                          std::make_move_iterator(some.end()));
    std::stable_sort(out.breaks.begin(), out.breaks.end(),
                     [](const SweepBreak& a, const SweepBreak& b) { return a.x < b.x; });
    return out;
}

} // namespace sipper
