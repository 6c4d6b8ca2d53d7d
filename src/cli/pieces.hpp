// SPDX-License-Identifier: GPL-3.0-or-later
// Pieces of answers that several commands have, as JSON.
#pragma once

#include "command.hpp"
#include "measure/discharge.hpp"
#include "project/jsonfwd.hpp"
#include "runtime/externalload.hpp"

namespace sipper::cli {

/// `ended_by`: place, mode and reason; null for what it has none of.
[[nodiscard]] Json endingJson(const Ending& ending);
/// By the id of the source: what each has to carry.
[[nodiscard]] Json sourcesJson(const Project& project,
                               const std::vector<ExternalLoad>& externalLoads);

/// What `--own-w`, `--label-wh` and `--cut` say of a tester.
[[nodiscard]] Outcome<DischargeOptions> askedTester(const Asked& asked);
/// The logs that were named, read.
[[nodiscard]] Outcome<std::vector<DischargeLog>> askedLogs(const Asked& asked);

} // namespace sipper::cli
