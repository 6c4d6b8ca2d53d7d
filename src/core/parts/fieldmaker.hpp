// SPDX-License-Identifier: GPL-3.0-or-later
// How the field tables are built from pointers to members.
#pragma once

#include "parts/fields.hpp"

#include <initializer_list>

namespace sipper::fieldmaker {

template <class T>
struct Inner {
    using type = T;
    static constexpr bool optional = false;
};
template <class T>
struct Inner<std::optional<T>> {
    using type = T;
    static constexpr bool optional = true;
};

/// A list of names of an enumeration.
template <class V>
inline constexpr bool isNames = false;
template <class E>
inline constexpr bool isNames<std::vector<E>> = std::is_enum_v<E>;

template <class E>
std::string joinedNames(const std::vector<E>& names) {
    std::string text;
    for (const E name : names)
        text += (text.empty() ? "" : ", ") + std::string(nameOf(name));
    return text;
}
/// What is no name of it is left out: the reader has refused it.
template <class E>
std::vector<E> splitNames(const std::string& text) {
    std::vector<E> names;
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t end = std::min(text.find(", ", at), text.size());
        if (const auto name = valueOf<E>(text.substr(at, end - at)))
            names.push_back(*name);
        at = end + 2;
    }
    return names;
}

template <class V>
FieldValue toValue(const V& value) {
    if constexpr (std::is_same_v<V, bool> || std::is_same_v<V, std::string> ||
                  std::is_same_v<V, double>)
        return value;
    else if constexpr (std::is_enum_v<V>)
        return std::string(nameOf(value));
    else if constexpr (isNames<V>)
        return joinedNames(value);
    else
        return value.value();
}

template <class V>
V fromValue(const FieldValue& value) {
    if constexpr (std::is_same_v<V, bool>)
        return std::get<bool>(value);
    else if constexpr (std::is_enum_v<V>)
        return valueOf<V>(std::get<std::string>(value)).value();
    else if constexpr (std::is_same_v<V, std::string>)
        return std::get<std::string>(value);
    else if constexpr (isNames<V>)
        return splitNames<typename V::value_type>(std::get<std::string>(value));
    else
        return V(std::get<double>(value));
}

/// A field for member `M` of T.
template <class T, auto M>
Field<T> field(std::string_view key, std::string_view label, std::string_view help,
               Unit unit = Unit::none) {
    using Member = std::remove_cvref_t<decltype(std::declval<T&>().*M)>;
    using V = typename Inner<Member>::type;
    Field<T> f;
    f.key = key;
    f.label = label;
    f.help = help;
    if constexpr (std::is_same_v<V, bool>) {
        f.kind = FieldKind::flag;
    } else if constexpr (std::is_enum_v<V>) {
        f.kind = FieldKind::choice;
        f.names = namesOf<V>();
    } else if constexpr (isNames<V>) {
        f.kind = FieldKind::names;
        f.names = namesOf<typename V::value_type>();
    } else if constexpr (std::is_same_v<V, std::string>) {
        f.kind = FieldKind::text;
    } else {
        if constexpr (std::is_same_v<V, double>)
            f.unit = unit;
        else
            f.unit = unitOf<V>;
        f.limits = usualLimits(f.unit);
    }
    f.get = [](const T& owner) -> FieldValue {
        const Member& member = owner.*M;
        if constexpr (Inner<Member>::optional) {
            if (!member)
                return {};
            return toValue<V>(*member);
        } else {
            return toValue<V>(member);
        }
    };
    f.set = [](T& owner, const FieldValue& value) {
        Member& member = owner.*M;
        if (std::holds_alternative<std::monostate>(value)) {
            if constexpr (Inner<Member>::optional)
                member.reset();
            return;
        }
        member = fromValue<V>(value);
    };
    return f;
}

template <class T>
Field<T> required(Field<T> f) {
    f.required = true;
    return f;
}
template <class T>
Field<T> within(Field<T> f, Limits limits) {
    f.limits = limits;
    return f;
}
template <class T>
Field<T> preset(Field<T> f, const FieldValue& value) {
    f.preset = value;
    return f;
}
template <class T>
Field<T> zero(Field<T> f) {
    return preset(std::move(f), 0.0);
}
template <class T>
Field<T> off(Field<T> f) {
    return preset(std::move(f), false);
}

/// When a part goes to sleep (docs/model.md: Stages).
template <class P>
std::vector<Field<P>> sleepFields() {
    return {
        field<P, &P::sleepsBelow>("sleeps_below_a", "Sleeps below",
                                  "Output current under which it goes to sleep, in A"),
        preset(field<P, &P::sleepsAfter>("sleeps_after_s", "Sleeps after",
                                         "How long that has to last, in s"),
               10.0),
    };
}

/// The resistors that set a threshold or a set-point.
template <class P>
std::vector<Field<P>> dividerFields() {
    return {
        within(field<P, &P::reference>("reference_v", "Reference",
                                       "What the part compares its divider's tap with, in V"),
               {0, 100, true}),
        within(field<P, &P::upper>("divider_upper_ohm", "Upper resistor",
                                   "From what is measured to the tap, in ohm"),
               {0, 1e9, true}),
        within(field<P, &P::lower>("divider_lower_ohm", "Lower resistor",
                                   "From the tap to ground, in ohm"),
               {0, 1e9, true}),
        within(field<P, &P::feedback>("divider_feedback_ohm", "Feedback resistor",
                                      "From the output back to the tap, for hysteresis, in ohm"),
               {0, 1e9, true}),
    };
}

template <class T>
std::vector<Field<T>> joined(std::initializer_list<std::vector<Field<T>>> lists) {
    std::vector<Field<T>> all;
    for (const auto& list : lists)
        all.insert(all.end(), list.begin(), list.end());
    return all;
}

} // namespace sipper::fieldmaker
