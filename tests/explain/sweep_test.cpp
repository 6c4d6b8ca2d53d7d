// SPDX-License-Identifier: GPL-3.0-or-later
// One figure over a span: the points are those of edited files, the breaks are real.
#include "analysis/analysis.hpp"
#include "charge/charge.hpp"
#include "explain/sweeptext.hpp"
#include "project/json.hpp"
#include "project/writer.hpp"
#include "support.hpp"
#include "text/text.hpp"

using namespace sipper;

namespace {

/// The project of a file whose text says another number there.
Project edited(const Project& project, const std::string& numbered, double value) {
    Json file = writeProject(project);
    file[Json::json_pointer(numbered)] = value;
    const test::Folder folder;
    const auto path = folder.file("edited.sipper");
    std::ofstream(path) << file.dump();
    return test::load(path);
}

SweepOptions spanOf(double from, double to, std::size_t points,
                    std::set<SweepKey> keys = {SweepKey::runtimeHours}) {
    SweepOptions ask;
    ask.from = from;
    ask.to = to;
    ask.points = points;
    ask.keys = std::move(keys);
    return ask;
}

} // namespace

TEST_CASE("every figure of a file is found by its pointer, and written back as it was",
          "[sweep][field]") {
    for (const char* name : {"nest-box-listener", "moth-counter", "hand-cart-organ"}) {
        const Project p = test::example(name);
        const std::vector<FieldPlace> fields = statedFields(p);
        CHECK(fields.size() > 40);
        for (const FieldPlace& field : fields) {
            INFO(name << field.pointer);
            const auto found = fieldAt(p, field.pointer);
            REQUIRE(found);
            CHECK(found.value().numbered == field.numbered);
            REQUIRE(field.now);
            CHECK(writeProject(p)[Json::json_pointer(field.numbered)].get<double>() ==
                  Approx(*field.now));
            const auto same = FieldEdit(p, field).with(*field.now);
            REQUIRE(same);
            CHECK(same.value() == p);
        }
    }
}

TEST_CASE("what is no figure of the file is refused, with what stands beside it",
          "[sweep][field]") {
    const Project p = test::example("nest-box-listener");
    const struct {
        const char* pointer;
        const char* code;
        const char* expected;
    } bad[] = {{"/stages/boost5/set_vv", "field", "set_v"},
               {"/stages/boost9/set_v", "field", "/stages/boost5"},
               {"/nothing", "field", "typical"},
               {"", "field", "typical"},
               {"/brief/setting", "kind", "a number"},
               {"/loads/eye/draws/lamp/basis", "kind", "a number"}};
    for (const auto& b : bad) {
        INFO(b.pointer);
        const auto got = fieldAt(p, b.pointer);
        REQUIRE_FALSE(got);
        CHECK(got.error().code == b.code);
        CHECK_THAT(got.error().expected, Catch::Contains(b.expected));
    }
    const auto left = fieldAt(p, "/brief/ambient_c/typical");
    REQUIRE(left);
    CHECK(left.value().now == 10);
    CHECK(fieldAt(p, "/loads/eye/draws/lamp/current_a").value().says ==
          "Infra-red lamp in Lamp lit");
}

TEST_CASE("each point of a sweep is what the edited file runs, to the last digit", "[sweep]") {
    const Project p = test::example("nest-box-listener");
    const struct {
        const char* field;
        double from;
        double to;
    } spans[] = {{"/loads/eye/draws/lamp/current_a", 0.1, 0.5},
                 {"/stages/boost5/set_v", 4.8, 5.6},
                 {"/brief/ambient_c/typical", -20, 40},
                 {"/stages/cells/cell/capacity_ah", 1, 6}};
    for (const auto& s : spans) {
        const auto sweep = sweepOf(p, s.field, spanOf(s.from, s.to, 7));
        REQUIRE(sweep);
        REQUIRE(sweep.value().points.size() == 7);
        for (const SweepPoint& point : sweep.value().points) {
            INFO(s.field << " " << point.x);
            if (point.refused)
                continue;
            const Runtime run = predictRuntime(edited(p, sweep.value().field.numbered, point.x));
            REQUIRE(run.hours.has_value() == point.hours.has_value());
            if (run.hours)
                CHECK(run.hours->value() == *point.hours);
            CHECK(run.ending == point.ending);
            CHECK(run.worstCurrent.value() == point.worstAmps);
            CHECK(run.meanPower.value() == point.packWatts);
        }
    }
}

TEST_CASE("stops and cares of a point are those of a check", "[sweep]") {
    const Project p = test::example("moth-counter");
    const auto sweep = sweepOf(p, "/stages/guard/cutoff_v", spanOf(2.6, 3.3, 3, allSweepKeys()));
    REQUIRE(sweep);
    for (const SweepPoint& point : sweep.value().points) {
        REQUIRE_FALSE(point.refused);
        const Project there = edited(p, sweep.value().field.numbered, point.x);
        const QuickAnalysis quick = analyseQuick(there, {.bench = false});
        const auto deep = analyseDeep(there, quick);
        CHECK(point.stops == countOf(deep->findings, Severity::stop));
        CHECK(point.cares == countOf(deep->findings, Severity::care));
        const auto refill = refillOf(there);
        REQUIRE(refill);
        CHECK(point.refillHours == refill->hoursToFull);
    }
}

TEST_CASE("a break of a sweep stands between two answers, a ten-thousandth apart", "[sweep]") {
    const Project p = test::example("nest-box-listener");
    const double span = 0.4;
    const auto got = sweepOf(p, "/loads/eye/draws/lamp/current_a", spanOf(0.1, 0.1 + span, 21));
    REQUIRE(got);
    const Sweep& sweep = got.value();
    int jumps = 0;
    REQUIRE(sweep.breaks.size() > 3);
    CHECK(std::is_sorted(sweep.breaks.begin(), sweep.breaks.end(),
                         [](const SweepBreak& a, const SweepBreak& b) { return a.x < b.x; }));
    for (const SweepBreak& b : sweep.breaks) {
        INFO(b.what << " at " << b.x);
        const Runtime left = predictRuntime(edited(p, sweep.field.numbered, b.x - 1e-4 * span));
        const Runtime right = predictRuntime(edited(p, sweep.field.numbered, b.x + 1e-4 * span));
        if (b.what == "end") {
            CHECK_FALSE(left.ending == right.ending);
        } else {
            ++jumps;
            CHECK(std::abs(left.hours->value() - right.hours->value()) >
                  0.05 * std::max(left.hours->value(), right.hours->value()));
        }
    }
    CHECK(jumps >= 2);
    // Wherever two neighbours end otherwise a break stands between them.
    for (std::size_t i = 1; i < sweep.points.size(); ++i) {
        const Ending& a = sweep.points[i - 1].ending;
        const Ending& b = sweep.points[i].ending;
        if (a.at == b.at && a.mode == b.mode && a.reason == b.reason)
            continue;
        CHECK(std::any_of(sweep.breaks.begin(), sweep.breaks.end(), [&](const SweepBreak& one) {
            return one.what == "end" && one.x >= sweep.points[i - 1].x &&
                   one.x <= sweep.points[i].x;
        }));
    }
}

TEST_CASE("whole numbers are tried once each, refused values are said, spans are rising",
          "[sweep]") {
    const Project p = test::example("nest-box-listener");
    const auto counted = sweepOf(p, "/stages/cells/parallel", spanOf(6, 1, 3));
    REQUIRE(counted);
    REQUIRE(counted.value().points.size() == 6);
    for (std::size_t i = 0; i < 6; ++i)
        CHECK(counted.value().points[i].x == static_cast<double>(i + 1));
    for (const SweepBreak& b : counted.value().breaks)
        CHECK(b.x == std::round(b.x));
    // More cells never run shorter.
    for (std::size_t i = 1; i < 6; ++i)
        CHECK(*counted.value().points[i].hours >= *counted.value().points[i - 1].hours);
    const auto refused = sweepOf(p, "/loads/eye/draws/lamp/current_a", spanOf(0.5, 1e5, 5));
    REQUIRE(refused);
    CHECK_FALSE(refused.value().points.front().refused);
    REQUIRE(refused.value().points.back().refused);
    CHECK_THAT(*refused.value().points.back().refused, Catch::Contains("/loads/"));
    SweepOptions ask = spanOf(1e-4, 1, 5);
    ask.logarithmic = true;
    const auto ratios = sweepOf(p, "/loads/eye/draws/lamp/current_a", ask);
    REQUIRE(ratios);
    for (std::size_t i = 0; i < 5; ++i)
        CHECK(ratios.value().points[i].x == Approx(1e-4 * std::pow(10.0, i)));
    // What can't be asked.
    const char* field = "/loads/eye/draws/lamp/current_a";
    CHECK(sweepOf(p, field, spanOf(1, 1, 5)).error().code == "range");
    CHECK(sweepOf(p, field, spanOf(0, 1, 1)).error().code == "range");
    CHECK(sweepOf(p, "/stages/cells/parallel", spanOf(1.2, 1.8, 5)).error().code == "range");
    CHECK(sweepOf(p, field, spanOf(0, 1, 5000)).error().code == "range");
    ask.from = 0;
    CHECK(sweepOf(p, field, ask).error().code == "range");
    std::stop_source stop;
    stop.request_stop();
    const auto stopped = sweepOf(p, field, spanOf(0, 1, 5), stop.get_token());
    REQUIRE(stopped);
    CHECK(stopped.value().breaks.empty());
}

TEST_CASE("a sweep as a list and as a picture says what its points say", "[sweep]") {
    const Project p = test::example("nest-box-listener");
    const std::set<SweepKey> keys{SweepKey::runtimeHours, SweepKey::worstAmps};
    const auto got = sweepOf(p, "/loads/eye/draws/lamp/current_a", spanOf(0.1, 0.5, 9, keys));
    REQUIRE(got);
    const std::string csv = sweepCsv(got.value(), keys);
    CHECK_THAT(
        csv, Catch::StartsWith("x,ended_at,ended_mode,ended_reason,runtime_h,worst_a,refused\r\n"));
    CHECK(std::count(csv.begin(), csv.end(), '\n') == 10);
    const Drawing drawing = sweepDrawing(got.value(), false);
    for (const DrawnLine& line : drawing.lines)
        for (const auto& [x, y] : line.points) {
            CHECK(x >= 0);
            CHECK(x <= drawing.width);
            CHECK(y >= 0);
            CHECK(y <= drawing.height);
        }
    CHECK(std::any_of(drawing.texts.begin(), drawing.texts.end(),
                      [](const DrawnText& t) { return t.text == "now 230 mA"; }));
    // Of counts a dot each, and their numbers.
    const auto counted = sweepOf(p, "/stages/cells/parallel", spanOf(1, 6, 41));
    REQUIRE(counted);
    const Drawing dots = sweepDrawing(counted.value(), false);
    CHECK(dots.boxes.size() == 6);
    for (const char* count : {"1", "2", "3", "4", "5", "6"})
        CHECK(std::any_of(dots.texts.begin(), dots.texts.end(),
                          [&](const DrawnText& t) { return t.text == count; }));
}
