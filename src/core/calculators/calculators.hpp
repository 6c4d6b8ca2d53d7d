// SPDX-License-Identifier: GPL-3.0-or-later
// Quick sums: single calculations that need no project, each with its formula in numbers.
#pragma once

#include "base/outcome.hpp"
#include "quantity/units.hpp"

#include <map>
#include <span>
#include <variant>
#include <vector>

namespace sipper {

struct CalculatorField {
    std::string_view key;
    std::string_view label;
    Unit unit = Unit::none;
    std::string_view example; ///< what is typed into it at first; empty where it may be left out
    double least = -1e12;
    double most = 1e12;
};

using CalculatorValue = std::variant<double, std::string>;

struct CalculatorResult {
    std::string key;
    std::string label;
    Unit unit = Unit::none;
    CalculatorValue value;
    std::string formula; ///< with the numbers in it: `10 Ah x 3.70 V / 5.00 V`
};

struct Calculator {
    std::string_view name;
    std::string_view title;
    std::string_view about; ///< what it settles, in a sentence
    std::vector<CalculatorField> fields;
};

[[nodiscard]] std::span<const Calculator> allCalculators();

/// Runs a sum with its arguments as people type them; a bare number takes the field's unit. Codes:
/// "sum" (no such sum, field missing or unknown), "quantity", "range", "unmet" (a target that can't
/// be met, or a result that is not finite). `where` names the field.
[[nodiscard]] Outcome<std::vector<CalculatorResult>>
runCalculator(std::string_view name, const std::map<std::string, std::string>& arguments);

} // namespace sipper
