// SPDX-License-Identifier: GPL-3.0-or-later
// The line as a tree: where things stand in the lists, and the ways from one to another.
#pragma once

#include "project/project.hpp"

#include <functional>
#include <limits>
#include <set>

namespace sipper {

inline constexpr std::size_t kNotFound = std::numeric_limits<std::size_t>::max();

/// Places in the project's lists; kNotFound for an id that is not there.
[[nodiscard]] std::size_t stageIndex(const Project& project, std::string_view id);
[[nodiscard]] std::size_t loadIndex(const Project& project, std::string_view id);
[[nodiscard]] std::size_t modeIndex(const Project& project, std::string_view id);
/// The place of the first pack, or kNotFound.
[[nodiscard]] std::size_t packIndex(const Project& project);

/// The name of a stage or load; the id itself where there is none.
[[nodiscard]] std::string nameAt(const Project& project, std::string_view id);

/// `Horn and Lamp`, `Horn, Lamp and 7 more`: names in a sentence, no more than a few of them.
[[nodiscard]] std::string listText(const std::vector<std::string>& names);

/// Stages between the source and this stage or load, the nearest first, along the first feed of
/// each; ends at the source.
[[nodiscard]] std::vector<const Stage*> pathToSource(const Project& project, std::string_view id);
/// The ids of all sources that feed a stage, through whatever stands between, nearest feed first.
[[nodiscard]] std::vector<std::string> sourcesOf(const Project& project, const Stage& stage);
/// The nearest regulator on the way back; null when there is none.
[[nodiscard]] const Stage* upstreamRegulator(const Project& project, std::string_view id);

/// Stages behind `id`, breadth first, in file order at each step, each once. A stage that `through`
/// refuses is left out with all that only it feeds.
[[nodiscard]] std::vector<std::size_t>
downstreamStages(const Project& project, std::string_view id,
                 const std::function<bool(const Stage&)>& through = {});
/// The ids of everything behind a stage, itself included.
[[nodiscard]] std::set<std::string> downstreamIds(const Project& project, std::string_view id);
/// The first load of the file behind a stage, or the load itself; the first of all where none is.
[[nodiscard]] const Load* firstLoadBehind(const Project& project, std::string_view id);

/// Stages that are fed by the charger, in order from it to its pack: wire, fuse, switch, diode,
/// ideal diode (docs/model.md: Charging). Anything else fed by a charger is not on the way to the
/// pack.
[[nodiscard]] std::vector<const Stage*> chargeLeg(const Project& project, std::string_view charger);

/// The charger on whose leg a stage stands; null where it stands on none.
[[nodiscard]] const Stage* chargerBefore(const Project& project, std::string_view stage);

} // namespace sipper
