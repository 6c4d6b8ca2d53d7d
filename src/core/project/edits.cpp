// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/edits.hpp"

#include "parts/figures.hpp"
#include "project/library.hpp"
#include "quantity/read.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kNewModeSeconds = 1;
constexpr double kNewModePeriod = 60;
constexpr double kMostVolts = 100; ///< of a threshold that is dragged

template <class T>
void moveItem(std::vector<T>& list, std::string_view id, int by) {
    const auto at = std::find_if(list.begin(), list.end(), [&](const T& x) { return x.id == id; });
    if (at == list.end())
        return;
    const auto from = at - list.begin();
    const auto to =
        std::clamp<std::ptrdiff_t>(from + by, 0, static_cast<std::ptrdiff_t>(list.size()) - 1);
    if (to > from)
        std::rotate(list.begin() + from, list.begin() + from + 1, list.begin() + to + 1);
    else
        std::rotate(list.begin() + to, list.begin() + from, list.begin() + from + 1);
}

std::string trimmed(std::string_view text) {
    const auto first = text.find_first_not_of(" \t");
    return first == std::string_view::npos
               ? std::string()
               : std::string(text.substr(first, text.find_last_not_of(" \t") - first + 1));
}

/// `9:00`, `09:00` or `9`: as HH:MM.
std::string clockOf(std::string_view text) {
    std::string t = trimmed(text);
    if (t.find(':') == std::string::npos && !t.empty())
        t += ":00";
    if (t.size() == 4)
        t = "0" + t;
    return t;
}

} // namespace

std::optional<Error> setDraw(Draw& draw, std::string_view text) {
    const auto put = [&](auto current, auto power, auto resistance) {
        draw.current = current;
        draw.power = power;
        draw.resistance = resistance;
        draw.led.reset();
        draw.ledVolts.reset();
    };
    const std::optional<Amps> noAmps;
    const std::optional<Watts> noWatts;
    const std::optional<Ohms> noOhms;
    // A light string: `20 mA over 2.8 V`.
    if (const auto over = text.find("over"); over != std::string_view::npos) {
        const auto amps = readQuantity(trimmed(text.substr(0, over)), Unit::ampere);
        const auto volts = readQuantity(trimmed(text.substr(over + 4)), Unit::volt);
        if (!amps || !volts || amps.value() < 0 || amps.value() > 1000 || volts.value() <= 0)
            return Error{"quantity", "", "\"" + std::string(text) + "\"",
                         "what a light string draws, and the volts where it goes dark, such as "
                         "20 mA over 2.8 V",
                         ""};
        put(noAmps, noWatts, noOhms);
        draw.led = Amps{amps.value()};
        draw.ledVolts = Volts{volts.value()};
        return std::nullopt;
    }
    if (const auto amps = readQuantity(text, Unit::ampere)) {
        if (amps.value() < 0 || amps.value() > 1000)
            return Error{"range", "", std::string(text), "a current from 0 to 1000 A", ""};
        put(std::optional(Amps{amps.value()}), noWatts, noOhms);
        return std::nullopt;
    }
    if (const auto watts = readQuantity(text, Unit::watt)) {
        if (watts.value() < 0 || watts.value() > 1e6)
            return Error{"range", "", std::string(text), "a power from 0 to 1 MW", ""};
        put(noAmps, std::optional(Watts{watts.value()}), noOhms);
        return std::nullopt;
    }
    if (const auto ohms = readQuantity(text, Unit::ohm)) {
        if (ohms.value() <= 0)
            return Error{"range", "", std::string(text), "a resistance above 0", ""};
        put(noAmps, noWatts, std::optional(Ohms{ohms.value()}));
        return std::nullopt;
    }
    return Error{"quantity", "", "\"" + std::string(text) + "\"",
                 "a draw, such as 3m8, 120 mA, 0.6 W, 47 ohm or 20 mA over 2.8 V", ""};
}

std::string drawText(const Draw& draw) {
    if (draw.current)
        return writeExact(draw.current->value(), Unit::ampere);
    if (draw.power)
        return writeExact(draw.power->value(), Unit::watt);
    if (draw.led && draw.ledVolts)
        return writeExact(draw.led->value(), Unit::ampere) + " over " +
               writeExact(draw.ledVolts->value(), Unit::volt);
    return draw.resistance ? writeExact(draw.resistance->value(), Unit::ohm) : std::string();
}

const Draw* drawIn(const Project& p, const Load& load, std::size_t mode) {
    const Draw* base = nullptr;
    for (const Draw& d : load.draws) {
        if (d.mode == p.modes[mode].id)
            return &d;
        if (d.mode == p.modes[p.baseMode()].id)
            base = &d;
    }
    return base;
}

Draw& ownDrawIn(const Project& p, Load& load, std::size_t mode) {
    for (Draw& d : load.draws)
        if (d.mode == p.modes[mode].id)
            return d;
    Draw fresh;
    if (const Draw* base = drawIn(p, load, mode))
        fresh = *base;
    else
        fresh.current = Amps{0};
    fresh.mode = p.modes[mode].id;
    load.draws.push_back(fresh);
    return load.draws.back();
}

std::optional<Volts> thresholdOf(const Stage& stage, Threshold which) {
    const auto* guard = std::get_if<Guard>(&stage.part);
    switch (which) {
    case Threshold::setPoint:
        return setPointOf(stage.part);
    case Threshold::cutoff:
        return guard ? std::optional(guard->cutoff) : std::nullopt;
    case Threshold::reconnect:
        return guard ? guard->reconnect : std::nullopt;
    }
    return std::nullopt;
}

Project withThreshold(Project p, std::string_view id, Threshold which, Volts volts, Volts least) {
    Stage* stage = p.stage(id);
    if (!stage || !thresholdOf(*stage, which))
        return p;
    Volts tidy{std::clamp(std::round(volts.value() * 1000) / 1000, least.value(), kMostVolts)};
    if (which == Threshold::setPoint) {
        static_cast<void>(setPointTo(stage->part, tidy));
        return p;
    }
    // Cut-off stays under reconnect: the other threshold is the wall.
    auto& guard = std::get<Guard>(stage->part);
    if (which == Threshold::cutoff)
        guard.cutoff = guard.reconnect ? std::min(tidy, *guard.reconnect) : tidy;
    else
        guard.reconnect = std::max(tidy, guard.cutoff);
    return p;
}

Project withNewLoad(Project p) {
    if (p.stages.empty())
        return p;
    Load load;
    load.id = freeId(p, "load");
    load.label = "New load";
    load.fedBy = p.loads.empty() ? p.stages.back().id : p.loads.back().fedBy;
    if (p.loads.empty()) {
        load.window.min = Volts{3.0};
        load.window.max = Volts{5.5};
    } else {
        load.window = p.loads.back().window;
    }
    Draw draw;
    draw.mode = p.modes[p.baseMode()].id;
    draw.current = Amps{0.001};
    draw.basis = Basis::guess;
    load.draws.push_back(draw);
    p.loads.push_back(load);
    return p;
}

Project withoutLoad(Project p, std::string_view id) {
    std::erase_if(p.loads, [&](const Load& l) { return l.id == id; });
    return p;
}

Project withLoadMoved(Project p, std::string_view id, int by) {
    moveItem(p.loads, id, by);
    return p;
}

Project withNewMode(Project p) {
    Mode mode;
    mode.id = freeModeId(p);
    mode.label = "New mode";
    mode.duration = Seconds{kNewModeSeconds};
    mode.every = Seconds{kNewModePeriod};
    p.modes.push_back(mode);
    return p;
}

Project withoutMode(Project p, std::string_view id) {
    const Mode* mode = p.mode(id);
    if (!mode || mode->isBase())
        return p;
    const std::string gone(id);
    std::erase_if(p.modes, [&](const Mode& m) { return m.id == gone || m.within == gone; });
    for (Load& load : p.loads)
        std::erase_if(load.draws, [&](const Draw& d) { return !p.mode(d.mode); });
    return p;
}

Project withModeMoved(Project p, std::string_view id, int by) {
    moveItem(p.modes, id, by);
    return p;
}

Outcome<std::vector<std::pair<std::string, std::string>>> readWindows(std::string_view text) {
    std::vector<std::pair<std::string, std::string>> windows;
    std::string plain(text);
    for (const char* dash : {"–", "—", "−"})
        for (auto at = plain.find(dash); at != std::string::npos; at = plain.find(dash))
            plain.replace(at, 3, "-");
    std::size_t from = 0;
    while (from <= plain.size()) {
        const std::size_t to = std::min(plain.find_first_of(",;", from), plain.size());
        const std::string piece = trimmed(std::string_view(plain).substr(from, to - from));
        const auto dash = piece.find('-');
        const std::string a = clockOf(piece.substr(0, dash));
        const std::string b =
            dash == std::string::npos ? std::string() : clockOf(piece.substr(dash + 1));
        if (!clockMinutes(a) || !clockMinutes(b) || a == b)
            return Error{"window", "", "\"" + piece + "\"",
                         "times such as 21:00-01:00, several with a comma between", ""};
        windows.emplace_back(a, b);
        from = to + 1;
    }
    return windows;
}

std::string windowsText(const Mode& mode) {
    std::string text;
    for (const auto& [from, to] : mode.daily)
        text += fmt::format("{}{}–{}", text.empty() ? "" : ", ", from, to);
    return text;
}

} // namespace sipper
