// SPDX-License-Identifier: GPL-3.0-or-later
// A connector whose pins nobody knows: from a voltage and a resistance of each against one of them,
// what each must be (docs/model.md: Bench: pins of a connector).
#pragma once

#include "parts/cell.hpp"
#include "project/project.hpp"

namespace sipper {

/// One pin as read against the pin that the black lead stays on.
struct PinReading {
    std::string id;
    std::optional<double> volts;
    std::optional<double> ohms; ///< only where there are no volts; 0: joined
    bool operator==(const PinReading&) const = default;
};
struct PinSurvey {
    std::string connector; ///< what it is called
    std::string against;   ///< id of the pin that the others are read against
    double series = 1;     ///< cells in a row, as far as is known
    Chemistry chemistry = Chemistry::other;
    std::vector<PinReading> pins; ///< without `against`
    bool operator==(const PinSurvey&) const = default;
};

enum class PinRole { minus, plus, tap, senseResistor, nothing, unknown };

struct PinFound {
    std::string id;
    PinRole role = PinRole::unknown;
    double volts = 0; ///< over the minus
    int cells = 0;    ///< of a tap: cells under it
    std::string says;
};
struct PinAnalysis {
    std::vector<PinFound> pins;                      ///< `against` first, then as read
    std::vector<std::vector<std::string>> joined;    ///< pins of one node, two at least
    std::optional<double> volts;                     ///< from minus to plus
    std::optional<std::pair<double, double>> window; ///< volts of such a pack, empty to full
    bool inWindow = false;
    std::vector<std::string> cannotKnow;
};

/// Pins within 20 mV of each other and joined belong together; the lowest is the minus, the highest
/// the plus; what lies within a fifth of a cell of a whole number of cells is a tap; what has no
/// volts and 100 ohm to 2 megohm to the minus is a resistor that something reads.
[[nodiscard]] PinAnalysis analysePins(const PinSurvey& survey);

[[nodiscard]] std::vector<PinSurvey> pinSurveysOf(const Project& project);
[[nodiscard]] Project withPinSurveys(const Project& project, const std::vector<PinSurvey>& list);

} // namespace sipper
