// SPDX-License-Identifier: GPL-3.0-or-later
#include "search/search.hpp"

#include <array>

namespace sipper {

std::string_view rejectReasonName(RejectReason fell) {
    static constexpr std::array<std::string_view, kRejectReasons> names{
        "not_refillable", "cold",     "never_above", "no_room",   "over_current", "noise",
        "too_heavy",      "too_dear", "wont_fit",    "too_short", "beaten"};
    return names[static_cast<std::size_t>(fell)];
}

std::string_view rejectReasonText(RejectReason fell) {
    static constexpr std::array<std::string_view, kRejectReasons> words{
        "can't be refilled as asked",
        "too cold or too warm for the cells",
        "over what an input survives",
        "no room for the regulator",
        "over what cells or parts carry",
        "switches near what minds it",
        "too heavy",
        "too dear",
        "cells that won't fit",
        "run too short",
        "beaten by one that ran"};
    return words[static_cast<std::size_t>(fell)];
}

} // namespace sipper
