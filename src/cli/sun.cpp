// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.hpp"

#include "quantity/read.hpp"
#include "quantity/write.hpp"
#include "solar/map.hpp"
#include "solar/plan.hpp"
#include "solar/text.hpp"

#include <charconv>
#include <fmt/format.h>

namespace sipper::cli {
namespace {

constexpr std::size_t kMostYears = 100;
constexpr std::uint64_t kLine = 10; ///< years of weather that the map's longest line needs

Json orNull(const std::optional<double>& figure) {
    return figure ? Json(*figure) : Json();
}

Json sumsJson(const SolarSums& s) {
    return {{"panel_wh", s.panelWh},
            {"available_wh", s.availableWh},
            {"charged_wh", s.chargedWh},
            {"load_wh", s.loadWh},
            {"unmet_h", s.lossOfLoadHours},
            {"forbidden_charge_h", s.forbidden},
            {"hours_full", s.full},
            {"least_charge", s.leastCharge},
            {"lost_wh",
             {{"full", s.lostFull},
              {"knee", s.lostOffMpp},
              {"temperature", s.lostTemperature},
              {"limit", s.lostLimit}}}};
}

Json daysJson(const SolarYear& y) {
    Json days = Json::array();
    for (std::size_t day = 0; day < kDaysAYear; ++day) {
        Json row = Json::array();
        for (std::size_t hour = 0; hour < 24; ++hour)
            row.push_back(static_cast<double>(y.charge[day * 24 + hour]));
        days.push_back(std::move(row));
    }
    return days;
}

Json planJson(const SunPlan& p) {
    return {{"use_wh_day", p.useWhDay},
            {"use_wh_year", p.useWhYear},
            {"sun_hours", p.sunHours},
            {"worst_sun_month", p.worstSunMonth + 1},
            {"panel_w", p.panelW},
            {"rule_wh_day", p.ruleWhDay},
            {"panel_needed_w", orNull(p.panelNeededW)},
            {"panel_with_margin_w", orNull(p.panelWithMarginW)},
            {"set_current_a", orNull(p.setCurrent)},
            {"program_ohm", orNull(p.programOhm)},
            {"autonomy_days", orNull(p.autonomyDays)}};
}

Json sunJson(const SolarYear& y, const SunPlan& plan, const Weather& weather) {
    Json out = sumsJson(y.all);
    out["charger"] = y.charger;
    out["panel"] = y.panel;
    out["weather"] = weather.says;
    out["stand_in"] = weather.syntheticWeather;
    out["years"] = y.years;
    out["longest_unmet_h"] = y.longestUnmet;
    out["longest_dark_h"] = y.longestDark;
    out["worst_day"] = y.worstDay;
    out["worst_month"] = y.worstMonth + 1;
    Json months = Json::array();
    for (std::size_t i = 0; i < y.months.size(); ++i) {
        Json month = sumsJson(y.months[i]);
        month["month"] = i + 1;
        months.push_back(std::move(month));
    }
    out["months"] = std::move(months);
    const SunLedger& l = y.ledger;
    out["ledger_wh"] = {{"feed", l.feed},
                        {"charger", l.charger},
                        {"dark", l.dark},
                        {"pack_loss", l.packLoss},
                        {"self_discharge", l.selfDischarge},
                        {"stages", l.stages},
                        {"loads", l.loads},
                        {"gained", l.gained}};
    out["plan"] = planJson(plan);
    out["days"] = daysJson(y);
    return out;
}

Json mapJson(const SizingMap& map) {
    Json rows = Json::array();
    for (std::size_t panel = 0; panel < SizingMap::kSide; ++panel) {
        Json row = Json::array();
        for (std::size_t pack = 0; pack < SizingMap::kSide; ++pack)
            row.push_back(map.at(panel, pack).lossOfLoadHours);
        rows.push_back(std::move(row));
    }
    Json least = Json::object();
    for (const auto& [years, line] : map.least) {
        Json one = Json::array();
        for (const auto& pack : line)
            one.push_back(pack ? Json(map.packWh[*pack]) : Json());
        least[std::to_string(years)] = std::move(one);
    }
    return {{"panel_w", map.panelW},
            {"pack_wh", map.packWh},
            {"unmet_h", std::move(rows)},
            {"least_pack_wh", std::move(least)}};
}

Outcome<std::uint64_t> whole(const std::string& option, const std::string& text,
                             std::uint64_t least, std::uint64_t most) {
    std::uint64_t value = 0;
    const auto [end, code] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (code != std::errc{} || end != text.data() + text.size() || value < least || value > most)
        return badOption(option, text, fmt::format("a whole number from {} to {}", least, most));
    return value;
}

Outcome<Answer> answerSun(const Asked& asked) {
    const auto project = askedProject(asked);
    if (!project)
        return project.error();
    const Project& p = project.value();
    const auto years = whole("--years", asked.years, 1, kMostYears);
    if (!years)
        return years.error();
    const auto seed = whole("--seed", asked.seed, 0, std::numeric_limits<std::uint64_t>::max());
    if (!seed)
        return seed.error();
    const auto named = [&](Error error) {
        if (error.file.empty())
            error.file = asked.file;
        return error;
    };
    const auto weather =
        asked.weather.empty()
            ? usualWeather(p, seed.value(),
                           asked.map ? std::max(years.value(), kLine) : years.value())
            : loadWeather(asked.weather);
    if (!weather)
        return named(weather.error());
    auto bench = SolarSimulation::of(p, weather.value(), asked.charger);
    if (!bench)
        return named(bench.error());
    SolarOptions ask;
    ask.years = years.value();
    const auto year = bench.value()->run(ask);
    const SunPlan plan = planOf(*bench.value());
    Answer answer{sunJson(*year, plan, weather.value()), sunText(*year, plan, weather.value())};
    if (asked.map) {
        const auto map = sunMapOf(p, weather.value(), asked.charger, {years.value()});
        if (!map)
            return named(map.error());
        answer.json["map"] = mapJson(*map.value());
        answer.text += sunMapText(*map.value());
    }
    return answer;
}

void optionsSun(CLI::App& app, Asked& asked) {
    addFile(app, asked);
    addVariant(app, asked);
    app.add_option("--weather", asked.weather,
                   "CSV (time, ghi_w_m2, air_c) or EPW; else the stand-in for the brief's climate");
    app.add_option("--years", asked.years, "years, the weather over and over (default 1)");
    app.add_option("--seed", asked.seed, "of the stand-in (default 1)");
    app.add_option("--charger", asked.charger, "id of the charger (default: the first on a panel)");
    app.add_flag("--map", asked.map, "panel against pack: what each pair misses");
}

} // namespace

const Command kSun{"sun", "years of a panel charging the pack: what is missed, and when",
                   optionsSun, answerSun};

} // namespace sipper::cli
