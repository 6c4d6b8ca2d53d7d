// SPDX-License-Identifier: GPL-3.0-or-later
// Sentences said in one place.
#include "support.hpp"
#include "text/text.hpp"

using namespace sipper;

TEST_CASE("every way a run ends has its sentence", "[words]") {
    const Project p = test::example("nest-box-listener");
    struct Case {
        EndReason reason;
        const char* at;
        const char* says;
    };
    const std::vector<Case> cases{
        {EndReason::collapse, "cells", "the supply collapses in mode “Lamp lit”"},
        {EndReason::limit, "boost5", "reaches its limit in mode “Lamp lit”"},
        {EndReason::cutoff, "guard", "opens in mode “Lamp lit”"},
        {EndReason::aboveWindow, "logic", "gets too much in mode “Lamp lit”"},
        {EndReason::belowWindow, "logic", "gets too little in mode “Lamp lit”"},
        {EndReason::empty, "cells", "the cells are empty"},
        {EndReason::mains, "", "there are no cells to run down"},
        {EndReason::never, "", "nothing draws, so it does not run down"},
    };
    for (const Case& c : cases) {
        INFO(reasonName(c.reason));
        CHECK_THAT(endText(p, {c.at, "lamp", c.reason, false}), Catch::EndsWith(c.says));
    }
    CHECK_THAT(endText(p, {"guard", "lamp", EndReason::cutoff, true}),
               Catch::EndsWith(", in a burst"));
    // One mode alone needs no naming.
    const Project one = test::idealProject(3, 1);
    CHECK(endText(one, {"cells", "on", EndReason::collapse, false}) == "the supply collapses");
}

TEST_CASE("a swap says why it does not fit, and a state when it is trouble", "[words]") {
    const Project p = test::example("nest-box-listener");
    Swap swap;
    swap.why = "its output ends at 5 V";
    CHECK(whyNotText(p, swap) == "its output ends at 5 V");
    swap.ending = Ending{"guard", "lamp", EndReason::cutoff, false};
    CHECK_THAT(whyNotText(p, swap), Catch::StartsWith("at once ") && Catch::Contains("opens"));
    CHECK(troubleText(StageState::droppingOut) == "no room left");
    CHECK(troubleText(StageState::limiting) == "over its limit");
    CHECK(troubleText(StageState::regulating).empty());
    Runtime r;
    r.hours = Hours{0};
    CHECK(runText(r) == "never");
    r.hours = Hours{61};
    CHECK_THAT(runText(r), Catch::Contains("h"));
    r.hours.reset();
    CHECK(runText(r) == "for ever");
    r.ending.reason = EndReason::mains;
    CHECK(runText(r) == "no cells");
}

TEST_CASE("findings are counted, and said by the gravest", "[words]") {
    std::vector<Finding> findings;
    CHECK(adviceText(findings) == "all fine");
    findings.push_back({"a", Severity::note, "x", "", "", {}, {}, {}, {}});
    CHECK(adviceText(findings) == "all fine");
    findings.push_back({"b", Severity::care, "x", "", "", {}, {}, {}, {}});
    CHECK(adviceText(findings) == "1 to weigh");
    findings.push_back({"c", Severity::stop, "x", "", "", {}, {}, {}, {}});
    findings.push_back({"d", Severity::stop, "x", "", "", {}, {}, {}, {}});
    CHECK(adviceText(findings) == "2 to mend");
    CHECK(countOf(findings, Severity::stop) == 2);
}

TEST_CASE("a spread with two humps is said as what it is", "[words]") {
    RuntimeUncertainty r;
    for (int i = 0; i < 60; ++i)
        r.hours.push_back(30 + 0.02 * i);
    for (int i = 0; i < 40; ++i)
        r.hours.push_back(50 + 0.03 * i);
    r.range = {r.hours[10], r.hours[50], r.hours[90]};
    const auto humps = humpsOf(r);
    REQUIRE(humps);
    CHECK(humps->share == Approx(0.4));
    CHECK(humps->low == Approx(30.6).margin(0.1));
    CHECK(humps->high == Approx(50.6).margin(0.1));
    CHECK(humpsText(*humps) == "2 in 5 builds get further and run 51 h, the others 31 h");
    // One broad hump, however broad, is one.
    for (std::size_t i = 0; i < r.hours.size(); ++i)
        r.hours[i] = 20 + 0.4 * static_cast<double>(i);
    CHECK_FALSE(humpsOf(r));
    // A few outliers are none.
    for (std::size_t i = 0; i < r.hours.size(); ++i)
        r.hours[i] = i < 95 ? 30 + 0.01 * static_cast<double>(i) : 60;
    CHECK_FALSE(humpsOf(r));
}

TEST_CASE("what moves a terminal is written out, the rest stays", "[words]") {
    CHECK(escapeForTerminal("Größe 5 °C – “ok” 日本") == "Größe 5 °C – “ok” 日本");
    CHECK(escapeForTerminal("a\nb\r\tc") == "a\\nb\\r\\tc");
    CHECK(escapeForTerminal("\x1b[2J\x07\x7f") == "\\x1b[2J\\x07\\x7f");
    CHECK(escapeForTerminal("\xc2\x9b"
                            "1m") == "\\u009b1m");
    CHECK(escapeForTerminal("\xe2\x80\xae"
                            "abc\xe2\x81\xa9") == "\\u202eabc\\u2069");
    CHECK(escapeForTerminal("\xe2\x80\xa8") == "\\u2028");
    CHECK(escapeForTerminal("\xc2") == "\xc2"); // half a letter at the end is left to the terminal
    CHECK(escapeForTerminal(std::string_view("\0x", 2)) == "\\x00x");
    Project p = test::example("model-ferry-winch");
    p.name = "a\nb";
    p.loads[0].label = "x\x1b";
    p.variants[0].name = "B\r";
    p.variants[0].stages[0].label = "\x07";
    const Project clean = withEscapedText(p);
    CHECK(clean.name == "a\\nb");
    CHECK(clean.loads[0].label == "x\\x1b");
    CHECK(clean.variants[0].name == "B\\r");
    CHECK(clean.variants[0].stages[0].label == "\\x07");
    CHECK(withEscapedText(test::example("model-ferry-winch")) ==
          test::example("model-ferry-winch"));
}
