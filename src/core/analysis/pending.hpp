// SPDX-License-Identifier: GPL-3.0-or-later
// The quick figures of a project that are still being worked out.
#pragma once

#include "analysis/analysis.hpp"

namespace sipper {

/// Every place of the project's figures, with nothing in it: what can be shown before anything is
/// known. Costs nothing but its room.
[[nodiscard]] QuickAnalysis pendingQuick(const Project& project);

} // namespace sipper
