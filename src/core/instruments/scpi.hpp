// SPDX-License-Identifier: GPL-3.0-or-later
// Command lines in the manner of SCPI 1999 and IEEE 488.2: headers in short and long form, numbers
// with units, a queue of errors; the instruments that answer them.
#pragma once

#include <cstdint>
#include <deque>
#include <functional>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace sipper {

/// A number of the standard's list with its words.
struct ScpiError {
    int code = 0;
    [[nodiscard]] std::string text() const; ///< `-113,"Undefined header"`
};

/// The answer to one command: text of a query, nothing of an order, or an error.
struct ScpiAnswer {
    std::optional<std::string> text;
    int error = 0;
    static ScpiAnswer said(std::string text) { return {std::move(text), 0}; }
    static ScpiAnswer done() { return {}; }
    static ScpiAnswer failed(int code) { return {std::nullopt, code}; }
};

/// The parameters of one command, as they stand between commas.
using ScpiArguments = std::vector<std::string>;

struct ScpiCommand {
    std::string pattern; ///< `[SOURce:]VOLTage`, `MEASure[:VOLTage][:DC]`
    bool query = false;
    std::function<ScpiAnswer(const ScpiArguments&)> run;
};

/// What one client has: its errors and registers.
class ScpiSession {
  public:
    explicit ScpiSession(const std::vector<ScpiCommand>& commands, std::string identity);

    /// One line without its end; the answers of its queries joined by `;`, nothing without any.
    [[nodiscard]] std::optional<std::string> line(std::string_view text);
    /// A line that was too long and has been dropped.
    void tooLong() { fail(-363); }
    /// What `*RST` does besides.
    std::function<void()> reset;

  private:
    void unit(std::string_view text, std::vector<std::string>& path, std::vector<std::string>& out);
    [[nodiscard]] std::optional<ScpiAnswer> common(const std::string& header, bool query,
                                                   const ScpiArguments& arguments);
    [[nodiscard]] std::optional<ScpiAnswer> system(const std::vector<std::string>& nodes,
                                                   bool query, const ScpiArguments& arguments);
    void fail(int code);
    std::string nextError();

    const std::vector<ScpiCommand>& m_commands;
    std::string m_identity;
    std::deque<int> m_errors;
    std::uint8_t m_event = 128; ///< power on
    std::uint8_t m_eventEnable = 0;
    std::uint8_t m_serviceEnable = 0;
};

/// Does a header, node by node, fit a pattern: short or long form, any case, nodes in brackets left
/// out or not?
[[nodiscard]] bool scpiFits(std::string_view pattern, const std::vector<std::string>& nodes);
/// Does a word fit one of the words of a choice: `CURRent|POWer`; its place, or nothing?
[[nodiscard]] std::optional<std::size_t> scpiChoice(std::string_view choices,
                                                    std::string_view word);
/// A number with an optional unit (`V`, `A`, `W`, `OHM`, `S`; empty: none), within limits; MIN, MAX
/// and DEF. The error otherwise: -104, -222.
struct ScpiNumber {
    double value = 0;
    int error = 0;
};
struct ScpiRange {
    std::string_view unit;
    double low = 0;
    double high = 0;
    double usual = 0;
};
[[nodiscard]] ScpiNumber scpiNumber(std::string_view text, const ScpiRange& range);
/// ON, OFF, 1, 0.
[[nodiscard]] ScpiNumber scpiSwitch(std::string_view text);
/// NR3: `1.2345678E+00`.
[[nodiscard]] std::string scpiText(double value);

} // namespace sipper
