// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/file.hpp"
#include "project/json.hpp"
#include "solar/weather.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <random>

namespace sipper {
namespace {

constexpr double kDullest = 0.05;  ///< clearness of the darkest day
constexpr double kClearest = 0.80; ///< and of the clearest
constexpr double kDullestHour = 0.03;
constexpr double kWaver = 0.25; ///< spread of an hour's clearness about its day's, as a share of
                                ///< how far that is from both ends
constexpr double kHourPersistence = 0.6;
constexpr double kWarmestHour = 15;  ///< clock
constexpr double kSwingAtDull = 0.5; ///< of the swing on a day without sun
constexpr double kSwingPerClearness = 1.0;
constexpr double kAirPersistence = 0.75;

std::optional<std::array<double, 12>> climateMonths(const Json& document, const char* key) {
    const auto at = document.find(key);
    if (at == document.end() || !at->is_array() || at->size() != 12)
        return std::nullopt;
    std::array<double, 12> out{};
    for (std::size_t i = 0; i < out.size(); ++i) {
        if (!(*at)[i].is_number())
            return std::nullopt;
        out[i] = (*at)[i].get<double>();
    }
    return out;
}

std::optional<double> climateFigure(const Json& document, const char* key) {
    const auto at = document.find(key);
    return at != document.end() && at->is_number() ? std::optional(at->get<double>())
                                                   : std::nullopt;
}

std::string climateText(const Json& document, const char* key) {
    const auto at = document.find(key);
    return at != document.end() && at->is_string() ? at->get<std::string>() : std::string();
}

Outcome<Climate> readClimate(const std::filesystem::path& path) {
    const auto wrong = [&](const std::string& where, const std::string& found,
                           const std::string& expected) {
        return Error{"climate", where, found, expected, path.string()};
    };
    const auto all = readFile(path);
    if (!all)
        return wrong("", "nothing that can be read", "a climate");
    auto parsed = parseJson(all.value());
    if (!parsed || !parsed.value().is_object())
        return wrong("", "no object", "a climate");
    const Json& d = parsed.value();
    Climate c;
    c.id = path.stem().string();
    c.label = climateText(d, "label");
    c.says = climateText(d, "x-note");
    struct Months {
        const char* key;
        std::array<double, 12>* into;
    };
    for (const auto& [key, into] :
         {Months{"clearness", &c.clearnessIndex}, Months{"clearness_spread", &c.spread},
          Months{"air_c", &c.air}, Months{"air_swing_c", &c.swing}}) {
        const auto values = climateMonths(d, key);
        if (!values)
            return wrong(std::string("/") + key, "something else", "12 numbers");
        *into = *values;
    }
    struct Figure {
        const char* key;
        double* into;
    };
    for (const auto& [key, into] :
         {Figure{"latitude_deg", &c.latitude}, Figure{"persistence", &c.persistence},
          Figure{"air_spread_c", &c.airSpread}}) {
        const auto value = climateFigure(d, key);
        if (!value)
            return wrong(std::string("/") + key, "something else", "a number");
        *into = *value;
    }
    return c;
}

/// The months' figure on a day, straight between their middles.
double onDay(const std::array<double, 12>& monthly, std::size_t day) {
    const std::size_t month = monthOf(day);
    const auto middleOf = [](std::size_t m) {
        return (static_cast<double>(firstDayOf(m)) + static_cast<double>(firstDayOf(m + 1))) / 2;
    };
    const double here = static_cast<double>(day) + 0.5;
    const bool late = here >= middleOf(month);
    const std::size_t from = late ? month : (month + 11) % 12;
    const std::size_t to = late ? (month + 1) % 12 : month;
    double start = middleOf(from);
    double end = middleOf(to);
    if (end < start)
        (late ? end : start) += late ? 365.0 : -365.0;
    return monthly[from] + (monthly[to] - monthly[from]) * (here - start) / (end - start);
}

/// A normal variate by Box and Muller (1958); the standard's own differs between libraries.
class Normal {
  public:
    explicit Normal(std::uint64_t seed) : m_engine(seed) {}
    double operator()() {
        const auto uniform = [this] {
            return (static_cast<double>(m_engine() >> 11U) + 0.5) * 0x1p-53;
        };
        const double radius = std::sqrt(-2 * std::log(uniform()));
        return radius * std::cos(2 * std::numbers::pi * uniform());
    }

  private:
    std::mt19937_64 m_engine;
};

/// A first-order autoregressive series of unit variance.
class Series {
  public:
    Series(Normal& normal, double persistence)
        : m_normal(normal), m_persistence(persistence), m_now(normal()) {}
    double next() {
        m_now = m_persistence * m_now + std::sqrt(1 - m_persistence * m_persistence) * m_normal();
        return m_now;
    }

  private:
    Normal& m_normal;
    double m_persistence;
    double m_now;
};

} // namespace

Outcome<std::vector<Climate>> loadClimates() {
    const auto folder = dataFolder() / "climates";
    std::error_code code;
    std::vector<std::filesystem::path> files;
    for (std::filesystem::directory_iterator it(folder, code), end; !code && it != end;
         it.increment(code))
        if (it->path().extension() == ".json")
            files.push_back(it->path());
    if (files.empty())
        return Error{"climate", "", "no climates", "the data folder of this program",
                     folder.string()};
    std::sort(files.begin(), files.end());
    std::vector<Climate> climates;
    for (const auto& file : files) {
        auto climate = readClimate(file);
        if (!climate)
            return climate.error();
        climates.push_back(std::move(climate).value());
    }
    return climates;
}

Outcome<Climate> climateOf(const std::optional<std::string>& id, double latitude) {
    const auto climates = loadClimates();
    if (!climates)
        return climates.error();
    const auto& all = climates.value();
    if (!id || id->empty())
        return *std::min_element(all.begin(), all.end(), [&](const Climate& a, const Climate& b) {
            return std::abs(a.latitude - std::abs(latitude)) <
                   std::abs(b.latitude - std::abs(latitude));
        });
    const auto at =
        std::find_if(all.begin(), all.end(), [&](const Climate& c) { return c.id == *id; });
    if (at != all.end())
        return *at;
    std::string names;
    for (const Climate& c : all)
        names += (names.empty() ? "" : ", ") + c.id;
    return Error{"climate", "/brief/climate", "\"" + *id + "\"", "one of " + names, ""};
}

Weather syntheticWeather(const Climate& climate, double latitude, std::uint64_t seed,
                         std::size_t years) {
    Weather w;
    w.syntheticWeather = true;
    w.latitude = latitude;
    w.says = fmt::format("stand-in, {}, seed {}", climate.label, seed);
    w.ghi.reserve(years * kHoursAYear);
    w.air.reserve(years * kHoursAYear);
    Normal normal(seed);
    Series days(normal, climate.persistence);
    Series hours(normal, kHourPersistence);
    Series airs(normal, kAirPersistence);
    const std::size_t shift = latitude < 0 ? kDaysAYear / 2 : 0;
    std::vector<double> sines; // the hours' mean height of the sun, the same every year
    sines.reserve(kHoursAYear);
    for (std::size_t hour = 0; hour < kHoursAYear; ++hour) {
        double sine = 0;
        for (std::size_t j = 0; j < kSlotsAnHour; ++j)
            sine += std::max(0.0, sinElevation(latitude, static_cast<int>(hour / 24) + 1,
                                               static_cast<double>(hour % 24) +
                                                   (static_cast<double>(j) + 0.5) / kSlotsAnHour));
        sines.push_back(sine / kSlotsAnHour);
    }
    for (std::size_t n = 0; n < years * kDaysAYear; ++n) {
        const std::size_t day = n % kDaysAYear;
        const std::size_t season = (day + shift) % kDaysAYear;
        const double clearness = std::clamp(onDay(climate.clearnessIndex, season) +
                                                onDay(climate.spread, season) * days.next(),
                                            kDullest, kClearest);
        const double mean = onDay(climate.air, season) + climate.airSpread * airs.next();
        const double swing =
            onDay(climate.swing, season) * (kSwingAtDull + kSwingPerClearness * clearness);
        for (std::size_t hour = 0; hour < 24; ++hour) {
            const double sine = sines[day * 24 + hour];
            const double room = (clearness - kDullestHour) * (kClearest + kDullest - clearness);
            const double here = std::clamp(clearness + kWaver * room / kClearest * 4 * hours.next(),
                                           kDullestHour, kClearest);
            const double above =
                kSolarConstant *
                (1 + 0.033 * std::cos(2 * std::numbers::pi * (static_cast<double>(day) + 1) / 365));
            w.ghi.push_back(static_cast<float>(here * above * sine));
            w.air.push_back(static_cast<float>(
                mean + swing * std::cos(2 * std::numbers::pi *
                                        (static_cast<double>(hour) + 0.5 - kWarmestHour) / 24)));
        }
    }
    return w;
}

} // namespace sipper
