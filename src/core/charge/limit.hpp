// SPDX-License-Identifier: GPL-3.0-or-later
// What can hold a charge back.
#pragma once

#include <array>
#include <optional>
#include <string_view>

namespace sipper {

/// In the order in which equal ones are named.
enum class ChargeLimit {
    source,
    inputLimit,
    outputLimit,
    powerLimit,
    heat,
    cc,
    cv,
    cell,
    recovery
};
inline constexpr std::size_t kChargeLimits = 9;
[[nodiscard]] std::string_view limitName(ChargeLimit limit);

/// What one limit alone would allow, in amps into the pack; nothing where it is not set, infinite
/// where it never bites.
using LimitCurrents = std::array<std::optional<double>, kChargeLimits>;

} // namespace sipper
