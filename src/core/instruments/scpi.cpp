// SPDX-License-Identifier: GPL-3.0-or-later
#include "instruments/scpi.hpp"

#include <algorithm>
#include <array>
#include <cctype>
#include <charconv>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr std::size_t kMostErrors = 20;
constexpr int kOverflow = -350;

std::string upper(std::string_view text) {
    std::string out(text);
    std::transform(out.begin(), out.end(), out.begin(),
                   [](unsigned char c) { return static_cast<char>(std::toupper(c)); });
    return out;
}

std::string_view stripped(std::string_view text) {
    while (!text.empty() && std::isspace(static_cast<unsigned char>(text.front())))
        text.remove_prefix(1);
    while (!text.empty() && std::isspace(static_cast<unsigned char>(text.back())))
        text.remove_suffix(1);
    return text;
}

std::vector<std::string> split(std::string_view text, char mark) {
    std::vector<std::string> parts;
    std::size_t from = 0;
    while (true) {
        const std::size_t at = text.find(mark, from);
        parts.emplace_back(stripped(text.substr(from, at - from)));
        if (at == std::string_view::npos)
            return parts;
        from = at + 1;
    }
}

/// Does a word fit a long form whose capitals are the short one: `VOLTage`?
bool wordFits(std::string_view form, std::string_view word) {
    std::string brief;
    for (const char c : form)
        if (!std::islower(static_cast<unsigned char>(c)))
            brief += c;
    const std::string given = upper(word);
    return given == brief || given == upper(form);
}

struct Node {
    std::string form;
    bool optional = false;
};
std::vector<Node> nodesOf(std::string_view pattern) {
    std::vector<Node> nodes;
    std::string word;
    bool optional = false;
    const auto take = [&] {
        if (!word.empty())
            nodes.push_back({word, optional});
        word.clear();
    };
    for (const char c : pattern) {
        if (c == '[') {
            take();
            optional = true;
        } else if (c == ']') {
            take();
            optional = false;
        } else if (c == ':') {
            take();
        } else {
            word += c;
        }
    }
    take();
    return nodes;
}

bool fitsFrom(const std::vector<Node>& pattern, std::size_t at,
              const std::vector<std::string>& nodes, std::size_t node) {
    if (at == pattern.size())
        return node == nodes.size();
    if (node < nodes.size() && wordFits(pattern[at].form, nodes[node]) &&
        fitsFrom(pattern, at + 1, nodes, node + 1))
        return true;
    return pattern[at].optional && fitsFrom(pattern, at + 1, nodes, node);
}

bool isWord(std::string_view text) {
    return !text.empty() && std::isalpha(static_cast<unsigned char>(text.front())) &&
           std::all_of(text.begin(), text.end(),
                       [](unsigned char c) { return std::isalnum(c) || c == '_'; });
}

} // namespace

std::string ScpiError::text() const {
    static constexpr std::array words{std::pair{0, "No error"},
                                      std::pair{-102, "Syntax error"},
                                      std::pair{-104, "Data type error"},
                                      std::pair{-108, "Parameter not allowed"},
                                      std::pair{-109, "Missing parameter"},
                                      std::pair{-113, "Undefined header"},
                                      std::pair{-222, "Data out of range"},
                                      std::pair{-224, "Illegal parameter value"},
                                      std::pair{-350, "Queue overflow"},
                                      std::pair{-363, "Input buffer overrun"}};
    for (const auto& [number, word] : words)
        if (number == code)
            return fmt::format("{},\"{}\"", code, word);
    return fmt::format("{},\"Error\"", code);
}

bool scpiFits(std::string_view pattern, const std::vector<std::string>& nodes) {
    return fitsFrom(nodesOf(pattern), 0, nodes, 0);
}

std::optional<std::size_t> scpiChoice(std::string_view choices, std::string_view word) {
    const auto list = split(choices, '|');
    for (std::size_t i = 0; i < list.size(); ++i)
        if (wordFits(list[i], word))
            return i;
    return std::nullopt;
}

ScpiNumber scpiNumber(std::string_view text, const ScpiRange& range) {
    text = stripped(text);
    if (wordFits("MINimum", text))
        return {range.low, 0};
    if (wordFits("MAXimum", text))
        return {range.high, 0};
    if (wordFits("DEFault", text))
        return {range.usual, 0};
    if (text.starts_with('+'))
        text.remove_prefix(1);
    double value = 0;
    const auto [end, code] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (code != std::errc{} || end == text.data() || !std::isfinite(value) ||
        std::isalpha(static_cast<unsigned char>(text.front())))
        return {0, -104};
    std::string unit = upper(stripped(text.substr(static_cast<std::size_t>(end - text.data()))));
    if (!unit.empty()) {
        if (unit != range.unit && !range.unit.empty() && unit.size() == range.unit.size() + 1 &&
            unit[0] == 'M' && unit.substr(1) == range.unit) {
            value *= range.unit == "OHM" ? 1e6 : 1e-3;
            unit = range.unit;
        }
        if (range.unit.empty() || unit != range.unit)
            return {0, -104};
    }
    if (!(value >= range.low) || !(value <= range.high))
        return {0, -222};
    return {value, 0};
}

ScpiNumber scpiSwitch(std::string_view text) {
    const std::string word = upper(stripped(text));
    if (word == "ON")
        return {1, 0};
    if (word == "OFF")
        return {0, 0};
    const ScpiNumber number = scpiNumber(word, {"", -1e9, 1e9, 0});
    if (number.error != 0)
        return {0, isWord(word) ? -224 : -104};
    return number.value == 0 || number.value == 1 ? number : ScpiNumber{0, -224};
}

std::string scpiText(double value) {
    return fmt::format("{:.7E}", value);
}

ScpiSession::ScpiSession(const std::vector<ScpiCommand>& commands, std::string identity)
    : m_commands(commands), m_identity(std::move(identity)) {}

void ScpiSession::fail(int code) {
    if (m_errors.size() < kMostErrors)
        m_errors.push_back(code);
    else
        m_errors.back() = kOverflow;
    m_event |= code <= -300 ? 8 : code <= -200 ? 16 : 32;
}

std::string ScpiSession::nextError() {
    int code = 0;
    if (!m_errors.empty()) {
        code = m_errors.front();
        m_errors.pop_front();
    }
    return ScpiError{code}.text();
}

std::optional<std::string> ScpiSession::line(std::string_view text) {
    if (text.ends_with('\r'))
        text.remove_suffix(1);
    if (stripped(text).empty())
        return std::nullopt;
    std::vector<std::string> path;
    std::vector<std::string> out;
    std::size_t from = 0;
    while (from <= text.size()) {
        const std::size_t at = std::min(text.find(';', from), text.size());
        const std::string_view piece = stripped(text.substr(from, at - from));
        if (!piece.empty())
            unit(piece, path, out);
        else if (at < text.size() || from < text.size())
            fail(-102);
        from = at + 1;
    }
    if (out.empty())
        return std::nullopt;
    std::string joined;
    for (std::size_t i = 0; i < out.size(); ++i)
        joined += (i > 0 ? ";" : "") + out[i];
    return joined;
}

void ScpiSession::unit(std::string_view text, std::vector<std::string>& path,
                       std::vector<std::string>& out) {
    const std::size_t blank = std::min(text.find_first_of(" \t"), text.size());
    std::string_view header = text.substr(0, blank);
    const std::string_view rest = stripped(text.substr(blank));
    ScpiArguments arguments;
    if (!rest.empty())
        arguments = split(rest, ',');
    if (std::any_of(arguments.begin(), arguments.end(),
                    [](const std::string& a) { return a.empty(); }))
        return fail(-102);
    const bool query = header.ends_with('?');
    if (query)
        header.remove_suffix(1);
    const auto answer = [&](const ScpiAnswer& a) {
        if (a.error != 0)
            fail(a.error);
        else if (a.text)
            out.push_back(*a.text);
    };
    if (header.starts_with('*')) {
        const auto known = common(upper(header), query, arguments);
        return known ? answer(*known) : fail(-113);
    }
    const bool root = header.starts_with(':');
    if (root)
        header.remove_prefix(1);
    std::vector<std::string> nodes = split(header, ':');
    if (!std::all_of(nodes.begin(), nodes.end(), [](const std::string& n) { return isWord(n); }))
        return fail(-102);
    if (!root)
        nodes.insert(nodes.begin(), path.begin(), path.end());
    path.assign(nodes.begin(), nodes.end() - 1);
    if (const auto known = system(nodes, query, arguments))
        return answer(*known);
    for (const ScpiCommand& command : m_commands)
        if (command.query == query && scpiFits(command.pattern, nodes))
            return answer(command.run(arguments));
    fail(-113);
}

std::optional<ScpiAnswer> ScpiSession::common(const std::string& header, bool query,
                                              const ScpiArguments& arguments) {
    const auto bare = [&](auto&& then) -> ScpiAnswer {
        return arguments.empty() ? then() : ScpiAnswer::failed(-108);
    };
    const auto status = [&] {
        unsigned byte = m_errors.empty() ? 0 : 4;
        byte |= (m_event & m_eventEnable) != 0 ? 32 : 0;
        return byte | ((byte & m_serviceEnable) != 0 ? 64 : 0);
    };
    const auto mask = [&](std::uint8_t& into) -> ScpiAnswer {
        if (arguments.empty())
            return ScpiAnswer::failed(-109);
        if (arguments.size() > 1)
            return ScpiAnswer::failed(-108);
        const ScpiNumber n = scpiNumber(arguments[0], {"", 0, 255, 0});
        if (n.error != 0)
            return ScpiAnswer::failed(n.error);
        into = static_cast<std::uint8_t>(std::lround(n.value));
        return ScpiAnswer::done();
    };
    const auto say = [](auto value) { return ScpiAnswer::said(fmt::format("{}", value)); };
    if (query) {
        if (header == "*IDN")
            return bare([&] { return ScpiAnswer::said(m_identity); });
        if (header == "*ESR")
            return bare([&] {
                const unsigned was = m_event;
                m_event = 0;
                return say(was);
            });
        if (header == "*ESE")
            return bare([&] { return say(unsigned{m_eventEnable}); });
        if (header == "*SRE")
            return bare([&] { return say(unsigned{m_serviceEnable}); });
        if (header == "*STB")
            return bare([&] { return say(status()); });
        if (header == "*OPC")
            return bare([&] { return say(1); });
        if (header == "*TST")
            return bare([&] { return say(0); });
        return std::nullopt;
    }
    if (header == "*RST")
        return bare([&] {
            if (reset)
                reset();
            return ScpiAnswer::done();
        });
    if (header == "*CLS")
        return bare([&] {
            m_errors.clear();
            m_event = 0;
            return ScpiAnswer::done();
        });
    if (header == "*OPC")
        return bare([&] {
            m_event |= 1;
            return ScpiAnswer::done();
        });
    if (header == "*WAI")
        return bare([] { return ScpiAnswer::done(); });
    if (header == "*ESE")
        return mask(m_eventEnable);
    if (header == "*SRE")
        return mask(m_serviceEnable);
    return std::nullopt;
}

std::optional<ScpiAnswer> ScpiSession::system(const std::vector<std::string>& nodes, bool query,
                                              const ScpiArguments& arguments) {
    if (!query)
        return std::nullopt;
    const bool error = scpiFits("SYSTem:ERRor[:NEXT]", nodes);
    if (!error && !scpiFits("SYSTem:VERSion", nodes))
        return std::nullopt;
    if (!arguments.empty())
        return ScpiAnswer::failed(-108);
    return ScpiAnswer::said(error ? nextError() : "1999.0");
}

} // namespace sipper
