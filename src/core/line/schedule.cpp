// SPDX-License-Identifier: GPL-3.0-or-later
#include "line/schedule.hpp"

#include <algorithm>
#include <cassert>
#include <cmath>
#include <limits>

namespace sipper {
namespace {

constexpr double kDay = 1440;
constexpr double kForEver = std::numeric_limits<double>::infinity();

/// Longest unbroken stretch of a windowed mode, in minutes, over midnight too.
double longestWindow(const std::vector<DayInterval>& day, std::size_t setting) {
    double best = 0;
    double run = 0;
    for (int lap = 0; lap < 2; ++lap)
        for (const DayInterval& span : day) {
            run = span.setting == setting ? run + span.to - span.from : 0;
            best = std::max(best, run);
        }
    return best >= kDay ? kForEver : best;
}

ModeMix makeSetting(const Project& p, const std::string& window, double fillSeconds) {
    ModeMix s;
    s.name = window;
    double left = 1;
    std::size_t filler = p.baseMode();
    for (std::size_t i = 0; i < p.modes.size(); ++i) {
        const Mode& m = p.modes[i];
        if (!window.empty() && m.id == window)
            filler = i;
        if (m.repeats() && (m.within.empty() || m.within == window))
            left -= m.duration->value() / m.every->value();
    }
    for (std::size_t i = 0; i < p.modes.size(); ++i) {
        const Mode& m = p.modes[i];
        if (i == filler)
            s.shares.push_back({i, left > 1e-9 ? left : 0, fillSeconds, true});
        else if (m.repeats() && (m.within.empty() || m.within == window))
            s.shares.push_back(
                {i, m.duration->value() / m.every->value(), m.duration->value(), false});
    }
    return s;
}

} // namespace

const Share& ModeMix::filler() const {
    const auto at =
        std::find_if(shares.begin(), shares.end(), [](const Share& s) { return s.fills; });
    assert(at != shares.end());
    return *at;
}

Schedule::Schedule(const Project& project) {
    std::vector<std::size_t> windowed;
    std::vector<double> edges{0, kDay};
    for (std::size_t i = 0; i < project.modes.size(); ++i) {
        if (!project.modes[i].isWindowed())
            continue;
        windowed.push_back(i);
        for (const auto& [from, to] : project.modes[i].daily) {
            edges.push_back(clockMinutes(from).value_or(0));
            edges.push_back(clockMinutes(to).value_or(0));
        }
    }
    std::sort(edges.begin(), edges.end());
    edges.erase(std::unique(edges.begin(), edges.end()), edges.end());
    const auto open = [&](std::size_t mode, double minute) {
        for (const auto& [fromText, toText] : project.modes[mode].daily) {
            const double from = clockMinutes(fromText).value_or(0) % 1440;
            double to = clockMinutes(toText).value_or(0);
            if (to <= from)
                to += kDay;
            if ((minute >= from && minute < to) || (minute + kDay >= from && minute + kDay < to))
                return true;
        }
        return false;
    };
    for (std::size_t i = 0; i + 1 < edges.size(); ++i) {
        std::size_t setting = 0;
        for (std::size_t k = 0; k < windowed.size(); ++k)
            if (open(windowed[k], (edges[i] + edges[i + 1]) / 2))
                setting = k + 1;
        if (!day.empty() && day.back().setting == setting)
            day.back().to = edges[i + 1];
        else
            day.push_back({edges[i], edges[i + 1], setting});
    }
    settings.push_back(makeSetting(project, "", kForEver));
    for (std::size_t k = 0; k < windowed.size(); ++k)
        settings.push_back(
            makeSetting(project, project.modes[windowed[k]].id, 60 * longestWindow(day, k + 1)));
}

std::vector<double> Schedule::hoursBySetting() const {
    std::vector<double> hours(settings.size(), 0);
    for (const DayInterval& span : day)
        hours[span.setting] += (span.to - span.from) / 60;
    return hours;
}

std::vector<double> Schedule::modeShares(std::size_t modes) const {
    const std::vector<double> hours = hoursBySetting();
    std::vector<double> shares(modes, 0);
    for (std::size_t s = 0; s < settings.size(); ++s)
        for (const Share& share : settings[s].shares)
            shares[share.mode] += share.share * hours[s] / 24;
    return shares;
}

std::size_t Schedule::settingOf(const Project& project, std::size_t mode) const {
    const Mode& m = project.modes[mode];
    const std::string& window = m.isWindowed() ? m.id : m.within;
    for (std::size_t i = 0; i < settings.size(); ++i)
        if (settings[i].name == window)
            return i;
    return 0;
}

Schedule::Now Schedule::at(double minute) const {
    if (day.size() == 1)
        return {day[0].setting, kForEver};
    minute = std::fmod(minute, kDay);
    for (std::size_t i = 0; i < day.size(); ++i)
        if (minute < day[i].to - 1e-9) {
            double left = day[i].to - minute;
            if (i + 1 == day.size() && day.front().setting == day[i].setting)
                left += day.front().to;
            return {day[i].setting, left};
        }
    return at(0);
}

} // namespace sipper
