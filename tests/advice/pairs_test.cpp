// SPDX-License-Identifier: GPL-3.0-or-later
// Over random projects no two parts of the program contradict each other about one thing.
#include "analysis/analysis.hpp"
#include "charge/choices.hpp"
#include "charge/operating.hpp"
#include "line/operating.hpp"
#include "measure/checks.hpp"
#include "measure/text.hpp"
#include "project/tree.hpp"
#include "protect/text.hpp"
#include "randomprojects.hpp"
#include "sheet/sheet.hpp"

using namespace sipper;

namespace {

constexpr std::size_t kProjects = test::kSanitized ? 30 : 300;

bool speaks(const std::vector<Finding>& findings, std::initializer_list<std::string_view> rules,
            const std::vector<std::string>& subjects) {
    return std::any_of(findings.begin(), findings.end(), [&](const Finding& f) {
        return std::find(rules.begin(), rules.end(), f.rule) != rules.end() &&
               std::find(subjects.begin(), subjects.end(), f.subject) != subjects.end();
    });
}

/// `protect` and `check`: a lead that burns first is told of, and nothing is told of one that does
/// not.
void leadsAgree(const Project& p, const QuickAnalysis& q) {
    for (const WireSegment& s : q.protect->segments) {
        INFO(s.id << " of " << s.from << ": " << weakestElementText(s));
        const auto way = pathToSource(p, s.id);
        const std::string source = way.empty() ? s.from : way.back()->id;
        const bool told =
            speaks(q.findings, {"lead_burns", "no_fuse", "fuse_window", "wire_ampacity"},
                   {s.id, s.from, s.fuseId, source});
        const Stage* charger = chargerBefore(p, s.id);
        const bool leg = charger && speaks(q.findings, {"no_fuse"}, {charger->id});
        if (s.first == WeakestElement::lead)
            CHECK((told || leg));
        if (s.first != WeakestElement::lead)
            CHECK_FALSE(speaks(q.findings, {"lead_burns"}, {s.id}));
    }
}

/// `charge` and `check`: what never ends, or ends early, by the one does so by the other.
void endsAgree(const QuickAnalysis& q) {
    const auto says = [&](const char* rule, const std::string& subject, Severity least) {
        return std::any_of(q.findings.begin(), q.findings.end(), [&](const Finding& f) {
            return f.rule == rule && f.subject == subject && f.severity <= least;
        });
    };
    for (const ChargeAnalysis& look : q.charges) {
        const auto never = look.usual.failure;
        INFO(look.usual.charger << ": " << (never ? failureName(*never) : "full"));
        CHECK(says("ends_early", look.usual.charger, Severity::note) ==
              (never == ChargeFailure::endsEarly));
        const bool trapped = says("end_trap", look.usual.charger, Severity::stop);
        if (never == ChargeFailure::endTrap)
            CHECK(trapped);
        // What is not even begun in this air may be trapped in another.
        if (trapped)
            CHECK((never == ChargeFailure::endTrap || look.usual.curve.empty()));
        CHECK(never.has_value() != look.usual.hoursToFull.has_value());
    }
}

/// `runtime` and `check`: the worst draw is one figure.
void worstAgrees(const Project& p, const QuickAnalysis& q) {
    for (const Finding& f : q.findings) {
        if (f.rule != "headroom" && f.rule != "source_budget")
            continue;
        for (const ExternalLoad& t : q.externalLoads)
            if (p.stages[t.source].id == f.subject) {
                INFO(f.rule << " of " << f.subject);
                CHECK(f.numbers.at("worst_a") <= t.worst.value + t.chargerAmps + 1e-9);
                CHECK(f.numbers.at("worst_a") >= t.worst.value - 1e-9);
            }
    }
    // What the run saw is within what all operating points show.
    if (q.sweep && q.sweep->maxPack.valid)
        CHECK(q.runtime.worstCurrent.value() <= q.sweep->maxPack.value * 1.001 + 1e-9);
}

/// The sheet prints the bands of the bench.
void sheetAgrees(const Project& p, const QuickAnalysis& q) {
    const Sheet sheet = sheetOf(p, q, nullptr, {});
    for (const SheetCheck& printed : sheet.checks) {
        const auto check =
            std::find_if(q.bench->checks.begin(), q.bench->checks.end(),
                         [&](const BenchCheck& c) { return c.id() == printed.check.id(); });
        REQUIRE(check != q.bench->checks.end());
        CHECK(check->coverageLow == printed.check.coverageLow);
        CHECK(check->coverageHigh == printed.check.coverageHigh);
        if (check->expect) {
            CHECK(check->coverageLow <= *check->expect + 1e-12);
            CHECK(check->coverageHigh >= *check->expect - 1e-12);
        }
    }
}

/// `charge` and `operate` in the same light push the same into the pack.
void panelsAgree(const Project& p) {
    if (std::none_of(p.stages.begin(), p.stages.end(),
                     [](const Stage& s) { return std::holds_alternative<Panel>(s.part); }))
        return;
    for (const BenchCheck& c : analyseBench(p, {{}, p.brief.air().usual()}).checks) {
        if (c.kind != CheckKind::chargeCurrent || !c.light || !c.expect)
            continue;
        INFO(c.at);
        Conditions at = typicalConditions(p);
        at.pluggedIn = {chargeSources(p, c.at).front()};
        at.irradiance = *c.light;
        const OperatingPoint point = operateWithChargers(p, at, 0.3, p.baseMode());
        CHECK(*c.expect ==
              Approx(point.flows.stages[stageIndex(p, c.at)].iOut).epsilon(1e-6).margin(1e-9));
    }
}

} // namespace

TEST_CASE("no two answers about one thing contradict each other", "[truth][pairs]") {
    const char* seed = std::getenv("SIPPER_SEED"); // another one, by hand, with ten times as many
    test::RandomProjects projects(seed ? static_cast<unsigned>(std::atoi(seed)) : 2026);
    for (std::size_t i = 0; i < (seed ? 10 : 1) * kProjects; ++i) {
        const Project p = projects.next();
        INFO("project " << i << " from " << projects.from());
        const QuickAnalysis q = analyseQuick(p);
        leadsAgree(p, q);
        endsAgree(q);
        worstAgrees(p, q);
        sheetAgrees(p, q);
        panelsAgree(p);
    }
}
