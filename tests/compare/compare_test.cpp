// SPDX-License-Identifier: GPL-3.0-or-later
// Variants weighed side by side are what each of them is by itself.
#include "compare/compare.hpp"
#include "project/variants.hpp"
#include "runtime/energyequivalents.hpp"
#include "support.hpp"

using namespace sipper;
using namespace sipper::test;

TEST_CASE("a comparison gives what each variant gives by itself", "[compare]") {
    Project more = example("nest-box-listener");
    packOf(more).parallel = 4;
    Project document = withVariantAdded(example("nest-box-listener"), more);
    document = withVariantAdded(document, example("stage-theremin"));
    const auto c = compareVariants(document);
    REQUIRE(c);
    REQUIRE(c->variants.size() == 3);
    for (std::size_t i = 0; i < 3; ++i) {
        const EvaluatedVariant& w = c->variants[i];
        const Project p = variantProject(document, i);
        INFO(w.name);
        CHECK(w.name == variantName(document, i));
        const Runtime r = predictRuntime(p);
        CHECK(w.runtime.hours == r.hours);
        CHECK(w.grams == p.massGrams());
        CHECK(w.price == p.totalPrice());
        const auto range = predictRange(p, r);
        CHECK(w.range.has_value() == range.has_value());
        if (range)
            CHECK(w.range->p10 == range->range.p10);
        const RuleAnalyses looked = analyseForRules(p, r);
        CHECK(w.findings.size() == advise(ruleInput(p, r, range, looked)).size());
        CHECK(w.count(Severity::stop) + w.count(Severity::care) + w.count(Severity::note) ==
              static_cast<int>(w.findings.size()));
    }
    CHECK(c->variants[1].grams == Approx(c->variants[0].grams + 47));
    CHECK(c->variants[1].runtime.hours->value() > c->variants[0].runtime.hours->value());
    CHECK(c->variants[0].deliveredShare ==
          Approx(energyEquivalentsOf(document, c->variants[0].runtime)->share()));
    CHECK_FALSE(c->variants[0].hottest.empty());
    CHECK(c->variants[0].hottestC > document.brief.air().warmest().value());

    const auto two = compareVariants(document, {2, 0});
    REQUIRE(two);
    CHECK(two->variants[0].name == "C");
    CHECK(two->variants[1].name == "A");
    std::stop_source stop;
    stop.request_stop();
    CHECK_FALSE(compareVariants(document, {}, stop.get_token()));
}
