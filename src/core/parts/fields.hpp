// SPDX-License-Identifier: GPL-3.0-or-later
// One table per type says which figures it has: key in files, unit, range, words for people.
// Reading, writing, the JSON Schema, the inspector and its tooltips are all driven by these tables.
#pragma once

#include "parts/load.hpp"
#include "parts/reading.hpp"

#include <limits>
#include <span>
#include <type_traits>
#include <variant>

namespace sipper {

enum class FieldKind { number, flag, choice, text, names };

/// Nothing (left out), a figure in the field's unit, yes or no, a name or text, names as `a, b`.
using FieldValue = std::variant<std::monostate, double, bool, std::string>;

struct Limits {
    double min = 0;
    double max = std::numeric_limits<double>::max();
    bool minOpen = false; ///< min itself is not allowed
    /// Is `value` within? A number that is not finite never is.
    [[nodiscard]] bool holds(double value) const {
        return (minOpen ? value > min : value >= min) && value <= max;
    }
    /// `above 0 and at most 1000`: for messages.
    [[nodiscard]] std::string text() const;
};

/// The widest sensible range of a unit; a figure past it is a slip of the unit, not a part.
[[nodiscard]] Limits usualLimits(Unit unit);

/// What a field is, apart from the type that it belongs to.
struct FieldFacts {
    std::string_view key;   ///< in files
    std::string_view label; ///< on the screen
    std::string_view help;  ///< one sentence for the tooltip
    FieldKind kind = FieldKind::number;
    Unit unit = Unit::none;
    Limits limits;
    bool required = false;
    FieldValue preset; ///< what holds when it is left out; nothing when nothing does
    std::span<const std::string_view> names; ///< of a choice
};

template <class T>
struct Field : FieldFacts {
    FieldValue (*get)(const T&) = nullptr;
    /// Nothing leaves an optional figure out; on a required one it changes nothing.
    void (*set)(T&, const FieldValue&) = nullptr;
};

/// The fields of T, in the order in which files keep them. Defined for Cell, Pack, every part kind,
/// Mode, Window, Draw, Load, Ambient, Brief, Reading, Stage (its own figures only), Connector.
template <class T>
[[nodiscard]] std::span<const Field<T>> fieldsOf();

/// What a value of this field must be: `volts, such as 3.3 V or 3v3` or a list of names.
[[nodiscard]] std::string expectedOf(const FieldFacts& facts);

/// The fields of the alternative that `part` holds, bound to nothing: facts only.
[[nodiscard]] std::vector<FieldFacts> factsOf(const Part& part);
/// The value of the field `key`; nothing when it is left out or the part has no such field.
[[nodiscard]] FieldValue valueOf(const Part& part, std::string_view key);
/// Sets the field; false when the part has no field of that key.
[[nodiscard]] bool setValue(Part& part, std::string_view key, const FieldValue& value);
} // namespace sipper
