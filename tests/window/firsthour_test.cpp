// SPDX-License-Identifier: GPL-3.0-or-later
// From the first line to a supply that is built, charged, protected and checked: nothing is left to
// be asked of anybody.
#include "advice/advice.hpp"
#include "fresh.hpp"
#include "measure/plantedfault.hpp"
#include "parts/chemistry.hpp"
#include "parts/kinds.hpp"
#include "project/library.hpp"
#include "project/roles.hpp"
#include "project/variants.hpp"
#include "sheet/sheet.hpp"
#include "views/bench/benchview.hpp"
#include "views/bench/instrumentcard.hpp"
#include "views/sheet/sheetpaper.hpp"
#include "views/sheet/sheetview.hpp"
#include "views/start/requestline.hpp"
#include "views/supplyline/linelayout.hpp"
#include "widgets/text.hpp"

using namespace sipper;
using namespace sipper::app;

namespace {

SupplyRequest wishOf(RequestedSource from, std::vector<RequestedRail> needs, double hours) {
    SupplyRequest wish;
    wish.from = from;
    wish.needs = std::move(needs);
    wish.hours = hours;
    wish.setting = from == RequestedSource::adapter || from == RequestedSource::socket
                       ? Setting::desk
                   : from == RequestedSource::vehicle ? Setting::vehicle
                   : from == RequestedSource::sun     ? Setting::outdoor
                                                      : Setting::portable;
    return wish;
}

void checkSafe(const Project& p) {
    INFO(p.name);
    for (const Finding& f : analyseQuick(p).findings) {
        INFO(f.rule << ": " << f.says);
        CHECK(f.severity != Severity::stop);
        CHECK(f.rule != "no_fuse");
    }
    if (const Pack* pack = p.pack()) {
        CHECK(std::any_of(p.stages.begin(), p.stages.end(),
                          [](const Stage& s) { return std::holds_alternative<Fuse>(s.part); }));
        if (canRecharge(pack->cell)) {
            CHECK(std::any_of(p.stages.begin(), p.stages.end(),
                              [](const Stage& s) { return isCharger(s.part); }));
            CHECK(std::any_of(p.stages.begin(), p.stages.end(), [](const Stage& s) {
                return std::holds_alternative<Guard>(s.part);
            }));
        }
    }
}

/// Every part bears the name of its place, and says what it is.
void checkNamed(const Project& p) {
    for (const Stage& s : p.stages) {
        INFO(s.id << ": " << nameOf(s));
        CHECK(namedByRole(s));
        CHECK(nameOf(s).size() <= 16);
        if (!std::holds_alternative<Wire>(s.part))
            CHECK_FALSE(makeOf(s).empty());
    }
}

/// No name on the drawn line is cut in a window of 1280x780, nor on the sheet.
void checkWritten(Fresh& f) {
    f.window.resize(1280, 780);
    f.window.showView("supply-line");
    f.settle();
    const Project& p = f.session.project();
    const auto* canvas = f.find<LineCanvas>("line");
    const OperatingPoint now = f.session.moment();
    const LineLayout layout = layoutLine(p, f.session.results(), now, canvas->size(), 1.0);
    const QFontMetricsF metrics(Theme::now().font(11.5, true));
    for (const StagePlace& s : layout.stages)
        if (s.shown && s.shape == Shape::card) {
            INFO(s.title.toStdString());
            CHECK(metrics.horizontalAdvance(s.title) <= s.box.width());
        }
    f.window.showView("build-sheet");
    f.session.waitForIdle();
    auto* sheet = f.find<SheetView>("build-sheet");
    REQUIRE(sheet->settle());
    for (const QString& text : sheet->paper().texts()) {
        INFO(text.toStdString());
        CHECK_FALSE(text.contains(QChar(0x2026)));
    }
    const Drawing drawing = lineDrawing(p, sheet->paper().sheet());
    for (const DrawnText& t : drawing.texts) {
        INFO(t.text);
        const QFontMetricsF font(Theme::now().font(t.size, t.bold));
        CHECK((t.room <= 0 || font.horizontalAdvance(qs(t.text)) <= 1.02 * t.room));
    }
}

/// By F9 alone down to the last check, all inside.
void checkBench(Fresh& f) {
    f.window.showView("bench");
    f.settle();
    f.find<QAction>("practise.right")->trigger();
    auto* state = f.find<QLabel>("instrument.meter.state");
    REQUIRE(QTest::qWaitFor([&] { return state->text().contains("simulated"); }, 10000));
    const auto all = analyseBench(f.session.project()).checks.size();
    REQUIRE(all > 2);
    for (std::size_t i = 0; i < all; ++i) {
        f.key(Qt::Key_F9);
        REQUIRE(QTest::qWaitFor([&] { return f.session.project().readings.all().size() == i + 1; },
                                5000));
        f.session.waitForIdle();
        QApplication::processEvents();
    }
    f.find<QAction>("practise.end")->trigger();
    const BenchAnalysis bench = analyseBench(f.session.project());
    for (const BenchCheck& c : bench.checks) {
        INFO(c.id() << " " << c.value.value_or(-1) << " in " << c.coverageLow << ".."
                    << c.coverageHigh);
        CHECK(c.verdict == CheckVerdict::inside);
    }
}

/// The checks of a bench with one fault in it name the part, for up to five parts of it.
int checkFaults(const Project& drawn) {
    std::set<std::string> parts;
    for (const PlantedFault& fault : noticeableFaults(drawn)) {
        if (parts.size() == 5 || parts.contains(fault.stage))
            continue;
        INFO(drawn.name << ": " << writeFault(fault));
        Project p = drawn;
        p.readings = {};
        const BenchAnalysis right = analyseBench(p);
        const auto read = FaultyBench(p, {fault}).read(right.checks, right.charge, Celsius{20});
        for (std::size_t i = 0; i < read.size(); ++i) {
            const BenchCheck& c = right.checks[i];
            Reading r;
            r.id = "r" + std::to_string(i);
            r.checks = c.kind;
            r.at = c.at;
            r.mode = c.mode;
            const double value = read[i].value_or(0);
            switch (unitRead(c.kind, c.quantity)) {
            case Unit::celsius:
                r.celsius = Celsius{value};
                break;
            case Unit::ampere:
                r.amps = Amps{value};
                break;
            default:
                r.volts = Volts{value};
            }
            p.readings = p.readings.with(std::move(r));
        }
        const BenchAnalysis bench = analyseBench(p);
        if (bench.count(CheckVerdict::outside) == 0)
            continue; // the cells' own reading has moved the bands
        const std::vector<Suspect> suspects = suspectsOf(p, bench);
        CHECK(std::any_of(suspects.begin(), suspects.end(),
                          [&](const Suspect& s) { return s.fault.stage == fault.stage; }));
        parts.insert(fault.stage);
    }
    return static_cast<int>(parts.size());
}

} // namespace

TEST_CASE("what is wished for is built, charged, protected and checked within the window",
          "[start][firsthour]") {
    const auto wish =
        GENERATE_COPY(wishOf(RequestedSource::cells, {{12, 0.3}, {3.3, 0.08}}, 6),
                      wishOf(RequestedSource::adapter, {{12, 0.5}, {5, 0.3}, {3.3, 0.1}}, 6),
                      wishOf(RequestedSource::vehicle, {{5, 0.6}}, 6),
                      wishOf(RequestedSource::sun, {{3.3, 0.02}}, 48));
    Fresh f;
    f.find<RequestLine>("wish")->setWish(wish);
    f.find<QPushButton>("wish.go")->click();
    QApplication::processEvents();
    f.settle();
    REQUIRE(f.session.hasProject());
    CAPTURE(f.session.project().name);
    const Project& document = f.session.document();
    for (std::size_t i = 0; i < std::max<std::size_t>(1, variantCount(document)); ++i) {
        const Project p = variantProject(document, i);
        checkSafe(p);
        checkNamed(p);
    }
    checkWritten(f);
    checkBench(f);
    // Of cells, fuse, guard, regulators and charger, whichever are there.
    CHECK(checkFaults(f.session.project()) >= (f.session.project().pack() ? 4 : 2));
}
