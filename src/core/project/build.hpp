// SPDX-License-Identifier: GPL-3.0-or-later
// Building the line in place: edits that never leave an invalid tree.
#pragma once

#include "parts/kinds.hpp"
#include "project/project.hpp"

#include <span>

namespace sipper {

/// The stage put between `after` and all that it feeds, chargers left where they are.
[[nodiscard]] Project withStageBetween(Project project, Stage fresh, std::string_view after);
/// The stage put between `before` (a stage or a load) and what feeds it; with several feeds, on the
/// first.
[[nodiscard]] Project withStageBefore(Project project, Stage fresh, std::string_view before);
/// The stage hung on `on` beside what is there: a new branch.
[[nodiscard]] Project withBranch(Project project, Stage fresh, std::string_view on);
/// A source beside the others, at the end of the file. Where it leads is another edit.
[[nodiscard]] Project withSource(Project project, Stage fresh);
/// A select before `before` (a stage or a load) whose first feed is `first` and whose second is
/// what fed it until now.
[[nodiscard]] Project withSelect(Project project, std::string_view before, std::string_view first);
/// Without the stage: what it fed hangs on what fed it. A source goes with all that only it feeds.
[[nodiscard]] Project withoutStage(Project project, std::string_view id);
/// Moved towards the source (-1) or the loads (+1) along a line without branches, by trading places
/// with its neighbour.
[[nodiscard]] Project withStageMoved(Project project, std::string_view id, int by);
/// Another feed for a stage or a load.
[[nodiscard]] Project withFeed(Project project, std::string_view id, std::string_view feed);
/// Another part in the stage's place; id, feeds, connector and, where both have one, the set-point
/// stay.
[[nodiscard]] Project withPart(Project project, std::string_view id, const Stage& other);

/// A charger for the first pack on `feed` (a source or what it feeds), set for the pack: half its
/// capacity an hour or what the cells take, full volts, and a topology that goes from there. The
/// project as it is where there is no pack.
[[nodiscard]] Project withCharger(Project project, std::string_view feed);
/// Why no charger can be hung there, in words; nothing when it can.
[[nodiscard]] std::optional<std::string> whyNotCharger(const Project& project,
                                                       std::string_view feed);

/// Why an edit can't be made, in words for a menu's tooltip; nothing when it can.
[[nodiscard]] std::optional<std::string> whyNotRemove(const Project& project, std::string_view id);
[[nodiscard]] std::optional<std::string> whyNotMove(const Project& project, std::string_view id,
                                                    int by);
[[nodiscard]] std::optional<std::string> whyNotAfter(const Project& project, std::string_view id);
/// Why a part of this kind can't be put behind `feed`, between it and what it feeds: on the way
/// from a charger to its cells stand leads, fuses, switches and diodes alone.
[[nodiscard]] std::optional<std::string> whyNotBehind(const Project& project, std::string_view feed,
                                                      Kind kind);
/// Feeds that the stage or load may be moved to: no loops, no loads behind sources' chargers.
[[nodiscard]] std::vector<std::string> possibleFeeds(const Project& project, std::string_view id);

/// A fresh stage of a kind with usual figures for this place: a regulator set to what the first
/// load behind `near` wants, a guard at the balanced cut-off, a wire of 0.2 m. Its id is free.
[[nodiscard]] Stage freshStage(const Project& project, Kind kind, std::string_view near);

} // namespace sipper
