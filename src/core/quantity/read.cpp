// SPDX-License-Identifier: GPL-3.0-or-later
#include "quantity/read.hpp"

#include "quantity/unittable.hpp"

#include <array>
#include <charconv>
#include <cmath>
#include <numbers>
#include <optional>
#include <span>
#include <vector>

namespace sipper {
namespace {

std::optional<double> prefixFactor(char c) {
    switch (c) {
    case 'p':
        return 1e-12;
    case 'n':
        return 1e-9;
    case 'u':
        return 1e-6;
    case 'm':
        return 1e-3;
    case 'k':
    case 'K':
        return 1e3;
    case 'M':
        return 1e6;
    case 'G':
        return 1e9;
    default:
        return std::nullopt;
    }
}

bool isDigit(char c) {
    return c >= '0' && c <= '9';
}
char lower(char c) {
    return c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c;
}

std::string lowered(std::string_view text) {
    std::string out;
    for (const char c : text)
        out += lower(c);
    return out;
}

/// Replaces the typographic signs people paste by their plain forms and trims the ends.
std::string normalised(std::string_view text) {
    static constexpr std::array<std::pair<std::string_view, std::string_view>, 11> kSigns{{
        {"\u2212", "-"},
        {"\u00b5", "u"},
        {"\u03bc", "u"},
        {"\u03a9", "ohm"},
        {"\u2126", "ohm"},
        {"\u00b2", "2"},
        {"\u00b0", "deg"},
        {"\u00a0", " "},
        {"\u202f", " "},
        {"\u2009", " "},
        {"\u00b1", ""},
    }};
    std::string out;
    for (std::size_t i = 0; i < text.size();) {
        bool replaced = false;
        for (const auto& [from, to] : kSigns)
            if (text.substr(i, from.size()) == from) {
                out += to;
                i += from.size();
                replaced = true;
                break;
            }
        if (!replaced)
            out += text[i++];
    }
    const auto first = out.find_first_not_of(" \t");
    if (first == std::string::npos)
        return {};
    return out.substr(first, out.find_last_not_of(" \t") - first + 1);
}

struct Number {
    double value;
    std::string_view rest; ///< what follows, leading blanks removed
    bool plainInteger;     ///< digits only, so a letter behind may stand for the decimal point
};

enum class NumberTrouble { none, notANumber, thousands };

/// Reads the leading number; comma or point is the decimal mark. `1,500` may be either and is
/// refused.
/// The digits from `i` on, appended; answers how many.
std::size_t takeDigits(std::string_view text, std::size_t& i, std::string& digits) {
    const std::size_t start = i;
    while (i < text.size() && isDigit(text[i]))
        digits += text[i++];
    return i - start;
}

/// A decimal mark and what follows, where there is one. A comma before three digits, or a second
/// mark, may part thousands: refused.
NumberTrouble takeDecimals(std::string_view text, std::size_t wholeStart, std::size_t& i,
                           std::string& digits) {
    const std::size_t wholeDigits = i - wholeStart;
    const bool comma = text[i++] == ',';
    digits += '.';
    const std::size_t partDigits = takeDigits(text, i, digits);
    const bool nonZeroWhole = wholeDigits > 0 && text[wholeStart] != '0';
    if (comma && partDigits == 3 && nonZeroWhole && wholeDigits <= 3)
        return NumberTrouble::thousands;
    if (i < text.size() && (text[i] == '.' || text[i] == ','))
        return comma != (text[i] == ',') || partDigits == 3 ? NumberTrouble::thousands
                                                            : NumberTrouble::notANumber;
    return partDigits == 0 && wholeDigits == 0 ? NumberTrouble::notANumber : NumberTrouble::none;
}

/// `e-3` and its like; an `e` without digits is left where it is. Answers whether there was one.
bool takeExponent(std::string_view text, std::size_t& i, std::string& digits) {
    if (i + 1 >= text.size() || (text[i] != 'e' && text[i] != 'E'))
        return false;
    std::size_t j = i + 1;
    std::string exponent = "e";
    if (text[j] == '-' || text[j] == '+') {
        if (text[j] == '-')
            exponent += '-';
        ++j;
    }
    if (takeDigits(text, j, exponent) == 0)
        return false;
    digits += exponent;
    i = j;
    return true;
}

NumberTrouble readNumber(std::string_view text, Number& number) {
    std::size_t i = 0;
    std::string digits;
    if (i < text.size() && (text[i] == '-' || text[i] == '+')) {
        if (text[i] == '-')
            digits += '-';
        ++i;
    }
    const std::size_t wholeStart = i;
    bool plain = takeDigits(text, i, digits) > 0;
    if (i < text.size() && (text[i] == '.' || text[i] == ',')) {
        const NumberTrouble trouble = takeDecimals(text, wholeStart, i, digits);
        if (trouble != NumberTrouble::none)
            return trouble;
        plain = false;
    } else if (!plain) {
        return NumberTrouble::notANumber;
    }
    if (takeExponent(text, i, digits))
        plain = false;
    const auto result = std::from_chars(digits.data(), digits.data() + digits.size(), number.value);
    if (result.ec != std::errc{} || !std::isfinite(number.value))
        return NumberTrouble::notANumber;
    while (i < text.size() && text[i] == ' ') {
        ++i;
        plain = false;
    }
    number.rest = text.substr(i);
    number.plainInteger = plain;
    return NumberTrouble::none;
}

/// The factor of a unit suffix, or nothing where it does not belong to this unit.
std::optional<double> suffixFactor(std::string_view suffix, Unit unit) {
    const std::string low = lowered(suffix);
    for (const Spelling& s : factsOf(unit).spellings)
        if (low == s.text)
            return s.factor;
    if (const auto prefix = suffix.empty() ? std::nullopt : prefixFactor(suffix.front())) {
        const std::string tail = lowered(suffix.substr(1));
        for (const Spelling& s : factsOf(unit).spellings)
            if (s.prefixed && tail == s.text)
                return *prefix * s.factor;
        if (tail.empty() && factsOf(unit).barePrefix)
            return prefix;
    }
    return std::nullopt;
}

/// `3v3`, `4k7`, `2R2`, `3m8`, `4k7 ohm`: the letter stands for the decimal point.
std::optional<double> letterAsPoint(const Number& number, Unit unit) {
    if (!number.plainInteger || number.rest.size() < 2 || !isDigit(number.rest[1]))
        return std::nullopt;
    std::size_t end = 1;
    while (end < number.rest.size() && isDigit(number.rest[end]))
        ++end;
    double part = 0;
    const std::string text = "0." + std::string(number.rest.substr(1, end - 1));
    std::from_chars(text.data(), text.data() + text.size(), part);
    const double value = std::signbit(number.value) ? number.value - part : number.value + part;
    const auto factor = suffixFactor(number.rest.substr(0, 1), unit);
    if (!factor)
        return std::nullopt;
    std::string_view tail = number.rest.substr(end);
    while (!tail.empty() && tail.front() == ' ')
        tail.remove_prefix(1);
    if (tail.empty())
        return value * *factor;
    if (!prefixFactor(number.rest.front()))
        return std::nullopt;
    const auto unitFactor = suffixFactor(tail, unit);
    if (!unitFactor || prefixFactor(tail.front()).has_value())
        return std::nullopt;
    return value * *factor * *unitFactor;
}

/// Durations in several parts: `1h30`, `4 h 50`, `2 d 13 h`, `1h30m`, `90 min`. In seconds.
std::optional<double> readDuration(std::string_view text) {
    struct Part {
        double value;
        std::string unit;
    };
    std::vector<Part> parts;
    while (!text.empty()) {
        Number number{};
        if (readNumber(text, number) != NumberTrouble::none || number.value < 0)
            return std::nullopt;
        std::size_t i = 0;
        while (i < number.rest.size() && !isDigit(number.rest[i]) && number.rest[i] != ' ')
            ++i;
        parts.push_back({number.value, lowered(number.rest.substr(0, i))});
        text = number.rest.substr(i);
        while (!text.empty() && text.front() == ' ')
            text.remove_prefix(1);
    }
    if (parts.size() < 2 || parts.size() > 4)
        return std::nullopt;
    static constexpr std::array<double, 4> kLadder{86400, 3600, 60, 1};
    double seconds = 0;
    std::size_t previous = kLadder.size();
    for (std::size_t i = 0; i < parts.size(); ++i) {
        std::size_t rung = kLadder.size();
        const std::string& u = parts[i].unit;
        if (u == "d")
            rung = 0;
        else if (u == "h")
            rung = 1;
        else if (u == "min" || (u == "m" && i > 0))
            rung = 2;
        else if (u == "s")
            rung = 3;
        else if (u.empty() && i > 0 && i + 1 == parts.size() && previous < 2)
            rung = previous + 1;
        if (rung == kLadder.size() || (i > 0 && rung <= previous))
            return std::nullopt;
        seconds += parts[i].value * kLadder[rung];
        previous = rung;
    }
    return seconds;
}

std::optional<double> readAwg(std::string_view text) {
    const std::string low = lowered(text);
    const auto at = low.find("awg");
    if (at == std::string::npos)
        return std::nullopt;
    std::string rest = normalised(low.substr(0, at) + low.substr(at + 3));
    if (!rest.empty() && rest.front() == '#')
        rest.erase(0, 1);
    Number number{};
    if (readNumber(rest, number) != NumberTrouble::none || !number.rest.empty())
        return std::nullopt;
    if (number.value < -3 || number.value > 40)
        return std::nullopt;
    return areaOfAwg(number.value).value();
}

std::optional<double> toCelsius(double value, std::string_view suffix) {
    const std::string low = lowered(suffix);
    if (low.empty() || low == "c" || low == "degc" || low == "deg")
        return value;
    if (low == "f" || low == "degf")
        return (value - 32) / 1.8;
    if (low == "k")
        return value - 273.15;
    return std::nullopt;
}

Error refuse(std::string_view text, const std::string& expected) {
    return Error{"quantity", "", text.empty() ? "nothing" : "\"" + std::string(text) + "\"",
                 expected, ""};
}

std::optional<double> readSpecial(std::string_view text, Unit unit) {
    if (unit == Unit::second || unit == Unit::hour)
        if (const auto seconds = readDuration(text))
            return unit == Unit::hour ? *seconds / 3600 : *seconds;
    if (unit == Unit::squareMillimetre)
        return readAwg(text);
    return std::nullopt;
}

} // namespace

SquareMillimetres areaOfAwg(double gauge) {
    const double diameter = 0.127 * std::pow(92.0, (36.0 - gauge) / 39.0);
    return SquareMillimetres{std::numbers::pi / 4 * diameter * diameter};
}

std::string expectedText(Unit unit) {
    return std::string(factsOf(unit).expected);
}

Outcome<double> readQuantity(std::string_view typed, Unit unit) {
    const std::string text = normalised(typed);
    if (const auto special = readSpecial(text, unit))
        return *special;
    Number number{};
    switch (readNumber(text, number)) {
    case NumberTrouble::thousands:
        return refuse(text, "one decimal mark (decimal or thousands? write 1.5 or 1500)");
    case NumberTrouble::notANumber:
        return refuse(text, expectedText(unit));
    case NumberTrouble::none:
        break;
    }
    if (unit == Unit::celsius) {
        if (const auto celsius = toCelsius(number.value, number.rest))
            return *celsius;
        return refuse(text, expectedText(unit));
    }
    const double bare = unit == Unit::percent ? 0.01 : 1.0;
    if (number.rest.empty()) {
        if (unit == Unit::count && number.value != std::floor(number.value))
            return refuse(text, expectedText(unit));
        return number.value * bare;
    }
    std::optional<double> value = letterAsPoint(number, unit);
    if (!value)
        if (const auto factor = suffixFactor(number.rest, unit))
            value = number.value * *factor;
    if (!value)
        return refuse(text, expectedText(unit));
    if (unit == Unit::fraction || unit == Unit::percent)
        return *value * 0.01;
    return unit == Unit::hour ? *value / 3600 : *value;
}

} // namespace sipper
