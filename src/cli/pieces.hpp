// Pieces of answers that several commands have, as JSON.
#pragma once

#include "project/jsonfwd.hpp"
#include "runtime/tether.hpp"

namespace sipper::cli {

/// `ended_by`: place, mode and reason; null for what it has none of.
[[nodiscard]] Json endingJson(const Ending& ending);
/// By the id of the source: what each has to carry.
[[nodiscard]] Json sourcesJson(const Project& project, const std::vector<Tether>& tethers);

} // namespace sipper::cli
