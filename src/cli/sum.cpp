// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.hpp"

#include "calculators/calculators.hpp"
#include "quantity/write.hpp"

#include <fmt/format.h>

namespace sipper::cli {
namespace {

Json sumJson(const std::vector<CalculatorResult>& results) {
    Json out = Json::object();
    for (const CalculatorResult& r : results)
        std::visit([&](const auto& value) { out[r.key] = value; }, r.value);
    return out;
}

std::string sumText(const std::vector<CalculatorResult>& results) {
    std::string out;
    for (const CalculatorResult& r : results) {
        const auto* figure = std::get_if<double>(&r.value);
        const std::string value =
            figure ? r.unit == Unit::fraction ? writeShare(*figure) : writeQuantity(*figure, r.unit)
                   : std::get<std::string>(r.value);
        out += fmt::format("{:<30} {:>12}   {}\n", r.label, value, r.formula);
    }
    return out;
}

Error inSum(const std::string& name, Error error) {
    error.where = "sum " + name + (error.where.empty() ? "" : ": " + error.where);
    return error;
}

Outcome<Answer> answerSum(const Asked& asked) {
    std::map<std::string, std::string> arguments;
    for (const std::string& pair : asked.arguments) {
        const auto at = pair.find('=');
        if (at == std::string::npos || at == 0)
            return inSum(asked.sum, {"pair", "", "\"" + pair + "\"", "key=value", ""});
        if (!arguments.emplace(pair.substr(0, at), pair.substr(at + 1)).second)
            return inSum(asked.sum, {"pair", "", pair.substr(0, at) + " twice", "it once", ""});
    }
    const auto results = runCalculator(asked.sum, arguments);
    if (!results)
        return inSum(asked.sum, results.error());
    return Answer{sumJson(results.value()), sumText(results.value())};
}

void optionsSum(CLI::App& app, Asked& asked) {
    app.add_option("NAME", asked.sum,
                   "bank, pack, charger, wire, divider, linear, panel, sky, life or led")
        ->required();
    app.add_option("KEY=VALUE", asked.arguments, "its fields");
}

} // namespace

const Command kSum{"sum", "a quick sum, such as: sum life capacity=2.2Ah current=18mA", optionsSum,
                   answerSum};

} // namespace sipper::cli
