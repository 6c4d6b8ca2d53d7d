// SPDX-License-Identifier: GPL-3.0-or-later
// Any bytes typed into a field of any unit: refused with what was expected, or a finite figure that
// is read back from its own writing.
#include "quantity/read.hpp"
#include "quantity/write.hpp"

#include <cmath>
#include <cstdint>
#include <cstdlib>

namespace {

void typeInto(std::string_view text, sipper::Unit unit) {
    const auto read = sipper::readQuantity(text, unit);
    if (!read) {
        if (read.error().expected.empty())
            std::abort();
        return;
    }
    const double value = read.value();
    if (!std::isfinite(value))
        std::abort();
    const auto again = sipper::readQuantity(sipper::writeExact(value, unit), unit);
    if (unit != sipper::Unit::money && unit != sipper::Unit::degree && std::abs(value) > 1e-9 &&
        std::abs(value) < 1e9 && (!again || std::abs(again.value() / value - 1) > 1e-6))
        std::abort();
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    for (int unit = 0; unit <= static_cast<int>(sipper::Unit::money); ++unit)
        typeInto(text, static_cast<sipper::Unit>(unit));
    return 0;
}
