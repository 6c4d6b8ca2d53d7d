// SPDX-License-Identifier: GPL-3.0-or-later
// What the views are built of.
#include "widgets/controls.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/quantityedit.hpp"
#include "window/driven.hpp"

#include <QCheckBox>
#include <QPushButton>
#include <QVBoxLayout>
#include <qcustomplot.h>

using namespace sipper;
using namespace sipper::app;

namespace {

struct LabelledPlot {
    QCustomPlot plot;
    PlotLabels labels{plot};
    std::vector<QCPItemText*> items;
    LabelledPlot() {
        plot.resize(400, 300);
        plot.xAxis->setRange(0, 10);
        plot.yAxis->setRange(0, 10);
    }
    QCPItemText& add(double x, double y, const char* words) {
        QCPItemText* item = plotText(plot, Role::ink, {}, QString::fromLatin1(words));
        item->setPositionAlignment(Qt::AlignRight | Qt::AlignVCenter);
        item->position->setCoords(x, y);
        labels.add(*item);
        items.push_back(item);
        return *item;
    }
    static QRectF rect(const QCPItemText& item) {
        return {item.topLeft->pixelPosition(), item.bottomRight->pixelPosition()};
    }
    void checkApart() const {
        for (std::size_t a = 0; a < items.size(); ++a)
            for (std::size_t b = a + 1; b < items.size(); ++b) {
                INFO(items[a]->text().toStdString() << ", " << items[b]->text().toStdString());
                CHECK_FALSE(rect(*items[a])
                                .adjusted(0.5, 0.5, -0.5, -0.5)
                                .intersects(rect(*items[b]).adjusted(0.5, 0.5, -0.5, -0.5)));
            }
    }
};

} // namespace

TEST_CASE("labels of a plot keep clear of each other and inside the axes", "[kit]") {
    LabelledPlot p;
    for (const char* words : {"4.19 V", "3.60 V", "3.02 V"})
        p.add(9, 9.9, words);
    QCPItemText& far = p.add(2.5, 5, "alone");
    p.plot.replot();
    p.checkApart();
    for (const QCPItemText* item : p.items) {
        const QRectF r = LabelledPlot::rect(*item);
        CHECK(r.top() >= p.plot.axisRect()->top() - 1);
        CHECK(r.bottom() <= p.plot.axisRect()->bottom() + 1);
    }
    // What nothing is in the way of stays where it was put.
    CHECK(far.position->value() == Approx(5));
    CHECK(far.position->key() == Approx(2.5));
    // The order along the values is kept.
    CHECK(LabelledPlot::rect(*p.items[0]).top() < LabelledPlot::rect(*p.items[1]).top());
}

TEST_CASE("labels go back to their places when there is room again", "[kit]") {
    LabelledPlot p;
    QCPItemText& upper = p.add(8, 5.2, "upper");
    QCPItemText& lower = p.add(8, 5.0, "lower");
    p.plot.replot();
    p.checkApart();
    CHECK(upper.position->value() > 5.2);
    CHECK(lower.position->value() < 5.0);
    p.plot.yAxis->setRange(4.5, 5.7);
    p.plot.replot();
    CHECK(upper.position->value() == Approx(5.2).margin(0.01));
    CHECK(lower.position->value() == Approx(5.0).margin(0.01));
    p.plot.clearItems();
    p.plot.replot(); // nothing that is gone is looked at
}

TEST_CASE("controls of the kit bear a name, a label and a tooltip", "[kit]") {
    QWidget page;
    QPushButton* button = pushButton(&page, "page.go", "Go", "Goes");
    CHECK(page.findChild<QPushButton*>("page.go") == button);
    CHECK(button->text() == "Go");
    CHECK(button->toolTip() == "Goes");
    PlainCombo* combo = choiceField(&page, "page.kind", "Kind", "Which kind");
    CHECK(combo->accessibleName() == "Kind");
    CHECK(combo->toolTip() == "Which kind");
    CHECK(choiceField(&page, "page.other", "Other")->toolTip().isEmpty());
    QLineEdit* line = lineField(&page, "page.note", "Note");
    CHECK(line->accessibleName() == "Note");
    QCheckBox* box = checkBox(&page, "page.warm", "grew warm");
    CHECK(box->text() == "grew warm");
    QuantityEdit* volts = quantityField(
        &page, "page.volts", typedFacts("v", "Volts", "At rest", Unit::volt, 0, 100), 66);
    CHECK(volts->width() == Theme::now().ipx(66));
    QSignalSpy committed(volts, &QuantityEdit::committed);
    QTest::keyClicks(volts, "3v3\r");
    REQUIRE(committed.size() == 1);
    CHECK(*volts->value() == Approx(3.3));
    const QLabel* label =
        textLabel(&page, "hello", {.size = 20, .bold = true, .wrap = true, .name = "page.hello"});
    CHECK(label->objectName() == "page.hello");
    CHECK(label->wordWrap());
    CHECK(label->font().bold());
}

TEST_CASE("layouts of the kit scale with the theme", "[kit]") {
    QWidget page;
    const QVBoxLayout* column = newColumn(&page, 8, Margins{1, 2, 3, 4});
    CHECK(page.layout() == column);
    CHECK(column->spacing() == Theme::now().ipx(8));
    CHECK(column->contentsMargins() == QMargins(Theme::now().ipx(1), Theme::now().ipx(2),
                                                Theme::now().ipx(3), Theme::now().ipx(4)));
    const std::unique_ptr<QHBoxLayout> row(newRow(nullptr));
    CHECK(row->parent() == nullptr);
    CHECK(newCard(&page, "page.card", "A card")->accessibleName() == "A card");
}
