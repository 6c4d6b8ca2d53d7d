// SPDX-License-Identifier: GPL-3.0-or-later
#include "solar/text.hpp"

#include "quantity/write.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr std::array<const char*, 12> kMonthNames{"January",   "February", "March",    "April",
                                                  "May",       "June",     "July",     "August",
                                                  "September", "October",  "November", "December"};

std::string times(double factor) {
    return fmt::format("{:.{}f} times", factor, factor < 10 ? 1 : 0);
}

std::string wattHours(double wh) {
    return writeQuantity(wh, Unit::wattHour);
}

} // namespace

std::string monthName(std::size_t month) {
    return kMonthNames.at(month);
}

double timesTheNeed(const SolarYear& y, std::size_t month) {
    // What the panel could have given against what it had to give: the part that was taken, and
    // what the pack lost besides.
    const SolarSums& s = y.months[month];
    const double need =
        s.loadWh *
        (y.all.loadWh > 0 && y.all.panelWh > 0 ? std::max(1.0, y.all.panelWh / y.all.loadWh) : 1.0);
    const double unmetShare =
        s.lossOfLoadHours / (24.0 * static_cast<double>(firstDayOf(month + 1) - firstDayOf(month)) *
                             static_cast<double>(y.years));
    const double whole = unmetShare < 1 ? need / (1 - unmetShare) : need;
    return whole > 0 ? s.availableWh / whole : 0;
}

std::string missedText(const SolarYear& y) {
    if (y.all.lossOfLoadHours <= 0)
        return "nothing missed";
    const double a = y.all.lossOfLoadHours / static_cast<double>(y.years);
    return writeHours(a) + " missed a year";
}

std::string sunHeadline(const SolarYear& y) {
    const SolarSums& worst = y.months[y.worstMonth];
    const std::string over = y.years == 1 ? "the year" : fmt::format("{} years", y.years);
    std::string says;
    if (y.all.lossOfLoadHours <= 0)
        says = fmt::format("Nothing is missed in {}; the charge sinks to {} in {}.", over,
                           writeShare(y.all.leastCharge), monthName(y.worstMonth));
    else if (worst.lossOfLoadHours >= y.all.lossOfLoadHours * (1 - 1e-9))
        says = fmt::format("{} missed in {}, all in {}.", writeHours(y.all.lossOfLoadHours), over,
                           monthName(y.worstMonth));
    else
        says = fmt::format("{} missed in {}, {} of them in {}.", writeHours(y.all.lossOfLoadHours),
                           over, writeHours(worst.lossOfLoadHours), monthName(y.worstMonth));
    std::size_t poorest = 0;
    std::size_t richest = 0;
    for (std::size_t month = 1; month < kMonthNames.size(); ++month) {
        if (timesTheNeed(y, month) < timesTheNeed(y, poorest))
            poorest = month;
        if (timesTheNeed(y, month) > timesTheNeed(y, richest))
            richest = month;
    }
    if (y.all.loadWh > 0)
        says += fmt::format(" The panel could give {} the need in {}, {} in {}.",
                            times(timesTheNeed(y, poorest)), monthName(poorest),
                            times(timesTheNeed(y, richest)), monthName(richest));
    return says;
}

std::string ruleText(const SolarYear& y, const SunPlan& p) {
    const std::string rule =
        fmt::format("Rule of thumb: 0.6 x {} x {:.2g} sun-hours in {} = {} a day against {} used",
                    writeQuantity(p.panelW, Unit::watt), p.sunHours[p.worstSunMonth],
                    monthName(p.worstSunMonth), wattHours(p.ruleWhDay), wattHours(p.useWhDay));
    const bool enough = p.ruleWhDay >= p.useWhDay;
    const bool holds = y.all.lossOfLoadHours <= 0;
    std::string says = rule + (enough ? ": enough." : ": too little.");
    if (enough && !holds)
        says +=
            " The year misses all the same: dull days come in a row, and a mean knows nothing of "
            "that.";
    else if (!enough && holds)
        says += " The year misses nothing: the pack carries it over the poorest weeks.";
    const double lost = y.all.lostOffMpp;
    if (lost > 0.1 * y.all.availableWh)
        says += fmt::format(" The charger leaves {} of the panel's {} at the knee.",
                            wattHours(lost), wattHours(y.all.availableWh));
    return says;
}

std::string sunText(const SolarYear& y, const SunPlan& plan, const Weather& weather) {
    std::string out = sunHeadline(y) + "\n";
    out += fmt::format(
        "weather: {}{}\n", weather.says,
        weather.syntheticWeather ? " (invented weather of that climate, no place on earth)" : "");
    out += fmt::format("{:<10} {:>11} {:>11} {:>11} {:>9} {:>7}\n", "month", "panel", "could give",
                       "loads", "missed", "least");
    for (std::size_t i = 0; i < y.months.size(); ++i) {
        const SolarSums& s = y.months[i];
        out += fmt::format("{:<10} {:>11} {:>11} {:>11} {:>9} {:>7}\n", monthName(i),
                           wattHours(s.panelWh), wattHours(s.availableWh), wattHours(s.loadWh),
                           s.lossOfLoadHours > 0 ? writeHours(s.lossOfLoadHours) : "-",
                           writeShare(s.leastCharge));
    }
    out += fmt::format("the pack has to carry up to {}; ", writeHours(y.longestDark));
    out += plan.autonomyDays ? fmt::format("from full it lasts {} without light\n",
                                           writeHours(*plan.autonomyDays * 24))
                             : "from full it lasts for years without light\n";
    out += ruleText(y, plan) + "\n";
    if (plan.setCurrent)
        out += fmt::format("at the knee in full sun the charger gives {}{}\n",
                           writeQuantity(*plan.setCurrent, Unit::ampere),
                           plan.programOhm ? fmt::format(": set it with {}",
                                                         writeQuantity(*plan.programOhm, Unit::ohm))
                                           : "");
    if (y.all.forbidden > 0)
        out += fmt::format("charged for {} where the cells must not be\n",
                           writeHours(y.all.forbidden));
    return out;
}

std::string sunMapText(const SizingMap& map) {
    std::string out = "panel against pack, hours missed a year (panels down, packs across)\n";
    out += fmt::format("{:>10}", "");
    for (std::size_t pack = 0; pack < SizingMap::kSide; pack += 3)
        out += fmt::format(" {:>9}", wattHours(map.packWh[pack]));
    out += "\n";
    for (std::size_t panel = 0; panel < SizingMap::kSide; panel += 3) {
        out += fmt::format("{:>10}", writeQuantity(map.panelW[panel], Unit::watt));
        for (std::size_t pack = 0; pack < SizingMap::kSide; pack += 3)
            out += fmt::format(" {:>9.0f}", map.at(panel, pack).lossOfLoadHours /
                                                static_cast<double>(map.years));
        out += "\n";
    }
    for (const auto& [years, line] : map.least) {
        const auto& own = line[SizingMap::kOwn];
        out += fmt::format("nothing missed in {} {} with this panel: {}\n", years,
                           years == 1 ? "year" : "years",
                           own ? "from " + wattHours(map.packWh[*own]) : "no pack of these");
    }
    return out;
}

} // namespace sipper
