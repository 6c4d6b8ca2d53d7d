// Results of the core as JSON and as text. Nothing is computed here.
#pragma once

#include "advice/advice.hpp"
#include "compare/compare.hpp"
#include "find/levers.hpp"
#include "line/operating.hpp"
#include "runtime/budget.hpp"
#include "runtime/envelope.hpp"
#include "runtime/range.hpp"
#include "runtime/shelf.hpp"
#include "runtime/tether.hpp"
#include "runtime/worth.hpp"
#include "sums/sums.hpp"
#include "trace/cut.hpp"

namespace sipper::cli {

[[nodiscard]] Json runtimeJson(const Project& p, const Runtime& r,
                               const std::optional<RangeResult>& range);
[[nodiscard]] std::string runtimeText(const Project& p, const Runtime& r,
                                      const std::optional<RangeResult>& range);
[[nodiscard]] Json tetherJson(const Project& p, const Tether& t);
[[nodiscard]] Json budgetJson(const Project& p);
[[nodiscard]] Json operateJson(const Project& p, const OperatingPoint& point);
[[nodiscard]] std::string operateText(const Project& p, const OperatingPoint& point);
[[nodiscard]] Json findingsJson(const std::vector<Finding>& findings);
[[nodiscard]] std::string findingsText(const std::vector<Finding>& findings);

[[nodiscard]] Json traceJson(const Trace& trace, const TraceCut& cut);
[[nodiscard]] std::string traceText(const Trace& trace, const TraceCut& cut);

[[nodiscard]] Json leversJson(const std::vector<Lever>& levers, const std::vector<Lever>& pairs);
[[nodiscard]] std::string leversText(const std::vector<Lever>& levers,
                                     const std::vector<Lever>& pairs);
[[nodiscard]] Json compareJson(const Comparison& comparison);
[[nodiscard]] std::string compareText(const Comparison& comparison);
[[nodiscard]] Json sumJson(const std::vector<SumResult>& results);
[[nodiscard]] std::string sumText(const std::vector<SumResult>& results);

} // namespace sipper::cli
