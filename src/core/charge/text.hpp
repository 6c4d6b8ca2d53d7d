// SPDX-License-Identifier: GPL-3.0-or-later
// The sentences about a charge: what holds it back, why it never ends.
#pragma once

#include "charge/charge.hpp"

#include <string>

namespace sipper {

/// `the socket gives no more`, `set current`, …: over a phase.
[[nodiscard]] std::string limitText(const Project& project, const ChargeRun& charge,
                                    ChargeLimit limit);
/// One or two words for a ladder's rung: `the socket`, `set current`.
[[nodiscard]] std::string limitShort(ChargeLimit limit, const Part& source);
/// The same within a sentence: `the input limit`, `heat`.
[[nodiscard]] std::string limitNamed(ChargeLimit limit, const Part& source);
/// Why it never ends, as a sentence with its numbers.
/// The answer in two words where it is no number of hours: `Never`, `No end`, `Not full`.
[[nodiscard]] std::string neverShort(const ChargeRun& charge);
/// What switching the output off while it charges would make of it.
[[nodiscard]] std::string offText(const ChargeRun& charge);
[[nodiscard]] std::string neverText(const Project& project, const ChargeRun& charge);
/// `5 h 40 to full from 10 %, 3 h 50 to 80 %. The socket holds it back for 3 h 20 of it.`
[[nodiscard]] std::string chargeHeadline(const Project& project, const ChargeRun& charge);
/// `adapter`, `socket`, `vehicle`, `panel`, `other pack`: what a source is called in passing.
[[nodiscard]] std::string sourceWord(const Part& source);

} // namespace sipper
