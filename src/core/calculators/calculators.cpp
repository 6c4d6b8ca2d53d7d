// SPDX-License-Identifier: GPL-3.0-or-later
#include "calculators/calculators.hpp"

#include "line/panelcurve.hpp"
#include "parts/eseries.hpp"
#include "quantity/read.hpp"
#include "quantity/write.hpp"
#include "solar/solarposition.hpp"

#include <algorithm>
#include <array>
#include <cassert>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <optional>
#include <set>

namespace sipper {
namespace {

constexpr double kCopper20 = 1.724e-8; ///< ohm m at 20 °C (IEC 60028)
constexpr double kCopperPerK = 0.00393;
constexpr double kTie = 1e-12;  ///< of the target: two pairs are equally good
constexpr double kAgree = 0.01; ///< of a figure, within which two ways to it say the same

using Values = std::map<std::string, double>;
using Results = std::vector<CalculatorResult>;

std::string q(double value, Unit unit) {
    return writeQuantity(value, unit);
}

Results bank(const Values& v) {
    const double socket = v.at("advertised") * v.at("cell_v") / v.at("socket_v");
    const double real = socket * v.at("efficiency");
    const double energy = real * v.at("socket_v");
    // A device's battery is as the bank's cells where nothing else is said.
    const auto volts = v.find("device_v");
    const double deviceWh = v.at("device") * (volts == v.end() ? v.at("cell_v") : volts->second);
    return {
        {"socket_ah", "At the socket, before losses", Unit::ampereHour, socket,
         fmt::format("{} × {} / {}", q(v.at("advertised"), Unit::ampereHour),
                     q(v.at("cell_v"), Unit::volt), q(v.at("socket_v"), Unit::volt))},
        {"real_ah", "At the socket", Unit::ampereHour, real,
         fmt::format("{} × {}", q(socket, Unit::ampereHour), writeShare(v.at("efficiency")))},
        {"refills", "Refills of the device", Unit::none, real / v.at("device"),
         fmt::format("{} / {}", q(real, Unit::ampereHour), q(v.at("device"), Unit::ampereHour))},
        {"refills_wh", "Refills by watt-hours", Unit::none, energy / deviceWh,
         fmt::format("{} / {}", q(energy, Unit::wattHour), q(deviceWh, Unit::wattHour))}};
}

Results pack(const Values& v) {
    const double volts = v.at("cell_v") * v.at("series");
    const double ah = v.at("cell_ah") * v.at("parallel");
    return {{"v", "Volts", Unit::volt, volts,
             fmt::format("{} × {:g}", q(v.at("cell_v"), Unit::volt), v.at("series"))},
            {"ah", "Charge", Unit::ampereHour, ah,
             fmt::format("{} × {:g}", q(v.at("cell_ah"), Unit::ampereHour), v.at("parallel"))},
            {"wh", "Energy", Unit::wattHour, volts * ah,
             fmt::format("{} × {}", q(volts, Unit::volt), q(ah, Unit::ampereHour))},
            {"max_a", "Largest current", Unit::ampere, ah * v.at("c_rate"),
             fmt::format("{} × {:g} /h", q(ah, Unit::ampereHour), v.at("c_rate"))}};
}

Results charger(const Values& v) {
    const double packV = v.at("pack_v");
    struct Limit {
        const char* name;
        const char* words;
        double amps;
        std::string formula;
    };
    const std::array limits{
        Limit{"input_limit", "the input current",
              v.at("input_a") * v.at("supply_v") * v.at("efficiency") / packV,
              fmt::format("{} × {} × {} / {}", q(v.at("input_a"), Unit::ampere),
                          q(v.at("supply_v"), Unit::volt), writeShare(v.at("efficiency")),
                          q(packV, Unit::volt))},
        Limit{"power_limit", "the watts", v.at("watts") / packV,
              fmt::format("{} / {}", q(v.at("watts"), Unit::watt), q(packV, Unit::volt))},
        Limit{"output_limit", "the output current", v.at("output_a"),
              q(v.at("output_a"), Unit::ampere)}};
    const Limit& first = *std::min_element(
        limits.begin(), limits.end(), [](const auto& a, const auto& b) { return a.amps < b.amps; });
    return {{"pack_a", "Into the pack", Unit::ampere, first.amps, first.formula},
            {"watts", "Into the pack", Unit::watt, first.amps * packV,
             fmt::format("{} × {}", q(first.amps, Unit::ampere), q(packV, Unit::volt))},
            {"limit", "What bites first", Unit::none, std::string(first.name),
             fmt::format("{} is the least of {}, {} and {}", first.words,
                         q(limits[0].amps, Unit::ampere), q(limits[1].amps, Unit::ampere),
                         q(limits[2].amps, Unit::ampere))}};
}

Results wire(const Values& v) {
    const double area = v.contains("area") ? v.at("area") : areaOfAwg(v.at("awg")).value();
    const double rho = kCopper20 * (1 + kCopperPerK * (v.at("temp") - 20));
    const double ohm = 2 * v.at("length") * rho / (area * 1e-6);
    const double drop = ohm * v.at("current");
    return {{"ohm", "There and back", Unit::ohm, ohm,
             fmt::format("2 × {} × {:.3g} Ω m / {}", q(v.at("length"), Unit::metre), rho,
                         q(area, Unit::squareMillimetre))},
            {"drop_v", "Drop", Unit::volt, drop,
             fmt::format("{} × {}", q(ohm, Unit::ohm), q(v.at("current"), Unit::ampere))},
            {"loss_w", "Loss", Unit::watt, drop * v.at("current"),
             fmt::format("{} × {}", q(drop, Unit::volt), q(v.at("current"), Unit::ampere))}};
}

Outcome<Results> divider(const Values& v, const std::string& series) {
    const double ref = v.at("v_ref");
    const double target = v.at("target");
    const auto unmet = [&](const std::string& found, const std::string& expected) {
        return Error{"unmet", "target", found, expected, ""};
    };
    if (target < ref)
        return unmet(q(target, Unit::volt), "a target at or over v_ref, " + q(ref, Unit::volt));
    const std::vector<double> all = seriesValues(series);
    double best = 1e300;
    double upper = 0;
    double lower = 0;
    for (const double low : all) {
        // Only the neighbours of the exact upper value can be the best with this lower one.
        const double exact = low * (target / ref - 1);
        auto at = std::lower_bound(all.begin(), all.end(), exact);
        for (int k = 0; k < 2; ++k) {
            if (k == 1 && at == all.begin())
                break;
            const auto here = k == 0 ? at : at - 1;
            if (here == all.end())
                continue;
            const double total = low + *here;
            if (total < v.at("total_min") * (1 - 1e-9) || total > v.at("total_max") * (1 + 1e-9))
                continue;
            const double error = std::abs(ref * (1 + *here / low) - target);
            if (error < best - kTie * target ||
                (error < best + kTie * target && total > upper + lower)) {
                best = std::min(best, error);
                upper = *here;
                lower = low;
            }
        }
    }
    if (lower <= 0)
        return unmet("no pair of " + series + " values from " + q(v.at("total_min"), Unit::ohm) +
                         " to " + q(v.at("total_max"), Unit::ohm),
                     "a wider range of totals");
    const double gives = ref * (1 + upper / lower);
    return Results{{"upper_ohm", "Upper", Unit::ohm, upper, "from the output to the tap"},
                   {"lower_ohm", "Lower", Unit::ohm, lower, "from the tap to ground"},
                   {"gives_v", "Gives", Unit::volt, gives,
                    fmt::format("{} × (1 + {} / {})", q(ref, Unit::volt), q(upper, Unit::ohm),
                                q(lower, Unit::ohm))},
                   {"error", "Off by", Unit::fraction, (gives - target) / target,
                    fmt::format("({} − {}) / {}", q(gives, Unit::volt), q(target, Unit::volt),
                                q(target, Unit::volt))}};
}

Results linear(const Values& v) {
    const double heat = (v.at("v_in") - v.at("v_out")) * v.at("current");
    return {{"heat_w", "Heat", Unit::watt, heat,
             fmt::format("({} − {}) × {}", q(v.at("v_in"), Unit::volt),
                         q(v.at("v_out"), Unit::volt), q(v.at("current"), Unit::ampere))},
            {"part_c", "Part", Unit::celsius, v.at("ambient") + heat * v.at("theta"),
             fmt::format("{} + {} × {:g} K/W", q(v.at("ambient"), Unit::celsius),
                         q(heat, Unit::watt), v.at("theta"))},
            {"efficiency", "Efficiency", Unit::fraction, v.at("v_out") / v.at("v_in"),
             fmt::format("{} / {}", q(v.at("v_out"), Unit::volt), q(v.at("v_in"), Unit::volt))}};
}

Results panel(const Values& v) {
    const PanelCurve curve({v.at("voc"), v.at("isc"), v.at("vmp"), v.at("imp"), v.at("beta")},
                           v.at("light"), v.at("cell_c"));
    const auto [bestV, bestW] = curve.mpp();
    return {{"i", "Current", Unit::ampere, curve.amps(v.at("v")),
             fmt::format("{} × (1 − C1 (exp({} / (C2 × {})) − 1))",
                         q(curve.shortCircuit(), Unit::ampere), q(v.at("v"), Unit::volt),
                         q(curve.openCircuit(), Unit::volt))},
            {"v_mp", "Best voltage", Unit::volt, bestV, "the top of this curve"},
            {"p_mp", "Most power", Unit::watt, bestW,
             fmt::format("{} × {}", q(bestV, Unit::volt), q(curve.amps(bestV), Unit::ampere))}};
}

Results sky(const Values& v) {
    const double degree = std::numbers::pi / 180;
    const double day = v.at("day");
    const double declination = declinationOf(day) / degree;
    const double angle = 15 * (v.at("hour") - 12);
    const double sine = sinElevation(v.at("latitude"), day, v.at("hour"));
    const double elevation = std::asin(std::clamp(sine, -1.0, 1.0)) / degree;
    const double clear = clearSkyGhi(sine);
    return {{"elevation_deg", "Sun over the horizon", Unit::degree, elevation,
             fmt::format("declination {:.2f}°, hour angle {:g}°", declination, angle)},
            {"clear_w_m2", "Clear sky, on the level, W/m²", Unit::none, clear,
             sine > 0 ? fmt::format("1098 × {:.3f} × exp(−0.059 / {:.3f})", sine, sine)
                      : std::string("the sun is down")}};
}

/// Hours, or what they tell of the draw or of the cells: of a charge and a current, or of an energy
/// and a power; with volts either tells the other.
Outcome<Results> life(const Values& given) {
    struct Step {
        const char* key;
        const char* label;
        Unit unit;
        const char* a;
        bool times; ///< a times b, else a over b
        const char* b;
    };
    constexpr std::array kSteps{
        Step{"hours", "Runs for", Unit::hour, "capacity", false, "current"},
        Step{"hours", "Runs for", Unit::hour, "energy", false, "power"},
        Step{"energy", "Energy", Unit::wattHour, "capacity", true, "volts"},
        Step{"power", "Draws", Unit::watt, "current", true, "volts"},
        Step{"current", "Draws", Unit::ampere, "capacity", false, "hours"},
        Step{"power", "Draws", Unit::watt, "energy", false, "hours"},
        Step{"capacity", "Needs", Unit::ampereHour, "current", true, "hours"},
        Step{"energy", "Needs", Unit::wattHour, "power", true, "hours"},
        Step{"capacity", "Charge", Unit::ampereHour, "energy", false, "volts"},
        Step{"current", "Draws", Unit::ampere, "power", false, "volts"}};
    const std::map<std::string, std::string> keys{
        {"hours", "h"}, {"energy", "wh"}, {"power", "w"}, {"current", "a"}, {"capacity", "ah"}};
    Values v = given;
    std::map<std::string, Unit> units{{"volts", Unit::volt}};
    for (const Step& s : kSteps)
        units[s.key] = s.unit;
    Results out;
    for (bool more = true; more;) {
        more = false;
        for (const Step& s : kSteps) {
            const auto a = v.find(s.a);
            const auto b = v.find(s.b);
            if (v.contains(s.key) || a == v.end() || b == v.end())
                continue;
            const double value = s.times ? a->second * b->second : a->second / b->second;
            out.push_back({keys.at(s.key), s.label, s.unit, value,
                           fmt::format("{} {} {}", q(a->second, units[s.a]), s.times ? "×" : "/",
                                       q(b->second, units[s.b]))});
            v[s.key] = value;
            more = true;
            break; // the hours first, by whatever has come to be known
        }
    }
    for (const Step& s : kSteps) {
        if (!v.contains(s.a) || !v.contains(s.b) || !v.contains(s.key))
            continue;
        const double by = s.times ? v[s.a] * v[s.b] : v[s.a] / v[s.b];
        if (std::abs(by - v[s.key]) > kAgree * std::max(by, v[s.key]))
            return Error{"unmet", s.key, q(v[s.key], s.unit),
                         fmt::format("{} by {} and {}", q(by, s.unit), s.a, s.b), ""};
    }
    const auto asked = [&](const char* a, const char* b) {
        return v.contains(a) && v.contains(b) && v.contains("hours");
    };
    if (out.empty() || !(asked("capacity", "current") || asked("energy", "power")))
        return Error{"sum",
                     v.contains("current")  ? "capacity"
                     : v.contains("power")  ? "energy"
                     : v.contains("energy") ? "power"
                                            : "current",
                     out.empty() && given.size() > 2 ? "nothing left to work out"
                                                     : "too little to go by",
                     "two of capacity, current and hours, or of energy, power and hours; volts "
                     "lead from one to the other",
                     ""};
    return out;
}

Outcome<Results> led(const Values& v) {
    const double across = v.at("supply") - v.at("forward");
    if (across <= 0)
        return Error{"unmet", "supply", q(v.at("supply"), Unit::volt),
                     "more than the forward voltage of " + q(v.at("forward"), Unit::volt), ""};
    const double ohm = across / v.at("current");
    const double choose = seriesAtOrOver("E12", ohm);
    return Results{{"ohm", "Exactly", Unit::ohm, ohm,
                    fmt::format("({} − {}) / {}", q(v.at("supply"), Unit::volt),
                                q(v.at("forward"), Unit::volt), q(v.at("current"), Unit::ampere))},
                   {"choose_ohm", "Take", Unit::ohm, choose, "the next of E12 at or over it"},
                   {"heat_w", "Heat in it", Unit::watt, across * across / choose,
                    fmt::format("{}² / {}", q(across, Unit::volt), q(choose, Unit::ohm))}};
}

} // namespace

namespace {

/// One typed value within its field's range; the field is named where it is not.
Outcome<double> valueOf(const CalculatorField& f, const std::string& text) {
    const std::string key(f.key);
    auto read = readQuantity(text, f.unit);
    if (!read) {
        Error error = read.error();
        error.where = key;
        return error;
    }
    if (!(read.value() >= f.least && read.value() <= f.most))
        return Error{"range", key, text,
                     f.most < 1e12 ? fmt::format("from {:g} to {:g}", f.least, f.most)
                     : f.least > 0 && f.least < 1e-6 ? std::string("more than 0")
                                                     : fmt::format("at least {:g}", f.least),
                     ""};
    return read.value();
}

/// All of a sum's values, and the series of resistors of a divider.
Outcome<Values> valuesOf(const Calculator& sum, const std::map<std::string, std::string>& arguments,
                         std::string& series) {
    Values values;
    for (const CalculatorField& f : sum.fields) {
        const std::string key(f.key);
        const auto given = arguments.find(key);
        const bool optional = f.example.empty() || sum.name == "life" ||
                              (sum.name == "wire" && (key == "area" || key == "awg"));
        if (given == arguments.end() || given->second.empty()) {
            if (optional)
                continue;
            return Error{"sum", key, "nothing", "a value, such as " + std::string(f.example), ""};
        }
        if (key == "series" && sum.name == "divider") {
            series = given->second;
            if (seriesDecade(series).empty())
                return Error{"sum", key, "\"" + series + "\"", "E12, E24 or E96", ""};
            continue;
        }
        const auto value = valueOf(f, given->second);
        if (!value)
            return value.error();
        values[key] = value.value();
    }
    return values;
}

/// What no single field shows: values that do not go together.
std::optional<Error> clash(std::string_view name, Values& values) {
    if (name == "wire" && values.contains("area") == values.contains("awg"))
        return Error{"sum", "area", values.contains("area") ? "area and awg" : "neither",
                     "exactly one of area and awg", ""};
    if (name == "panel" && (values["vmp"] >= values["voc"] || values["imp"] >= values["isc"]))
        return Error{"unmet", "vmp", "a best point beyond the label's ends",
                     "vmp under voc and imp under isc", ""};
    return std::nullopt;
}

struct Worker {
    std::string_view name;
    Outcome<Results> (*run)(Values& values, const std::string& series);
};

template <auto sum>
Outcome<Results> plainly(Values& values, const std::string&) {
    return sum(values);
}

constexpr std::array kWorkers{
    Worker{"bank", plainly<bank>},
    Worker{"pack", plainly<pack>},
    Worker{"charger", plainly<charger>},
    Worker{"wire", plainly<wire>},
    Worker{
        "divider",
        [](Values& v, const std::string& series) { return Outcome<Results>(divider(v, series)); }},
    Worker{"linear", plainly<linear>},
    Worker{"panel", plainly<panel>},
    Worker{"sky", plainly<sky>},
    Worker{"life", plainly<life>},
    Worker{"led", plainly<led>},
};

/// The sum of this name, or the names that there are.
Outcome<const Calculator*> sumNamed(std::string_view name) {
    const auto sums = allCalculators();
    const auto sum =
        std::find_if(sums.begin(), sums.end(), [&](const Calculator& s) { return s.name == name; });
    if (sum != sums.end())
        return &*sum;
    std::string names;
    for (const Calculator& s : sums)
        names += (names.empty() ? "" : ", ") + std::string(s.name);
    return Error{"sum", "", "\"" + std::string(name) + "\"", "one of " + names, ""};
}

} // namespace

Outcome<std::vector<CalculatorResult>>
runCalculator(std::string_view name, const std::map<std::string, std::string>& arguments) {
    const auto found = sumNamed(name);
    if (!found)
        return found.error();
    const Calculator& sum = *found.value();
    std::string fields;
    for (const CalculatorField& f : sum.fields)
        fields += (fields.empty() ? "" : ", ") + std::string(f.key);
    for (const auto& argument : arguments)
        if (std::none_of(sum.fields.begin(), sum.fields.end(),
                         [&](const CalculatorField& f) { return f.key == argument.first; }))
            return Error{"sum", argument.first,
                         "a field that " + std::string(name) + " does not have", "one of " + fields,
                         ""};
    std::string series = "E24";
    auto read = valuesOf(sum, arguments, series);
    if (!read)
        return read.error();
    Values values = std::move(read).value();
    if (const auto trouble = clash(name, values))
        return *trouble;
    const auto worker = std::find_if(kWorkers.begin(), kWorkers.end(),
                                     [&](const Worker& w) { return w.name == name; });
    assert(worker != kWorkers.end());
    Outcome<Results> answer = worker->run(values, series);
    if (answer)
        for (const CalculatorResult& r : answer.value())
            if (const double* figure = std::get_if<double>(&r.value);
                figure && !std::isfinite(*figure))
                return Error{"unmet", r.key, "a result that is not finite", "other values", ""};
    return answer;
}

} // namespace sipper
