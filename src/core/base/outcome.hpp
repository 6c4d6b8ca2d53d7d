// SPDX-License-Identifier: GPL-3.0-or-later
// The one error type, and a value-or-error.
#pragma once

#include <cassert>
#include <string>
#include <utility>
#include <variant>

namespace sipper {

/// Bad input as a value. `where` is a JSON pointer, a row or a field; `file` is empty until a file
/// is known. `message()` is one line: what a person needs to find and mend the thing.
struct Error {
    std::string code;     ///< stable short name, e.g. "dangling_id"
    std::string where;    ///< JSON pointer ("" is the whole document), row, or field name
    std::string found;    ///< what was found
    std::string expected; ///< what was expected
    std::string file;     ///< path, when the trouble lies in a file

    [[nodiscard]] std::string message() const {
        std::string text;
        if (!file.empty())
            text += file + ": ";
        if (!where.empty())
            text += where + ": ";
        text += "found " + found + ", expected " + expected;
        return text;
    }
    bool operator==(const Error&) const = default;
};

/// A value, or the reason why there is none. Asking for the wrong one is a programming mistake.
template <class T>
class Outcome {
  public:
    Outcome(T value) : m_state(std::in_place_index<0>, std::move(value)) {}
    Outcome(Error error) : m_state(std::in_place_index<1>, std::move(error)) {}

    [[nodiscard]] bool ok() const { return m_state.index() == 0; }
    explicit operator bool() const { return ok(); }

    [[nodiscard]] const T& value() const& {
        assert(ok());
        return std::get<0>(m_state);
    }
    [[nodiscard]] T&& value() && {
        assert(ok());
        return std::get<0>(std::move(m_state));
    }
    [[nodiscard]] const Error& error() const {
        assert(!ok());
        return std::get<1>(m_state);
    }

  private:
    std::variant<T, Error> m_state;
};

} // namespace sipper
