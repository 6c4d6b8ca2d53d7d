// SPDX-License-Identifier: GPL-3.0-or-later
#include "measure/text.hpp"

#include "parts/kinds.hpp"
#include "project/tree.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

std::string modeName(const Project& p, const std::string& id) {
    const Mode* mode = p.mode(id);
    return mode ? nameOf(*mode) : id;
}

std::string quantityText(PointQuantity q) {
    switch (q) {
    case PointQuantity::vIn:
        return "volts at its input";
    case PointQuantity::iIn:
        return "current into it";
    case PointQuantity::vOut:
        return "volts at its output";
    case PointQuantity::iOut:
        return "current out of it";
    case PointQuantity::partC:
        return "its temperature";
    case PointQuantity::v:
        return "volts at it";
    case PointQuantity::i:
        return "current into it";
    }
    return {};
}

} // namespace

std::string checkTitle(const Project& p, const BenchCheck& c) {
    std::string name = nameAt(p, c.at);
    const std::string mode = modeName(p, c.mode);
    switch (c.kind) {
    case CheckKind::openCircuit:
        return name + ", nothing connected";
    case CheckKind::setPoint:
        return name + ", nothing on it";
    case CheckKind::currentLimit:
        return name + ", its current limit";
    case CheckKind::idle:
        return fmt::format("All connected, “{}”", mode);
    case CheckKind::draw:
        return fmt::format("Draw in “{}”", mode);
    case CheckKind::sag:
        return fmt::format("{} in “{}”", name, mode);
    case CheckKind::cutoff:
        return name + " opens at";
    case CheckKind::reconnect:
        return name + " closes again at";
    case CheckKind::warmest:
        return fmt::format("{} after 20 min of “{}”", name, mode);
    case CheckKind::chargeCurrent:
        return c.light ? fmt::format("{} charges at 30 %, {:g} W/m² on the panel", name, *c.light)
                       : name + " charges at 30 %";
    case CheckKind::chargeEnd:
        return name + " ends its charge at";
    case CheckKind::point:
        return fmt::format("{}: {} in “{}”", name, quantityText(c.quantity), mode);
    }
    return name;
}

namespace {

bool isPackAt(const Project& p, const std::string& id) {
    const Stage* stage = p.stage(id);
    return stage && std::holds_alternative<Pack>(stage->part);
}

} // namespace

std::string checkWhere(const Project& p, const BenchCheck& c) {
    switch (c.kind) {
    case CheckKind::openCircuit:
        return "volts across its terminals, polarity first";
    case CheckKind::setPoint:
        return "volts at its output, before anything hangs on it";
    case CheckKind::currentLimit:
        return "amps at its output, into a load that asks for more";
    case CheckKind::idle:
    case CheckKind::draw:
        return isPackAt(p, c.at) ? "amps in the plus lead of the cells" : "amps in its plus lead";
    case CheckKind::sag:
        return p.load(c.at)        ? "volts at its own terminals"
               : isPackAt(p, c.at) ? "volts across the cells"
                                   : "volts at its plug";
    case CheckKind::cutoff:
        return "volts at its input, lowered on a bench supply";
    case CheckKind::reconnect:
        return "volts at its input, raised again";
    case CheckKind::warmest:
        return "its hottest face, in still air";
    case CheckKind::chargeCurrent:
        return c.light ? "amps into the pack, the device in its base mode, the panel square to the "
                         "light"
                       : "amps into the pack, the device in its base mode";
    case CheckKind::chargeEnd:
        return "amps into the pack, just before it stops";
    case CheckKind::point:
        return quantityText(c.quantity);
    }
    return {};
}

std::string checkFigure(const BenchCheck& c, double value) {
    return writeQuantity(value, unitRead(c.kind, c.quantity));
}

namespace {

constexpr int kMostDigits = 6;

double toDigits(double value, int digits) {
    if (value == 0 || !std::isfinite(value))
        return value;
    const double scale = std::pow(10.0, digits - 1 - std::floor(std::log10(std::abs(value))));
    return std::round(value * scale) / scale;
}

} // namespace

std::string readingFigure(const BenchCheck& c, double value) {
    // Every digit that a hand meter has; of more, six.
    return writeExact(toDigits(value, kMostDigits), unitRead(c.kind, c.quantity));
}

namespace {

/// A learned thing as a cause: `by what the cells hold`.
std::string causeName(const Project& p, const std::string& id) {
    return id == "health"       ? "by what the cells hold"
           : id == "resistance" ? "by their resistance"
                                : "by " + tunedName(p, id);
}

} // namespace

std::string comparedText(const RunComparison& run) {
    return fmt::format("It ran {} where {} ({} – {}) was predicted: {}.",
                       writeHours(run.measuredHours), writeHours(run.predictedHours),
                       writeHours(run.lowHours), writeHours(run.highHours),
                       run.inside()                       ? "inside eight builds in ten"
                       : run.measuredHours < run.lowHours ? "shorter than nine builds in ten"
                                                          : "longer than nine builds in ten");
}

std::string becauseText(const Project& project, const RunComparison& run) {
    constexpr double kWorthSaying = 1.0 / 120; ///< h
    const double off = run.measuredHours - run.predictedHours;
    if (std::abs(off) < kWorthSaying)
        return "As predicted, within half a minute.";
    std::string text = writeHours(std::abs(off)) + (off < 0 ? " short" : " more");
    std::string why;
    double told = 0;
    for (const auto& [id, hours] : run.attribution) {
        told += hours;
        if (std::abs(hours) < kWorthSaying)
            continue;
        why += fmt::format("{}{}{} {}", why.empty() ? "" : ", ",
                           (hours < 0) == (off < 0) ? "" : "less ", writeHours(std::abs(hours)),
                           causeName(project, id));
    }
    if (!why.empty() && std::abs(off - told) >= kWorthSaying)
        why += fmt::format(", {} unexplained", writeHours(std::abs(off - told)));
    return text + (why.empty() ? "; nothing that was learned explains it." : ": " + why + ".");
}

std::string writeSpan(double low, double high, Unit unit) {
    if (unit == Unit::celsius)
        return fmt::format("{:.0f} – {:.0f} °C", low, high);
    static constexpr std::array prefixes{std::pair{1.0, ""}, std::pair{1e-3, "m"},
                                         std::pair{1e-6, "µ"}, std::pair{1e-9, "n"}};
    const double size = std::max(std::abs(low), std::abs(high));
    auto prefix = std::find_if(prefixes.begin(), prefixes.end(),
                               [&](const auto& p) { return size >= p.first; });
    if (prefix == prefixes.end())
        prefix = prefixes.end() - 1;
    const double a = low / prefix->first;
    const double b = high / prefix->first;
    // Two digits of the span, and no more decimals than that takes.
    const double span = std::abs(b - a);
    const int decimals =
        span > 0 ? std::clamp(1 - static_cast<int>(std::floor(std::log10(span))), 0, 4) : 2;
    return fmt::format("{:.{}f} – {:.{}f} {}{}", a, decimals, b, decimals, prefix->second,
                       unitSymbol(unit));
}

std::string sourceText(const Project& p, const std::string& id) {
    const auto slash = id.find('/');
    const std::string what = id.substr(0, slash);
    const std::string rest = slash == std::string::npos ? std::string() : id.substr(slash + 1);
    if (what == "charge")
        return "how full the cells are";
    if (what == "draw") {
        const auto second = rest.find('/');
        return fmt::format("what {} draws in “{}”", nameAt(p, rest.substr(0, second)),
                           modeName(p, rest.substr(second + 1)));
    }
    const std::string name = nameAt(p, rest);
    static constexpr std::array words{
        std::pair{"resistance", "the resistance of"}, std::pair{"losses", "the losses of"},
        std::pair{"set", "the set-point of"},         std::pair{"thermal", "how well heat leaves"},
        std::pair{"cutoff", "the cut-off of"},        std::pair{"reconnect", "the reconnect of"},
        std::pair{"limit", "the limit of"},           std::pair{"volts", "the volts of"},
        std::pair{"current", "the set current of"},   std::pair{"end", "the end current of"}};
    for (const auto& [key, text] : words)
        if (what == key)
            return fmt::format("{} {}", text, name);
    return id;
}

std::string tunedName(const Project& p, const std::string& id) {
    if (id == "health")
        return "Cells hold";
    if (id == "resistance")
        return "Cells' resistance";
    const auto slash = id.find('/');
    const std::string what = id.substr(0, slash);
    const std::string rest = slash == std::string::npos ? std::string() : id.substr(slash + 1);
    if (what == "draw") {
        const auto second = rest.rfind('/');
        return fmt::format("{} in “{}”", nameAt(p, rest.substr(0, second)),
                           modeName(p, rest.substr(second + 1)));
    }
    const std::string name = nameAt(p, rest);
    return what == "quiescent" ? "Own use of " + name
           : what == "fixed"   ? "Fixed loss of " + name
                               : "Loss by amps of " + name;
}

std::string tunedFigure(const CalibratedParameter& t) {
    const double whole = t.id == "health" ? 1 : t.before;
    return fmt::format("{:.0f} % ± {:.2g}", t.after / whole * 100, t.sigma / whole * 100);
}

std::string leftAloneText(const Project& p, const Calibration& c) {
    std::string out;
    for (const auto& [why, words] : {std::pair{"not_seen", "nothing that was read depends on them"},
                                     std::pair{"weak", "the readings hardly tell"},
                                     std::pair{"tied", "not told apart from another"}}) {
        std::vector<std::string> names;
        for (const auto& [id, reason] : c.notFitted)
            if (reason == why)
                names.push_back(tunedName(p, id));
        if (!names.empty())
            out += fmt::format("{}{} ({})", out.empty() ? "Left alone: " : "; ", listText(names),
                               words);
    }
    return out.empty() ? out : out + ".";
}

std::string contributionText(const Project& p, const BenchCheck& c) {
    if (c.verdict != CheckVerdict::outside || !c.value || !c.expect)
        return {};
    const Unit unit = unitRead(c.kind, c.quantity);
    const double off = *c.value - *c.expect;
    std::string out;
    for (const BenchCheck::Contribution& m : c.contributions) {
        const double moves = off > 0 ? m.up : m.down;
        if (moves == 0)
            continue;
        out += fmt::format("{}{} ({}{})", out.empty() ? "" : ", ", sourceText(p, m.source),
                           moves > 0 ? "+" : "−", writeQuantity(std::abs(moves), unit));
    }
    const std::string gap = fmt::format("{} {} than expected. ", writeQuantity(std::abs(off), unit),
                                        off > 0 ? "more" : "less");
    return out.empty() ? gap + "Nothing in the model moves it that way: measure again, look at "
                               "contacts and leads."
                       : gap + "At its limit each moves it by: " + out +
                             ". If that is not enough, it is a contact, a lead or another part.";
}

std::string checkBand(const BenchCheck& c) {
    return c.expect ? writeSpan(c.coverageLow, c.coverageHigh, unitRead(c.kind, c.quantity))
                    : "the supply collapses";
}

} // namespace sipper
