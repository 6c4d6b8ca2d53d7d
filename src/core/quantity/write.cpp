// SPDX-License-Identifier: GPL-3.0-or-later
#include "quantity/write.hpp"

#include "quantity/unittable.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

struct Prefix {
    double factor;
    const char* sign;
};
constexpr std::array kPrefixes{Prefix{1e9, "G"},  Prefix{1e6, "M"},  Prefix{1e3, "k"},
                               Prefix{1, ""},     Prefix{1e-3, "m"}, Prefix{1e-6, "µ"},
                               Prefix{1e-9, "n"}, Prefix{1e-12, "p"}};

/// `value` rounded to three significant digits, trailing zeros kept: 3.30, 12.0, 150.
std::string threeDigits(double value) {
    if (value == 0)
        return "0";
    const int magnitude = static_cast<int>(std::floor(std::log10(std::abs(value)) + 1e-12));
    const int decimals = std::clamp(2 - magnitude, 0, 6);
    std::string text = fmt::format("{:.{}f}", value, decimals);
    if (decimals > 0 && std::abs(std::stod(text)) >= std::pow(10.0, magnitude + 1))
        text = fmt::format("{:.{}f}", value, decimals - 1);
    return text;
}

const Prefix& prefixFor(double value) {
    const double size = std::abs(value);
    for (const Prefix& prefix : kPrefixes)
        if (size >= prefix.factor * 0.9995)
            return prefix;
    return kPrefixes.back();
}

} // namespace

std::string unitSymbol(Unit unit) {
    return std::string(factsOf(unit).symbol);
}

std::string writeShare(double share) {
    if (!std::isfinite(share))
        return "–";
    const double percent = share * 100;
    if (std::abs(percent) < 0.95 && percent != 0)
        return fmt::format("{:.1f} %", percent);
    return fmt::format("{:.0f} %", percent);
}

std::string writeHours(double hours) {
    if (!std::isfinite(hours))
        return "–";
    const std::string sign = hours < 0 ? "−" : "";
    const double size = std::abs(hours);
    const double minutes = std::round(size * 60);
    if (size * 3600 < 99.5)
        return sign + fmt::format("{:.0f} s", size * 3600);
    if (minutes < 60)
        return sign + fmt::format("{:.0f} min", minutes);
    if (minutes < 600)
        return sign +
               fmt::format("{:.0f} h {:02.0f}", std::floor(minutes / 60), std::fmod(minutes, 60));
    if (size < 96)
        return sign + fmt::format("{:.0f} h", size);
    const double wholeHours = std::round(size);
    if (wholeHours < 24 * 30 && std::fmod(wholeHours, 24) > 0)
        return sign + fmt::format("{:.0f} d {:.0f} h", std::floor(wholeHours / 24),
                                  std::fmod(wholeHours, 24));
    if (size < 24 * 730)
        return sign + fmt::format("{:.0f} d", size / 24);
    return sign + fmt::format("{:.1f} years", size / 8766);
}

std::string writeQuantity(double value, Unit unit) {
    if (!std::isfinite(value))
        return "–";
    if (unit == Unit::hour)
        return writeHours(value);
    if (unit == Unit::percent)
        return writeShare(value);
    if (unit == Unit::count)
        return fmt::format("{:.0f}", value);
    if (unit == Unit::money)
        return fmt::format("{:.2f}", value);
    if (unit == Unit::celsius)
        return fmt::format("{:.{}f} °C", value, value == std::round(value) ? 0 : 1);
    const std::string symbol = unitSymbol(unit);
    if (value == 0)
        return symbol.empty() ? "0" : "0 " + symbol;
    if (unit == Unit::gram && std::abs(value) >= 999.5)
        return threeDigits(value / 1000) + " kg";
    if (!factsOf(unit).prefixed)
        return threeDigits(value) + (symbol.empty() ? "" : " " + symbol);
    const Prefix& prefix = prefixFor(value);
    return threeDigits(value / prefix.factor) + " " + prefix.sign + symbol;
}

std::string writeExact(double value, Unit unit) {
    if (!std::isfinite(value))
        return "";
    const auto digits = [](double number) {
        std::string shortest = fmt::format("{}", number);
        // A change of scale may leave binary dust in the last digits: 0.0003/1e-3 is 0.3.
        const std::string tidy = fmt::format("{:.12g}", number);
        return tidy.size() < shortest.size() ? tidy : shortest;
    };
    if (unit == Unit::percent)
        return digits(value * 100) + " %";
    const std::string symbol = unitSymbol(unit);
    if (value != 0 && factsOf(unit).prefixed) {
        const Prefix& prefix = prefixFor(value);
        return digits(value / prefix.factor) + " " + prefix.sign + symbol;
    }
    return digits(value) + (symbol.empty() ? "" : " " + symbol);
}

} // namespace sipper
