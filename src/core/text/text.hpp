// SPDX-License-Identifier: GPL-3.0-or-later
// The sentences that window, command line and paper share: what ended a run, what a state is, how
// figures of a verdict read. Plain words, the number and the consequence.
#pragma once

#include "advice/finding.hpp"
#include "improve/swaps.hpp"
#include "line/network.hpp"
#include "runtime/runtime.hpp"
#include "runtime/uncertainty.hpp"

namespace sipper {

/// Why a run ends, as the rest of `It ends when …`: `Logic and clock gets too little in mode “Lamp
/// lit”`. The mode is left out where there is but one.
[[nodiscard]] std::string endText(const Project& project, const Ending& ending);

/// Why a part of the library does not fit in a place of this project, in a few words; empty where
/// it does.
[[nodiscard]] std::string whyNotText(const Project& project, const Swap& swap);

/// What a stage is doing, as it is said beside it: `no room left`, `passes through`; empty for what
/// is as it should be.
[[nodiscard]] std::string troubleText(StageState state);

/// `61 h`, `never`, `for ever`, or what stands there without cells.
[[nodiscard]] std::string runText(const Runtime& runtime);

/// A spread with two humps in words: `2 in 5 builds get further and run 51 h, the others 31 h`.
[[nodiscard]] std::string humpsText(const Bimodality& humps);

/// How many findings are of a severity.
[[nodiscard]] int countOf(const std::vector<Finding>& findings, Severity severity);
/// `2 to mend`, `1 to weigh`, `all fine`.
[[nodiscard]] std::string adviceText(const std::vector<Finding>& findings);

/// The same on one line: what would move a terminal's cursor, ring or clear it is written out, so
/// that a label can't fake a line. UTF-8 in and out.
[[nodiscard]] std::string escapeForTerminal(std::string_view text);
/// The project with every name, label and note tamed: what is made of it can be put on a terminal.
[[nodiscard]] Project withEscapedText(Project project);

} // namespace sipper
