// Quick sums: single calculations that need no project, each with its formula in numbers.
#pragma once

#include "quantity/outcome.hpp"
#include "quantity/units.hpp"

#include <map>
#include <span>
#include <variant>
#include <vector>

namespace sipper {

struct SumField {
    std::string_view key;
    std::string_view label;
    Unit unit = Unit::none;
    std::string_view example; ///< what is typed into it at first; empty where it may be left out
    double least = -1e12;
    double most = 1e12;
};

using SumValue = std::variant<double, std::string>;

struct SumResult {
    std::string key;
    std::string label;
    Unit unit = Unit::none;
    SumValue value;
    std::string formula; ///< with the numbers in it: `10 Ah x 3.70 V / 5.00 V`
};

struct Sum {
    std::string_view name;
    std::string_view title;
    std::string_view about; ///< what it settles, in a sentence
    std::vector<SumField> fields;
};

[[nodiscard]] std::span<const Sum> allSums();

/// Runs a sum with its arguments as people type them; a bare number takes the field's unit. Codes:
/// "sum" (no such sum, field missing or unknown), "quantity", "range", "unmet" (a target that can't
/// be met, or a result that is not finite). `where` names the field.
[[nodiscard]] Outcome<std::vector<SumResult>>
runSum(std::string_view name, const std::map<std::string, std::string>& arguments);

/// The value of a standard series (E12, E24, E96; IEC 60063) at or over `ohms`, with a part in a
/// million of slack.
[[nodiscard]] double seriesAtOrOver(std::string_view series, double ohms);
/// The values of one decade, 1 to under 10; empty for an unknown series.
[[nodiscard]] std::span<const double> seriesDecade(std::string_view series);
/// All values of the series from 1 ohm to 10 Mohm, rising.
[[nodiscard]] std::vector<double> seriesValues(std::string_view series);

} // namespace sipper
