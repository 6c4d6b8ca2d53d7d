// SPDX-License-Identifier: GPL-3.0-or-later
// One JSON object, read by its field table: what is missing, wrong or unknown is told with its
// place.
#pragma once

#include "project/reader.hpp"

#include "parts/fields.hpp"
#include "parts/kinds.hpp"
#include "project/json.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper {

/// Thrown by the reader only; `readProject` turns it into a value.
struct Refused {
    Error error;
};

[[noreturn]] inline void refuse(const char* code, const std::string& where,
                                const std::string& found, const std::string& expected) {
    throw Refused{Error{code, where.empty() ? "the document" : where, found, expected, ""}};
}

/// One object being read: hands out its keys and knows which ones were never asked for.
class ObjectReader {
  public:
    ObjectReader(const Json& value, std::string at, std::vector<std::string>& warnings,
                 const char* what)
        : m_value(value), m_at(std::move(at)), m_warnings(warnings) {
        if (!value.is_object())
            refuse("type", m_at, foundText(value), std::string("an object: ") + what);
    }

    const Json* find(std::string_view key) {
        m_known.emplace_back(key);
        const auto at = m_value.find(std::string(key));
        return at == m_value.end() ? nullptr : &*at;
    }
    const Json& need(std::string_view key, const std::string& expected) {
        if (const Json* found = find(key))
            return *found;
        refuse("missing", pointer(key), "nothing", expected);
    }
    std::optional<std::string> text(std::string_view key) {
        const Json* found = find(key);
        if (!found)
            return std::nullopt;
        if (!found->is_string())
            refuse("type", pointer(key), foundText(*found), "text");
        return found->get<std::string>();
    }
    std::string id(std::string_view key) {
        const Json& found = need(key, "a short lower-case word");
        return idOf(found, pointer(key));
    }
    static std::string idOf(const Json& value, const std::string& at) {
        const auto good = [](const std::string& s) {
            return !s.empty() && s.size() <= 64 && std::all_of(s.begin(), s.end(), [](char c) {
                return (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '-' || c == '_' ||
                       c == '.';
            });
        };
        if (!value.is_string() || !good(value.get<std::string>()))
            refuse("id", at, foundText(value), "a short lower-case word (a-z, 0-9, - and _)");
        return value.get<std::string>();
    }
    const Json* list(std::string_view key, const char* expected) {
        const Json* found = find(key);
        if (found && !found->is_array())
            refuse("type", pointer(key), foundText(*found), expected);
        return found;
    }
    [[nodiscard]] std::string pointer(std::string_view key) const {
        return m_at + "/" + pointerStep(key);
    }
    [[nodiscard]] const std::string& at() const { return m_at; }
    [[nodiscard]] std::vector<std::string>& warnings() const { return m_warnings; }

    template <class T>
    void fields(T& owner) {
        for (const Field<T>& f : fieldsOf<T>()) {
            const Json* found = f.required ? &need(f.key, expectedOf(f)) : find(f.key);
            if (found)
                f.set(owner, value(f, *found, pointer(f.key)));
        }
    }

    /// What was not asked for: kept, and reported unless its name begins with `x-`.
    Extras rest() {
        Extras extras;
        for (const auto& [key, kept] : m_value.items()) {
            if (std::find(m_known.begin(), m_known.end(), key) != m_known.end())
                continue;
            extras.emplace_back(key, kept.dump(-1, ' ', false, Json::error_handler_t::replace));
            if (!key.starts_with("x-"))
                m_warnings.push_back(pointer(key) + ": unknown key, kept as it is");
        }
        return extras;
    }

  private:
    static FieldValue value(const FieldFacts& f, const Json& found, const std::string& at) {
        switch (f.kind) {
        case FieldKind::number: {
            if (!found.is_number())
                refuse("type", at, foundText(found), expectedOf(f));
            const double figure = found.get<double>();
            if (!std::isfinite(figure) || !f.limits.holds(figure) ||
                (f.unit == Unit::count && figure != std::floor(figure)))
                refuse("range", at, foundText(found), expectedOf(f));
            return figure;
        }
        case FieldKind::flag:
            if (!found.is_boolean())
                refuse("type", at, foundText(found), expectedOf(f));
            return found.get<bool>();
        case FieldKind::choice:
            if (!found.is_string())
                refuse("type", at, foundText(found), expectedOf(f));
            if (std::find(f.names.begin(), f.names.end(), found.get<std::string>()) ==
                f.names.end())
                refuse("name", at, foundText(found), expectedOf(f));
            return found.get<std::string>();
        case FieldKind::text:
            if (!found.is_string())
                refuse("type", at, foundText(found), expectedOf(f));
            return found.get<std::string>();
        case FieldKind::names: {
            if (!found.is_array())
                refuse("type", at, foundText(found), expectedOf(f));
            std::string all;
            for (std::size_t i = 0; i < found.size(); ++i) {
                if (!found[i].is_string() ||
                    std::find(f.names.begin(), f.names.end(), found[i].get<std::string>()) ==
                        f.names.end())
                    refuse("name", fmt::format("{}/{}", at, i), foundText(found[i]), expectedOf(f));
                all += (all.empty() ? "" : ", ") + found[i].get<std::string>();
            }
            return all;
        }
        }
        return {};
    }

    const Json& m_value;
    std::string m_at;
    std::vector<std::string>& m_warnings;
    std::vector<std::string> m_known;
};

using Warnings = std::vector<std::string>;

/// Points of a table: x rising strictly; y within `yLimits`, and not falling where `rising`.
Table readTable(const Json& value, const std::string& at, Limits xLimits, Limits yLimits,
                bool rising) {
    Table table;
    for (std::size_t i = 0; i < value.size(); ++i) {
        const std::string here = fmt::format("{}/{}", at, i);
        const Json& point = value[i];
        if (!point.is_array() || point.size() != 2 || !point[0].is_number() ||
            !point[1].is_number())
            refuse("type", here, foundText(point), "a pair of numbers");
        const double x = point[0].get<double>();
        const double y = point[1].get<double>();
        if (!xLimits.holds(x))
            refuse("range", here + "/0", foundText(point[0]), "a number, " + xLimits.text());
        if (!yLimits.holds(y))
            refuse("range", here + "/1", foundText(point[1]), "a number, " + yLimits.text());
        if (!table.empty() && x <= table.back().first)
            refuse("not_rising", here + "/0", foundText(point[0]),
                   fmt::format("more than {} before it", table.back().first));
        if (rising && !table.empty() && y < table.back().second)
            refuse("falls", here + "/1", foundText(point[1]),
                   fmt::format("at least {}: open-circuit voltage must not fall as charge rises",
                               table.back().second));
        table.emplace_back(x, y);
    }
    return table;
}

} // namespace sipper
