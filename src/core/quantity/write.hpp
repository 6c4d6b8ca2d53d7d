// SPDX-License-Identifier: GPL-3.0-or-later
// Writing quantities back, in one style everywhere.
#pragma once

#include "quantity/units.hpp"

#include <string>

namespace sipper {

/// Three significant digits and an SI prefix: `3.28 Ah`, `150 mA`, `61 h`, `-5.00 °C`. `value` is
/// in the canonical unit. Not finite: `–`.
[[nodiscard]] std::string writeQuantity(double value, Unit unit);

/// Hours as people say them: `12 s`, `34 min`, `4 h 50`, `61 h`, `5 d 3 h`, `210 d`, `4.5 years`.
[[nodiscard]] std::string writeHours(double hours);

/// The figure as it is edited: every digit that the value has, the unit without a prefix surprise
/// (`0.00002` A is `20 µA`). Reading it back with `readQuantity` gives the value again.
[[nodiscard]] std::string writeExact(double value, Unit unit);

/// The symbol of a unit, without a prefix: `V`, `mm²`, `°C`, or nothing.
[[nodiscard]] std::string unitSymbol(Unit unit);

/// A share 0–1 in whole or tenth per cent: `9 %`, `0.4 %`, `100 %`.
[[nodiscard]] std::string writeShare(double share);

template <class Quantity>
[[nodiscard]] std::string write(Quantity quantity) {
    static_assert(unitOf<Quantity> != Unit::none, "write a strong unit");
    return writeQuantity(quantity.value(), unitOf<Quantity>);
}

} // namespace sipper
