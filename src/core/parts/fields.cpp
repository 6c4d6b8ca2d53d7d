#include "parts/fields.hpp"

#include "parts/fieldmaker.hpp"
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
    switch (unit) {
    case Unit::volt:
        return {0, 1000, false};
    case Unit::ampere:
        return {0, 1000, false};
    case Unit::ohm:
        return {0, 1e9, false};
    case Unit::watt:
    case Unit::wattHour:
        return {0, 1e6, false};
    case Unit::ampereHour:
        return {0, 1e5, true};
    case Unit::second:
        return {0, 1e8, false};
    case Unit::hour:
        return {0, 1e6, false};
    case Unit::celsius:
        return {-273.15, 1000, false};
    case Unit::metre:
        return {0, 1e4, false};
    case Unit::squareMillimetre:
        return {0, 1000, true};
    case Unit::gram:
        return {0, 1e6, false};
    case Unit::farad:
        return {0, 1e4, false};
    case Unit::degree:
        return {-360, 360, false};
    case Unit::perHour:
    case Unit::perSecond:
        return {0, 1e6, false};
    case Unit::kelvinPerWatt:
        return {0, 1e4, false};
    case Unit::voltPerKelvin:
        return {-10, 10, false};
    case Unit::fraction:
    case Unit::percent:
        return {0, 1, false};
    case Unit::count:
        return {1, 1000, false};
    case Unit::money:
        return {0, 1e7, false};
    case Unit::none:
        return {-1e9, 1e9, false};
    }
    return {};
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
