// SPDX-License-Identifier: GPL-3.0-or-later
// What the tests of advice share: findings of a project, and a base on which nothing speaks.
#pragma once

#include "advice/advice.hpp"
#include "support.hpp"

#include <algorithm>
#include <cctype>

namespace sipper::test {

inline std::vector<Finding> findingsOf(const Project& p) {
    const Runtime r = predictRuntime(p);
    const std::optional<RuntimeUncertainty> range = predictRange(p, r, {}, 60);
    const RuleAnalyses looked = analyseForRules(p, r);
    auto findings = advise(ruleInput(p, r, range, looked));
    evaluateFixes(p, r, findings);
    return findings;
}

inline const Finding* find(const std::vector<Finding>& list, std::string_view rule,
                           std::string_view subject = "") {
    const auto at = std::find_if(list.begin(), list.end(), [&](const Finding& f) {
        return f.rule == rule && (subject.empty() || f.subject == subject);
    });
    return at == list.end() ? nullptr : &*at;
}

inline Switcher& switcher(Project& p, const char* id) {
    return std::get<Switcher>(p.stage(id)->part);
}

struct Case {
    const char* rule;
    const char* subject;
    const char* says;
    Severity severity;
    std::function<void(Project&)> speak;
};

/// The nest box with its one fault mended: the base on which nothing speaks.
inline Project quietProject() {
    Project p = test::example("nest-box-listener");
    for (const char* rule : {"drop_out"}) {
        const auto findings = findingsOf(p);
        const Finding* f = find(findings, rule);
        REQUIRE(f);
        REQUIRE(f->fix);
        p = f->fix->apply(p);
    }
    p.brief.targetRuntime = Hours{20};
    p.load("logic")->window.neverAbove = Volts{4.3}; // no regulator's failure reaches that
    for (Load& load : p.loads)
        for (Draw& draw : load.draws)
            draw.basis = Basis::measured;
    return p;
}

/// Each case bends the quiet base until its rule speaks; a cure of what must be mended mends it.
inline void runCases(const std::vector<Case>& cases, Project (*base)()) {
    std::size_t number = 0;
    for (const Case& c : cases) {
        if (kSanitized && number++ % 3 != 0)
            continue; // there every third has to do
        Project p = base();
        c.speak(p);
        const auto findings = findingsOf(p);
        INFO(c.rule << " " << c.subject);
        const Finding* f = find(findings, c.rule, c.subject);
        REQUIRE(f);
        CHECK_THAT(f->says, Catch::Contains(c.says));
        CHECK(severityName(f->severity) == severityName(c.severity));
        // What is said in figures is also there as figures; digits of names don't count.
        std::string figures = f->says;
        for (const Stage& stage : p.stages)
            if (const auto at = figures.find(nameOf(stage)); at != std::string::npos)
                figures.erase(at, nameOf(stage).size());
        if (std::any_of(figures.begin(), figures.end(),
                        [](unsigned char ch) { return std::isdigit(ch); }))
            CHECK_FALSE(f->numbers.empty());
        for (const auto& [key, value] : f->numbers)
            CHECK(std::isfinite(value));
        if (!f->fix)
            continue;
        const Project cured = f->fix->apply(p);
        CHECK_FALSE(checkProject(cured));
        if (c.severity == Severity::stop) // a cure cures
            CHECK_FALSE(find(findingsOf(cured), c.rule, c.subject));
    }
}

} // namespace sipper::test
