// SPDX-License-Identifier: GPL-3.0-or-later
// Geometry of the drawn line: labels never overlap, whatever the project, size and scale.
#include "support.hpp"
#include "theme/theme.hpp"
#include "views/supplyline/linelayout.hpp"
#include "widgets/inspector.hpp"
#include "widgets/plotstyle.hpp"

#include <QFontMetricsF>
#include <set>

using namespace sipper;
using namespace sipper::app;

namespace {

/// A dozen loads on five rails, leads at every other one.
Project twelveLoads() {
    Project p = test::example("lake-parade-lantern");
    p.stages.erase(p.stages.begin() + 5, p.stages.end());
    p.loads.clear();
    const Stage buck = p.stages.back();
    const auto rail = [&](const char* id, Topology topology, double volts, const char* from) {
        Stage s = buck;
        s.id = id;
        s.label = std::string("Rail ") + id;
        s.fedBy = {from};
        auto& part = std::get<Switcher>(s.part);
        part.topology = topology;
        part.set = Volts{volts};
        part.inputMin.reset();
        p.stages.push_back(s);
    };
    rail("nine", Topology::buck, 9, "main");
    rail("five", Topology::buck, 5, "main");
    rail("three", Topology::buck, 3.3, "five");
    rail("high", Topology::boost, 24, "main");
    int n = 0;
    for (const auto& [from, volts, count] : std::vector<std::tuple<const char*, double, int>>{
             {"buck", 12, 3}, {"nine", 9, 2}, {"five", 5, 3}, {"three", 3.3, 2}, {"high", 24, 2}})
        for (int k = 0; k < count; ++k) {
            const std::string id = "load" + std::to_string(++n);
            std::string feed = from;
            if (k % 2 == 0) {
                Wire w;
                w.length = Metres{0.5};
                w.area = SquareMillimetres{0.5};
                p.stages.push_back(test::stageOf("lead" + std::to_string(n), w, from));
                p.stages.back().label = "Lead " + std::to_string(n);
                feed = p.stages.back().id;
            }
            p.loads.push_back(test::loadOf(id, feed, volts * 0.9, volts * 1.1));
            p.loads.back().window.neverAbove = Volts{volts * 1.25};
            p.loads.back().draws = {test::currentDraw("wait", 0.02 * n)};
        }
    return p;
}

/// The copper meets a bracket inside exactly when the load is inside its window.
void checkTruth(const LineLayout& layout, const OperatingPoint& now) {
    for (std::size_t i = 0; i < layout.loads.size() && !now.collapse; ++i) {
        const LoadPlace& l = layout.loads[i];
        if (l.shown && now.flows.loads[i].v > 0.1)
            CHECK((l.y >= l.top - 0.01 && l.y <= l.bottom + 0.01) == now.inside[i]);
    }
}

void checkClear(const LineLayout& layout, const QSizeF& size) {
    std::vector<std::pair<std::string, QRectF>> boxes;
    for (const StagePlace& s : layout.stages)
        if (s.shown)
            boxes.emplace_back(s.title.toStdString(), s.box);
    for (const LoadPlace& l : layout.loads) {
        if (!l.shown)
            continue;
        boxes.emplace_back(l.title.toStdString(), l.label.adjusted(0, 1, 0, -1));
        boxes.emplace_back("[ of " + l.title.toStdString(),
                           QRectF(QPointF(l.x, l.top), QPointF(l.x + 13, l.bottom)));
        if (!l.neverLabel.isEmpty())
            boxes.emplace_back("never above of " + l.title.toStdString(),
                               l.neverLabel.adjusted(0, 2, 0, -2));
        CHECK(l.top < l.bottom);
    }
    if (!layout.callout.isEmpty())
        boxes.emplace_back("callout", layout.callout);
    for (std::size_t i = 0; i < boxes.size(); ++i) {
        INFO(boxes[i].first);
        CHECK(boxes[i].second.left() >= 0);
        CHECK(boxes[i].second.right() <= size.width() + 1);
        CHECK(boxes[i].second.top() >= 0);
        CHECK(boxes[i].second.bottom() <= size.height() + 1);
        for (std::size_t k = i + 1; k < boxes.size(); ++k) {
            INFO(boxes[k].first);
            CHECK_FALSE(boxes[i].second.intersects(boxes[k].second));
        }
    }
}

} // namespace

TEST_CASE("nothing on the line overlaps or leaves the canvas", "[layout]") {
    for (const Project& p :
         {test::example("nest-box-listener"), test::example("lake-parade-lantern"), twelveLoads(),
          test::reference("street-choir"), test::reference("meadow-node")}) {
        Results r;
        static_cast<QuickAnalysis&>(r) = analyseQuick(p);
        for (const QSizeF size : {QSizeF(850, 400), QSizeF(780, 300), QSizeF(1400, 640)})
            for (const double charge : {1.0, 0.5, 0.02})
                for (std::size_t mode = 0; mode < p.modes.size(); ++mode) {
                    INFO(p.name << " " << size.width() << " at " << charge << " in "
                                << p.modes[mode].id);
                    const OperatingPoint now = operate(p, typicalConditions(p), charge, mode);
                    const LineLayout layout = layoutLine(p, r, now, size, 1.0);
                    checkClear(layout, size);
                    checkTruth(layout, now);
                }
    }
}

TEST_CASE("the axis is logarithmic and its inverse agrees", "[layout]") {
    const VoltAxis axis(2, 20, 10, 410);
    CHECK(axis.y(2) == Approx(410));
    CHECK(axis.y(20) == Approx(10));
    CHECK(axis.y(std::sqrt(40.0)) == Approx(210));
    for (const double v : {2.5, 3.3, 12.0})
        CHECK(axis.volts(axis.y(v)) == Approx(v));
    double last = 1e9;
    for (const double v : axis.ticks(22)) {
        CHECK(last - axis.y(v) >= 22);
        last = axis.y(v);
    }
}

TEST_CASE("crowded items are moved as little as it takes, and stay in order", "[layout]") {
    CHECK(placeWithoutOverlap({50, 150}, {20, 20}, 0, 200) == std::vector<double>{50, 150});
    CHECK(placeWithoutOverlap({100, 100}, {20, 20}, 0, 200) == std::vector<double>{90, 110});
    CHECK(placeWithoutOverlap({100, 100, 100}, {20, 20, 20}, 0, 200) ==
          std::vector<double>{80, 100, 120});
    CHECK(placeWithoutOverlap({5, 5}, {20, 20}, 0, 200) == std::vector<double>{10, 30});
    CHECK(placeWithoutOverlap({}, {}, 0, 100).empty());
}

TEST_CASE("a card is as wide as its name where the line has room for it", "[layout]") {
    for (const char* example : {"nest-box-listener", "lake-parade-lantern"}) {
        const Project p = test::example(example);
        Results r;
        static_cast<QuickAnalysis&>(r) = analyseQuick(p);
        const OperatingPoint now = operate(p, typicalConditions(p), 0.6, 0);
        const QFontMetricsF metrics(Theme::now().font(11.5, true));
        const LineLayout wide = layoutLine(p, r, now, QSizeF(1600, 500), 1.0);
        const LineLayout narrow = layoutLine(p, r, now, QSizeF(780, 300), 1.0);
        for (std::size_t i = 0; i < wide.stages.size(); ++i) {
            if (!wide.stages[i].shown || wide.stages[i].shape != Shape::card)
                continue;
            INFO(wide.stages[i].title.toStdString());
            CHECK(metrics.horizontalAdvance(wide.stages[i].title) <= wide.stages[i].box.width());
            CHECK(narrow.stages[i].box.width() <= wide.stages[i].box.width());
        }
    }
}

TEST_CASE("two ticks of a time axis never read alike", "[layout]") {
    for (const double span : {0.8, 9.0, 95.0, 400.0, 1800.0, 5400.0, 9000.0, 26000.0, 260000.0})
        for (double most = 2; most <= 9; ++most) {
            const double step = niceSeconds(span, most);
            std::set<QString> seen;
            int ticks = 0;
            for (double at = 0; at <= span * (1 + 1e-9); at += step, ++ticks)
                seen.insert(tickText(at, step));
            INFO(span << " s in steps of " << step);
            CHECK(static_cast<int>(seen.size()) == ticks);
        }
}
