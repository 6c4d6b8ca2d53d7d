// SPDX-License-Identifier: GPL-3.0-or-later
#include "parts/fields.hpp"

#include "parts/fieldmaker.hpp"
#include "quantity/unittable.hpp"
#include "quantity/write.hpp"

#include <cmath>
#include <fmt/format.h>

namespace sipper {

std::string Limits::text() const {
    const std::string low = fmt::format("{} {}", minOpen ? "above" : "at least", min);
    if (max >= std::numeric_limits<double>::max())
        return low;
    return fmt::format("{} and at most {}", low, max);
}

Limits usualLimits(Unit unit) {
    const UnitFacts& facts = factsOf(unit);
    return {facts.least, facts.most, facts.leastOpen};
}

std::string expectedOf(const FieldFacts& facts) {
    switch (facts.kind) {
    case FieldKind::number:
        if (facts.unit == Unit::count)
            return fmt::format("a whole number, {}", facts.limits.text());
        return fmt::format("a number, {}{}", facts.limits.text(),
                           unitSymbol(facts.unit).empty() ? "" : ", in " + unitSymbol(facts.unit));
    case FieldKind::flag:
        return "true or false";
    case FieldKind::choice:
        return "one of " + listed(facts.names);
    case FieldKind::text:
        return "text";
    case FieldKind::names:
        return "a list of some of " + listed(facts.names);
    }
    return {};
}

std::vector<FieldFacts> factsOf(const Part& part) {
    return std::visit(
        []<class P>(const P&) {
            const auto fields = fieldsOf<P>();
            return std::vector<FieldFacts>(fields.begin(), fields.end());
        },
        part);
}

FieldValue valueOf(const Part& part, std::string_view key) {
    return std::visit(
        [&]<class P>(const P& p) -> FieldValue {
            for (const Field<P>& f : fieldsOf<P>())
                if (f.key == key)
                    return f.get(p);
            return {};
        },
        part);
}

bool setValue(Part& part, std::string_view key, const FieldValue& value) {
    return std::visit(
        [&]<class P>(P& p) {
            for (const Field<P>& f : fieldsOf<P>())
                if (f.key == key) {
                    f.set(p, value);
                    return true;
                }
            return false;
        },
        part);
}

} // namespace sipper
