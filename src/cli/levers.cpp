// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.hpp"

#include "improve/improvements.hpp"
#include "quantity/write.hpp"

#include <fmt/format.h>

namespace sipper::cli {
namespace {

Json leverList(const std::vector<Improvement>& levers) {
    Json list = Json::array();
    for (const Improvement& l : levers)
        list.push_back({{"name", l.name},
                        {"subject", l.subject},
                        {"runtime_h", l.hours},
                        {"gain_h", l.gainHours},
                        {"mass_g", l.gramsMore},
                        {"price", l.priceMore}});
    return list;
}

Json leversJson(const std::vector<Improvement>& levers, const std::vector<Improvement>& pairs) {
    return {{"levers", leverList(levers)}, {"pairs", leverList(pairs)}};
}

std::string leversText(const std::vector<Improvement>& levers,
                       const std::vector<Improvement>& pairs) {
    if (levers.empty())
        return "nothing that one step would lengthen\n";
    std::string out;
    for (const auto* list : {&levers, &pairs})
        for (const Improvement& l : *list)
            out += fmt::format("{:>10}  {:>+8.1f} g  {:>+7.2f}  {}\n",
                               "+" + writeHours(l.gainHours), l.gramsMore, l.priceMore, l.name);
    return out;
}

Outcome<Answer> answerLevers(const Asked& asked) {
    const auto project = askedProject(asked);
    if (!project)
        return project.error();
    const auto list = improvementsOf(project.value(), loadLibrary());
    const auto pairs = improvementPairs(project.value(), list);
    return Answer{leversJson(list, pairs), leversText(list, pairs)};
}

void optionsLevers(CLI::App& app, Asked& asked) {
    addFile(app, asked);
    addVariant(app, asked);
}

} // namespace

const Command kLevers{"levers", "what would change the runtime most, each step really solved",
                      optionsLevers, answerLevers};

} // namespace sipper::cli
