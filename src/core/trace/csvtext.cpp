// SPDX-License-Identifier: GPL-3.0-or-later
#include "trace/csvtext.hpp"

#include <algorithm>
#include <array>
#include <charconv>
#include <cmath>

namespace sipper {

std::string lowered(std::string_view text) {
    std::string out;
    for (const char c : text)
        out += c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c;
    return out;
}

std::optional<double> cellNumber(std::string_view text, char decimal) {
    while (!text.empty() && text.front() == ' ')
        text.remove_prefix(1);
    while (!text.empty() && (text.back() == ' ' || text.back() == '\r'))
        text.remove_suffix(1);
    if (!text.empty() && text.front() == '+')
        text.remove_prefix(1);
    double value = 0;
    if (decimal == '.') {
        const auto [end, code] = std::from_chars(text.data(), text.data() + text.size(), value);
        if (code != std::errc{} || end != text.data() + text.size() || !std::isfinite(value))
            return std::nullopt;
        return value;
    }
    std::array<char, 64> buffer;
    if (text.empty() || text.size() >= buffer.size() || text.find('.') != std::string_view::npos)
        return std::nullopt;
    std::copy(text.begin(), text.end(), buffer.begin());
    std::replace(buffer.begin(), buffer.begin() + static_cast<std::ptrdiff_t>(text.size()), ',',
                 '.');
    const auto [end, code] = std::from_chars(buffer.data(), buffer.data() + text.size(), value);
    if (code != std::errc{} || end != buffer.data() + text.size() || !std::isfinite(value))
        return std::nullopt;
    return value;
}

std::optional<double> cellClock(std::string_view text) {
    if (const auto cut = text.find_first_of("T "); cut != std::string_view::npos && cut >= 8)
        text = text.substr(cut + 1);
    int hours = 0;
    int minutes = 0;
    if (text.size() < 8 || text[2] != ':' || text[5] != ':')
        return std::nullopt;
    std::from_chars(text.data(), text.data() + 2, hours);
    std::from_chars(text.data() + 3, text.data() + 5, minutes);
    const auto seconds = cellNumber(text.substr(6), '.');
    if (!seconds)
        return std::nullopt;
    return hours * 3600 + minutes * 60 + *seconds;
}

std::string cellUnit(std::string_view cell) {
    for (const auto& [open, close] : {std::pair{'(', ')'}, std::pair{'[', ']'}}) {
        const auto a = cell.find(open);
        const auto b = cell.find(close, a == std::string_view::npos ? 0 : a);
        if (a != std::string_view::npos && b != std::string_view::npos)
            return std::string(cell.substr(a + 1, b - a - 1));
    }
    const auto cut = cell.find_last_of(" /_");
    return cut == std::string_view::npos ? std::string() : std::string(cell.substr(cut + 1));
}

bool cellNames(const std::string& cell, std::initializer_list<const char*> words) {
    const std::string low = lowered(cell);
    return std::any_of(words.begin(), words.end(), [&](const char* word) {
        const std::string w = word;
        if (w.size() > 2)
            return low.find(w) != std::string::npos;
        return low.starts_with(w) &&
               (low.size() == w.size() || !std::isalpha(static_cast<unsigned char>(low[w.size()])));
    });
}

std::string plainPrefix(std::string_view unit) {
    std::string text(unit);
    for (const char* micro : {"µ", "μ"})
        if (const auto at = text.find(micro); at != std::string::npos)
            text.replace(at, std::string_view(micro).size(), "u");
    return text;
}

std::optional<double> unitScale(std::string_view unit, char base) {
    const std::string text = plainPrefix(unit);
    if (text.empty() || (text.back() != base && text.back() != std::tolower(base)))
        return std::nullopt;
    if (text.size() == 1)
        return 1.0;
    if (text.size() != 2)
        return std::nullopt;
    switch (text[0]) {
    case 'm':
        return 1e-3;
    case 'u':
        return 1e-6;
    case 'n':
        return 1e-9;
    case 'k':
        return 1e3;
    default:
        return std::nullopt;
    }
}

} // namespace sipper
