// SPDX-License-Identifier: GPL-3.0-or-later
// Which kinds of stage a project file may hold.
#include "command.hpp"

#include "parts/kinds.hpp"

#include <fmt/format.h>

namespace sipper::cli {
namespace {

Outcome<Answer> answerKinds(const Asked&) {
    Answer a;
    Json& rows = a.json["kinds"] = Json::array();
    for (const KindFacts& k : kinds()) {
        rows.push_back({{"kind", k.name},
                        {"words", k.words},
                        {"shelf", nameOf(k.section)},
                        {"source", k.source},
                        {"set_point", k.setPoint},
                        {"several_feeds", k.severalFeeds}});
        a.text += fmt::format("{:<11} {:<24} {}\n", k.name, k.words,
                              k.source         ? "a source: nothing feeds it"
                              : k.severalFeeds ? "takes a list of feeds"
                              : k.setPoint     ? "has a set-point"
                                               : "");
    }
    return a;
}

void optionsKinds(CLI::App& /*app*/, Asked& /*asked*/) {}

} // namespace

const Command kKinds{"kinds", "the kinds of stage that a project file may hold", optionsKinds,
                     answerKinds};

} // namespace sipper::cli
