// SPDX-License-Identifier: GPL-3.0-or-later
#include "explain/sweeptext.hpp"

#include "quantity/write.hpp"
#include "runtime/runtime.hpp"
#include "sheet/report.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kWide = 640;
constexpr double kHigh = 320;
constexpr double kLeft = 64;
constexpr double kRight = 40;
constexpr double kTop = 34;
constexpr double kBottom = 46;
constexpr int kTicks = 4;
constexpr std::size_t kMostCounts = 16; ///< whole numbers that are written at the axis
constexpr double kDot = 7;

std::string plainNumber(const std::optional<double>& value) {
    return value ? fmt::format("{:.10g}", *value) : std::string();
}

/// Where a value stands on the paper.
struct Frame {
    double low = 0;
    double high = 1;
    double most = 1; ///< hours
    bool logarithmic = false;
    [[nodiscard]] double x(double value) const {
        const auto at = [&](double v) { return logarithmic ? std::log(v) : v; };
        const double share = (at(value) - at(low)) / (at(high) - at(low));
        return kLeft + share * (kWide - kLeft - kRight);
    }
    [[nodiscard]] double y(double hours) const {
        return kHigh - kBottom - hours / most * (kHigh - kTop - kBottom);
    }
};

DrawnText textAt(double x, double y, std::string words, Ink ink = Ink::muted, bool left = false) {
    DrawnText t;
    t.x = x;
    t.y = y;
    t.ink = ink;
    t.left = left;
    t.text = std::move(words);
    return t;
}

void addAxes(Drawing& d, const Sweep& sweep, const Frame& frame) {
    for (int i = 0; i <= kTicks; ++i) {
        const double share = static_cast<double>(i) / kTicks;
        const double hours = frame.most * share;
        d.lines.push_back(
            {{{kLeft, frame.y(hours)}, {kWide - kRight, frame.y(hours)}}, Ink::hairline, 1, false});
        d.texts.push_back(textAt(kLeft - 32, frame.y(hours) + 4,
                                 hours > 0 ? writeHours(hours) : std::string("0 h")));
        if (sweep.field.whole())
            continue;
        const double x = frame.logarithmic ? frame.low * std::pow(frame.high / frame.low, share)
                                           : frame.low + (frame.high - frame.low) * share;
        d.texts.push_back(
            textAt(frame.x(x), kHigh - kBottom + 18, writeQuantity(x, sweep.field.facts.unit)));
    }
    // Of whole numbers those that were tried.
    const std::size_t each = sweep.points.size() / kMostCounts + 1;
    for (std::size_t i = 0; sweep.field.whole() && i < sweep.points.size(); i += each)
        d.texts.push_back(textAt(frame.x(sweep.points[i].x), kHigh - kBottom + 18,
                                 fmt::format("{:g}", sweep.points[i].x)));
    d.texts.push_back(textAt(kWide / 2, kHigh - 8, sweep.field.says, Ink::ink));
    DrawnText title = textAt(kLeft, 18, "Runs for, over " + sweep.field.says, Ink::ink, true);
    title.bold = true;
    title.size = 13;
    d.texts.push_back(title);
}

/// Hours as a line, parted where there is nothing and at a jump; breaks as upright lines.
void addCurve(Drawing& d, const Sweep& sweep, const Frame& frame) {
    for (const SweepBreak& b : sweep.breaks)
        d.lines.push_back({{{frame.x(b.x), kTop}, {frame.x(b.x), kHigh - kBottom}},
                           b.what == "hours" ? Ink::muted : Ink::stop,
                           1,
                           true});
    DrawnLine line;
    const auto part = [&] {
        if (line.points.size() > 1)
            d.lines.push_back(line);
        line.points.clear();
    };
    for (std::size_t i = 0; i < sweep.points.size(); ++i) {
        const SweepPoint& p = sweep.points[i];
        const auto jumps = [&](const SweepBreak& b) {
            return b.what == "hours" && i > 0 && b.x > sweep.points[i - 1].x && b.x <= p.x;
        };
        if (!p.hours || std::any_of(sweep.breaks.begin(), sweep.breaks.end(), jumps))
            part();
        if (p.hours)
            line.points.emplace_back(frame.x(p.x), frame.y(*p.hours));
    }
    part();
}

/// Of whole numbers a dot each: nothing lies between.
void addDots(Drawing& d, const Sweep& sweep, const Frame& frame) {
    for (const SweepPoint& p : sweep.points)
        if (p.hours)
            d.boxes.push_back({frame.x(p.x) - kDot / 2, frame.y(*p.hours) - kDot / 2, kDot, kDot,
                               kDot / 2, Ink::copper, Ink::copper, 1});
}

} // namespace

std::optional<double> figureOf(const SweepPoint& p, SweepKey key) {
    if (p.refused)
        return {};
    switch (key) {
    case SweepKey::runtimeHours:
        return p.hours;
    case SweepKey::worstAmps:
        return p.worstAmps;
    case SweepKey::packWatts:
        return p.packWatts;
    case SweepKey::grams:
        return p.grams;
    case SweepKey::price:
        return p.price;
    case SweepKey::refillHours:
        return p.refillHours;
    case SweepKey::stops:
        return p.stops;
    case SweepKey::cares:
        return p.cares;
    }
    return {};
}

std::string sweepCsv(const Sweep& sweep, const std::set<SweepKey>& keys) {
    std::string out = "x,ended_at,ended_mode,ended_reason";
    for (const SweepKey key : keys)
        out += "," + std::string(nameOfKey(key));
    out += ",refused\r\n";
    for (const SweepPoint& p : sweep.points) {
        appendCsvField(out, plainNumber(p.x), false);
        appendCsvField(out, p.ending.at, false);
        appendCsvField(out, p.ending.mode, false);
        appendCsvField(out, p.refused ? std::string() : std::string(reasonName(p.ending.reason)),
                       false);
        for (const SweepKey key : keys)
            appendCsvField(out, plainNumber(figureOf(p, key)), false);
        appendCsvField(out, p.refused.value_or(""), true);
    }
    return out;
}

Drawing sweepDrawing(const Sweep& sweep, bool logarithmic) {
    Drawing d;
    d.width = kWide;
    d.height = kHigh;
    Frame frame;
    frame.logarithmic = logarithmic;
    frame.low = sweep.points.front().x;
    frame.high = sweep.points.back().x;
    frame.most = 0;
    for (const SweepPoint& p : sweep.points)
        frame.most = std::max(frame.most, p.hours.value_or(0));
    frame.most = frame.most > 0 ? frame.most * 1.1 : 1;
    addAxes(d, sweep, frame);
    sweep.field.whole() ? addDots(d, sweep, frame) : addCurve(d, sweep, frame);
    if (const auto now = sweep.field.now; now && *now >= frame.low && *now <= frame.high) {
        d.lines.push_back(
            {{{frame.x(*now), kTop}, {frame.x(*now), kHigh - kBottom}}, Ink::charge, 1.5, false});
        d.texts.push_back(textAt(frame.x(*now), kTop - 4,
                                 "now " + writeExact(*now, sweep.field.facts.unit), Ink::charge));
    }
    return d;
}

std::string breakText(const FieldPlace& field, const SweepBreak& one) {
    return fmt::format("{} at {}: {}, then {}", one.what, writeQuantity(one.x, field.facts.unit),
                       one.before, one.after);
}

} // namespace sipper
