// SPDX-License-Identifier: GPL-3.0-or-later
// Setting a charger up on the bench: what in which order, to what, measured where, and why.
#pragma once

#include "charge/choices.hpp"
#include "charge/parallel.hpp"

namespace sipper {

struct SetupStep {
    std::string what;  ///< `Set the end voltage`
    std::string to;    ///< `12.6 V`; empty where nothing is set or read
    std::string where; ///< `at its output, nothing connected`
    std::string why;
};

/// The steps for one charger, the first to be done first: an adjustable converter is set open
/// circuit with its current turned down, a programmed one by its resistor, one that waits for a
/// pack is said to. Empty for an unknown id. Figures are the project's own, as solved.
[[nodiscard]] std::vector<SetupStep> setupSteps(const Project& project, const std::string& charger);

/// The charged pack as it lies on the bench: its ohms, and what its cells take.
[[nodiscard]] TheveninPack benchPackOf(const Project& project, const std::string& charger);

/// What a converter as a charger can't do for you; empty for a charger that is made as one.
[[nodiscard]] std::string converterCaution(const Project& project, const std::string& charger);

} // namespace sipper
