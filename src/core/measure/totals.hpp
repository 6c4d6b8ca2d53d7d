// SPDX-License-Identifier: GPL-3.0-or-later
// Tables of totals: what runs gave in all, a row a run, where no log was kept.
#pragma once

#include "measure/discharge.hpp"

namespace sipper {

/// Reads a table of totals: a header with at least two of watts, volts, amps, duration, watt-hours
/// and amp-hours, a row a run. What a row leaves out follows from the rest by P = V I, E = P t,
/// Q = I t and E = V Q; the tester's own is added as to a log. Rows with fewer than two figures are
/// left alone, and so are those that contradict themselves by over 5 %. Errors: "log_format",
/// "log_empty".
[[nodiscard]] Outcome<DischargeTable> readTotals(std::string_view text, const std::string& file,
                                                 const DischargeOptions& ask = {});
/// Does the header name an energy or a capacity?
[[nodiscard]] bool namesTotals(std::string_view text);

} // namespace sipper
