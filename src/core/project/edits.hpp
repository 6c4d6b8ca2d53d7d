// SPDX-License-Identifier: GPL-3.0-or-later
// Edits of loads and modes: functions from a project to a project. None checks the whole; the
// session does, and refuses what would not be a valid document.
#pragma once

#include "project/project.hpp"

namespace sipper {

/// What people type for a draw: `3m8`, `120 mA`, `0.6 W`, `47 ohm`; a bare number is amps. Exactly
/// one of the three is set, bursts and basis stay. Code "quantity" where it can't be read.
[[nodiscard]] std::optional<Error> setDraw(Draw& draw, std::string_view text);
/// The draw as it is typed: `120 mA`, `600 mW`, `47 Ω`.
[[nodiscard]] std::string drawText(const Draw& draw);

/// The draw that holds for a load in a mode: its own, or its base draw; null for none.
[[nodiscard]] const Draw* drawIn(const Project& project, const Load& load, std::size_t mode);
/// The load's own draw in the mode, made from its base draw where it has none yet.
Draw& ownDrawIn(const Project& project, Load& load, std::size_t mode);

/// A voltage of a stage that is dragged on the line.
enum class Threshold { setPoint, cutoff, reconnect };
/// Its volts; nothing where the stage has none.
[[nodiscard]] std::optional<Volts> thresholdOf(const Stage& stage, Threshold which);
/// The stage's threshold at `volts`, to a millivolt, from `least` up to 100 V; a cut-off stays at
/// or under its reconnect and the other way round. Unchanged where the stage has none.
[[nodiscard]] Project withThreshold(Project project, std::string_view id, Threshold which,
                                    Volts volts, Volts least);

/// A new load on the same feed as the last one, or on the last stage; nothing to hang it on:
/// unchanged.
[[nodiscard]] Project withNewLoad(Project project);
[[nodiscard]] Project withoutLoad(Project project, std::string_view id);
[[nodiscard]] Project withLoadMoved(Project project, std::string_view id, int by);

/// A new mode that repeats for a second each minute, drawing what the base mode draws.
[[nodiscard]] Project withNewMode(Project project);
/// Without the mode, its draws, and what was within it. The base mode stays.
[[nodiscard]] Project withoutMode(Project project, std::string_view id);
[[nodiscard]] Project withModeMoved(Project project, std::string_view id, int by);

/// `21:00-01:00, 06:30-07:00` as daily windows; code "window" where it can't be read.
[[nodiscard]] Outcome<std::vector<std::pair<std::string, std::string>>>
readWindows(std::string_view text);
[[nodiscard]] std::string windowsText(const Mode& mode);

} // namespace sipper
