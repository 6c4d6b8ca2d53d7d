// SPDX-License-Identifier: GPL-3.0-or-later
// What is uncertain about a project on the bench, each thing by its own limit.
#pragma once

#include "project/project.hpp"

#include <functional>
#include <map>
#include <string>
#include <vector>

namespace sipper {

/// A project as it stands on the bench.
struct TestSetup {
    Project project;
    double stated = 1;                    ///< charge as said
    double charge = 1;                    ///< as it is on the bench
    double light = 1;                     ///< factor on the light on panels
    std::map<std::string, double> limits; ///< factor on what chargers are set to, by id
    std::map<std::string, double> volts;  ///< factor on sources that have no figure of their own
};

/// One uncertain thing: bends a project to its lower (-1) or upper (+1) end.
struct UncertaintySource {
    std::string id; ///< `losses/rail5`
    std::function<void(TestSetup&, double end)> perturb;
};

/// Limits by the contract: design, bench, 1. The charge is the caller's.
[[nodiscard]] std::vector<UncertaintySource> uncertaintySourcesOf(const Project& project);

/// The project with one mode, `on`, and as its only load one that takes `draw` behind stage `at`,
/// whatever its volts.
[[nodiscard]] Project withTester(const Project& project, const std::string& at, Draw draw);

/// Is anything drawn, that could be more or less?
[[nodiscard]] bool drawsSomething(const Draw& draw);
/// A draw at `factor` times what is said: amps and watts times it, ohms over it, bursts too.
void scaleDraw(Draw& draw, double factor);
/// Loss terms of a regulator or charger, all together.
void scaleLosses(Part& part, double factor);
/// R0 and R1 of the cells, measured or not.
void scaleResistance(Pack& pack, double factor);

} // namespace sipper
