// SPDX-License-Identifier: GPL-3.0-or-later
// Sun and sky, the panel's curve, and the files that weather comes from.
#include "line/panelcurve.hpp"
#include "solar/weather.hpp"
#include "support.hpp"

#include <numeric>

using namespace sipper;

namespace {

double mean(const std::array<double, kSlotsAnHour>& slots) {
    return std::accumulate(slots.begin(), slots.end(), 0.0) / kSlotsAnHour;
}

/// A whole year of rows; `row` may bend one.
std::string csv(const std::function<std::string(std::size_t, std::string)>& row = {},
                const std::string& header = "time,ghi_w_m2,air_c") {
    std::string text = header + "\n";
    for (std::size_t hour = 0; hour < kHoursAYear; ++hour) {
        const std::size_t day = hour / 24;
        const std::size_t month = monthOf(day);
        std::string line =
            fmt::format("2003-{:02}-{:02}T{:02}:00,{},{}", month + 1, day - firstDayOf(month) + 1,
                        hour % 24, hour % 24 == 12 ? 400 : 0, 5);
        text += (row ? row(hour, line) : line) + "\n";
    }
    return text;
}

std::string epw(const std::function<std::string(std::size_t, std::string)>& row = {}) {
    std::string text = "LOCATION,Nowhere,-,-,made up,0,-33.5,30,2.5,100\n";
    for (int i = 0; i < 7; ++i)
        text += "HEADER\n";
    for (std::size_t hour = 0; hour < kHoursAYear; ++hour) {
        const std::size_t day = hour / 24;
        const std::size_t month = monthOf(day);
        std::string line =
            fmt::format("1999,{},{},{},60,x,7.5,0,0,0,0,0,0,{},0,0", month + 1,
                        day - firstDayOf(month) + 1, hour % 24 + 1, hour % 24 == 12 ? 500 : 0);
        text += (row ? row(hour, line) : line) + "\n";
    }
    return text;
}

} // namespace

TEST_CASE("the sun stands where the almanac's formula puts it", "[sun]") {
    CHECK(declinationOf(172) == Approx(0.40927).epsilon(1e-3)); // 23.45 degrees
    CHECK(declinationOf(81) == Approx(0).margin(1e-3));
    // At the equinox the noon sun stands 90 degrees less the latitude.
    CHECK(sinElevation(52, 81, 12) == Approx(std::cos(52 * 3.14159265358979 / 180)).epsilon(1e-3));
    CHECK(sinElevation(52, 81, 0) < 0);
    CHECK(clearSkyGhi(0) == 0);
    CHECK(clearSkyGhi(1) == Approx(1098 * std::exp(-0.059)));
}

TEST_CASE("the diffuse share hangs together at its seams", "[sun]") {
    CHECK(diffuseFraction(0) == 1);
    CHECK(diffuseFraction(0.22 - 1e-9) == Approx(diffuseFraction(0.22 + 1e-9)).margin(2e-3));
    CHECK(diffuseFraction(0.8 + 1e-9) == Approx(0.165));
    for (double kt = 0; kt < 1; kt += 0.01)
        CHECK(diffuseFraction(kt) >= diffuseFraction(kt + 0.01) - 2e-3);
}

TEST_CASE("a level panel sees the light on the level, hour for hour", "[sun]") {
    for (const double latitude : {-40.0, 0.0, 52.0, 66.0}) {
        const PlaneOfArray sky({latitude, 0, 180}, 0);
        for (std::size_t hour = 100; hour < kHoursAYear; hour += 613) {
            const double level = 30 + static_cast<double>(hour % 700);
            INFO(latitude << " " << hour);
            // The cap near the horizon takes beam away from the mean only where the sun is under
            // it.
            const double sine = sinElevation(latitude, static_cast<int>(hour / 24) + 1,
                                             static_cast<double>(hour % 24) + 0.5);
            if (sine > 0.1)
                CHECK(mean(sky.through(hour, level)) == Approx(level).epsilon(1e-9));
        }
        CHECK(mean(sky.through(12, 0)) == 0);
    }
}

TEST_CASE("a panel faces the sun: south in the north, north in the south, east in the morning",
          "[sun]") {
    const std::size_t noon = 12 + 24 * 354;
    const auto light = [&](double latitude, double tilt, double azimuth, std::size_t hour) {
        return mean(PlaneOfArray({latitude, tilt, azimuth}, 0).through(hour, 250));
    };
    CHECK(light(50, 60, 180, noon) > 2 * light(50, 60, 0, noon));
    const std::size_t june = 12 + 24 * 171;
    CHECK(light(-50, 60, 0, june) > 2 * light(-50, 60, 180, june));
    const std::size_t morning = 8 + 24 * 171;
    CHECK(light(50, 60, 90, morning) > light(50, 60, 270, morning));
    // By the clock of a zone the sun may be late: an hour's shift is an hour's shift.
    const PlaneOfArray shifted({50, 60, 120}, 1);
    const PlaneOfArray plain({50, 60, 120}, 0);
    CHECK(mean(shifted.through(june - 4, 300)) == Approx(mean(plain.through(june - 3, 300))));
}

TEST_CASE("the top of a panel's curve is where no other point gives more", "[sun]") {
    const PanelShape shape({6.6, 0.42, 5.5, 0.39, -0.019});
    for (const double light : {15.0, 120.0, 1000.0})
        for (const double cell : {-10.0, 25.0, 60.0}) {
            const PanelCurve curve(shape, light, cell, 2, 1.5);
            const auto [v, w] = curve.mpp();
            CHECK(curve.amps(v) == Approx(curve.mppAmps()));
            CHECK(w == Approx(v * curve.amps(v)));
            for (double share = 0.5; share < 1.2; share += 0.01)
                CHECK(share * v * curve.amps(share * v) <= w * (1 + 1e-9));
            for (const double amps : {0.1, 0.5, 0.95})
                CHECK(curve.amps(curve.volts(amps * curve.shortCircuit())) ==
                      Approx(amps * curve.shortCircuit()));
            const double d = 1e-5;
            CHECK(curve.slope(v) ==
                  Approx((curve.amps(v + d) - curve.amps(v - d)) / (2 * d)).epsilon(1e-4));
        }
    CHECK_FALSE(PanelCurve(shape, 0, 25, 1, 1).lit());
    CHECK(PanelCurve().amps(3) == 0);
}

TEST_CASE("a year of CSV is read whatever the order of its columns", "[sun]") {
    const auto w = readWeatherCsv(csv(), "year.csv");
    REQUIRE(w);
    CHECK(w.value().years() == 1);
    CHECK(w.value().ghi[12] == 400);
    CHECK(w.value().air[0] == 5);
    CHECK(w.value().says == "year.csv");
    const auto swapped = readWeatherCsv(csv(
                                            [](std::size_t, const std::string& line) {
                                                const auto a = line.find(',');
                                                const auto b = line.find(',', a + 1);
                                                return line.substr(a + 1, b - a - 1) + ",note," +
                                                       line.substr(0, 10) + " " +
                                                       line.substr(11, 5);
                                            },
                                            "ghi_w_m2,remark,time"),
                                        "swapped.csv");
    REQUIRE(swapped);
    CHECK(swapped.value().ghi == w.value().ghi);
    CHECK(swapped.value().air.empty());
    // A leap day is skipped, light under 0 is none.
    const auto leap = readWeatherCsv(csv([](std::size_t hour, const std::string& line) {
                                         std::string all;
                                         if (hour == 59 * 24)
                                             for (int h = 0; h < 24; ++h)
                                                 all +=
                                                     fmt::format("2004-02-29T{:02}:00,100,5\n", h);
                                         return all + (hour == 3 ? "2003-01-01T03:00,-4,5" : line);
                                     }),
                                     "leap.csv");
    REQUIRE(leap);
    CHECK(leap.value().ghi[3] == 0);
    CHECK(leap.value().ghi == w.value().ghi);
}

TEST_CASE("weather that is not whole is refused with its row", "[sun]") {
    struct Bad {
        const char* name;
        std::string text;
        const char* says;
    };
    const auto at = [](std::size_t which, const std::string& as) {
        return csv(
            [=](std::size_t hour, const std::string& line) { return hour == which ? as : line; });
    };
    const std::vector<Bad> table{
        {"empty", "", "row 1: found nothing"},
        {"no light", csv({}, "time,light,air_c"), "row 1: found \"time\", expected a header"},
        {"missing row", at(7, "2003-01-01T08:00,0,5"), "row 9: found \"2003-01-01T08:00\""},
        {"no time", at(7, "yesterday,0,5"), "row 9: found \"yesterday\", expected a time"},
        {"no number", at(9, "2003-01-01T09:00,bright,5"), "row 11: found \"bright\""},
        {"too bright", at(9, "2003-01-01T09:00,1501,5"), "row 11: found 1501 W/m2"},
        {"no air", at(9, "2003-01-01T09:00,10,"), "row 11: found \"\", expected air"},
        {"too hot", at(9, "2003-01-01T09:00,10,99"), "row 11: found 99 degC"},
        {"half an hour", at(9, "2003-01-01T09:30,10,5"), "row 11: found \"2003-01-01T09:30\""},
        {"too long", csv() + "2003-01-01T00:00,0,5\n", "no more than 8760 hours"},
    };
    for (const Bad& bad : table) {
        INFO(bad.name);
        const auto w = readWeatherCsv(bad.text, "w.csv");
        REQUIRE_FALSE(w);
        CHECK_THAT(w.error().message(), Catch::StartsWith("w.csv: ") && Catch::Contains(bad.says));
    }
    const std::string whole = csv();
    const auto cut = readWeatherCsv(whole.substr(0, whole.rfind("2003-12-31T23")), "cut.csv");
    REQUIRE_FALSE(cut);
    CHECK_THAT(cut.error().message(), Catch::Contains("12-31 23:00"));
}

TEST_CASE("an EPW file brings its own place and clock", "[sun]") {
    const auto w = readEpw(epw(), "a/place.epw");
    REQUIRE(w);
    CHECK(w.value().latitude == -33.5);
    CHECK(w.value().solarTimeOffset == Approx(30 / 15.0 - 2.5));
    CHECK(w.value().ghi[12] == 500);
    CHECK(w.value().air[100] == 7.5);
    CHECK(w.value().says == "place.epw");
    const auto missing =
        readEpw(epw([](std::size_t hour, std::string line) {
                    return hour == 2 ? "1999,1,1,3,60,x,99.9,0,0,0,0,0,0,0,0,0" : line;
                }),
                "m.epw");
    REQUIRE_FALSE(missing);
    CHECK_THAT(missing.error().message(), Catch::Contains("row 11: found missing air"));
    const auto dark =
        readEpw(epw([](std::size_t hour, std::string line) {
                    return hour == 2 ? "1999,1,1,3,60,x,5,0,0,0,0,0,0,9999,0,0" : line;
                }),
                "m.epw");
    REQUIRE_FALSE(dark);
    CHECK_THAT(dark.error().message(), Catch::Contains("missing light"));
    CHECK_FALSE(readEpw("LOCATION,only\n", "x.epw"));
}

TEST_CASE("a stand-in is the same for the same seed, keeps its means, and is no two years alike",
          "[sun]") {
    const auto climates = loadClimates();
    REQUIRE(climates);
    CHECK(climates.value().size() >= 8);
    for (const Climate& c : climates.value()) {
        INFO(c.id);
        CHECK_FALSE(c.label.empty());
        CHECK_FALSE(c.says.empty());
        const Weather a = syntheticWeather(c, c.latitude, 7, 12);
        const Weather b = syntheticWeather(c, c.latitude, 7, 12);
        CHECK(a.ghi == b.ghi);
        CHECK(a.air == b.air);
        CHECK(a.syntheticWeather);
        CHECK(syntheticWeather(c, c.latitude, 8, 1).ghi !=
              syntheticWeather(c, c.latitude, 7, 1).ghi);
        // A longer one begins with the shorter one.
        const Weather one = syntheticWeather(c, c.latitude, 7, 1);
        CHECK(std::equal(one.ghi.begin(), one.ghi.end(), a.ghi.begin()));
        // July's air over the years comes near its mean; light never beats the sky.
        double air = 0;
        double count = 0;
        for (std::size_t hour = 0; hour < a.air.size(); ++hour)
            if (monthOf(hour % kHoursAYear / 24) == 6) {
                air += static_cast<double>(a.air[hour]);
                ++count;
            }
        CHECK(air / count == Approx(c.air[6]).margin(1.5));
        CHECK(*std::max_element(a.ghi.begin(), a.ghi.end()) < 1200);
        // In the south the same months come half a year later.
        const Weather south = syntheticWeather(c, -c.latitude, 7, 1);
        double june = 0;
        double december = 0;
        for (std::size_t hour = 0; hour < kHoursAYear; ++hour) {
            (monthOf(hour / 24) == 5 ? june : december) +=
                monthOf(hour / 24) == 5 || monthOf(hour / 24) == 11
                    ? static_cast<double>(south.ghi[hour])
                    : 0;
        }
        if (std::abs(c.latitude) > 20)
            CHECK(december > 1.2 * june);
    }
    CHECK_THAT(climateOf(std::string("moon"), 50).error().message(),
               Catch::Contains("\"moon\"") && Catch::Contains("maritime"));
    CHECK(climateOf(std::nullopt, 64).value().id == "subarctic");
}
