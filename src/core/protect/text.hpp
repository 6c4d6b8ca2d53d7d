// SPDX-License-Identifier: GPL-3.0-or-later
// The sentences about protection.
#pragma once

#include "protect/protect.hpp"

#include <string>

namespace sipper {

/// What the whole view says in a word: `chatters`, `holds`, `never acts`, `stays open`, `no guard`.
struct ProtectVerdict {
    std::string word;
    std::string says;
    bool bad = false;
};
[[nodiscard]] ProtectVerdict protectVerdict(const Project& project, const ProtectionAnalysis& look);
/// The same of one guard.
[[nodiscard]] ProtectVerdict guardVerdict(const Project& project, const GuardAnalysis& guard);
/// What is drawn after the cut, and when the cells are ruined by it.
[[nodiscard]] std::string afterCutText(const Project& project, const GuardAnalysis& guard);
/// Whether a charger finds the pack again.
[[nodiscard]] std::string foundAgainText(const Project& project, const ChargerRestart& found);
/// How to prove the guard: with a bench supply in minutes, with cells in hours.
[[nodiscard]] std::string proofText(const GuardAnalysis& guard, const DrainTest& proof);
/// The same in short: `8.2 Ω, 35 W`.
[[nodiscard]] std::string proofLoadText(const DrainTest& proof);

/// `fails short`, `turned to its end`.
[[nodiscard]] std::string faultText(FaultKind kind);
/// What clears a fault, in a few words: `Fuse 5 A, after the crowbar`, `nothing`.
[[nodiscard]] std::string clearingText(const Project& project, const Fault& fault);
/// What a fault at this place means where no load is harmed: `the cells run flat`.
[[nodiscard]] std::string harmlessText(const Project& project, const Fault& fault);
/// Is it worth a row of its own: it harms, or it takes a protection away.
[[nodiscard]] bool worthARow(const Project& project, const Fault& fault,
                             const std::vector<double>& healthy);

/// Who burns first: `this lead burns first`.
[[nodiscard]] std::string weakestElementText(const WireSegment& stretch);
/// `The cells push 0.4 A into the panel in the dark`.
[[nodiscard]] std::string pushText(const Project& project, const BackfeedPath& push);
/// `12 min`, `70 s`, `3 h`, `5 months`: as long as it takes, in the unit people say it in.
[[nodiscard]] std::string longText(double seconds);

/// The whole answer on a terminal.
[[nodiscard]] std::string protectText(const Project& project, const ProtectionAnalysis& look);

} // namespace sipper
