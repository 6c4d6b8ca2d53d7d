// SPDX-License-Identifier: GPL-3.0-or-later
// The build sheet in the window: the paper, its rows, and every way out.
#include "driven.hpp"
#include "sheet/sheet.hpp"
#include "views/sheet/sheetcanvas.hpp"
#include "views/sheet/sheetout.hpp"
#include "views/sheet/sheetview.hpp"
#include "widgets/text.hpp"

#include <QPrinter>

using namespace sipper;
using namespace sipper::app;

namespace {

SheetView& sheetView(Driven& d) {
    d.window.showView("build-sheet");
    d.session.waitForIdle();
    auto* view = d.find<SheetView>("build-sheet");
    REQUIRE(view->settle());
    QApplication::processEvents();
    return *view;
}

const SheetPaper::Row& rowOf(const SheetPaper& paper, const QString& key) {
    for (const SheetPaper::Row& row : paper.rows())
        if (row.key == key)
            return row;
    FAIL("no row of " << key.toStdString());
    return paper.rows().front();
}

} // namespace

TEST_CASE("the paper says what window and core say", "[sheet]") {
    Driven d;
    SheetView& view = sheetView(d);
    const QStringList texts = view.paper().texts();
    CHECK(view.paper().pages() >= 1);
    CHECK(view.paper().pages() <= 4);
    const Project& p = d.session.project();
    CHECK(texts.contains(qs(p.name)));
    for (const Stage& stage : p.stages)
        if (!std::holds_alternative<Pack>(stage.part))
            CHECK(std::any_of(texts.begin(), texts.end(), [&](const QString& text) {
                return text.contains(qs(nameOf(stage)));
            }));
    const Sheet sheet = sheetOf(p, d.session.results(), d.session.results().deep.get(), sheetAsk());
    CHECK(texts.contains(qs(sheet.said)));
    for (const SheetCheck& check : sheet.checks)
        CHECK(texts.contains(qs(check.band)));
    CHECK(d.find<QLabel>("sheet.says")->text().contains(qs(sheet.code)));
    // Live: a set-point moved on the line is on the paper at once.
    d.session.apply("set", [&] {
        Project q = p;
        static_cast<void>(setPointTo(q.stage("boost5")->part, Volts{5.2}));
        return q;
    }());
    REQUIRE(view.settle());
    const QStringList moved = view.paper().texts();
    CHECK(std::any_of(moved.begin(), moved.end(),
                      [](const QString& text) { return text.contains("5.2 V at its output"); }));
}

TEST_CASE("rows are chosen and ticked by mouse and by key, undoably", "[sheet]") {
    Driven d;
    SheetView& view = sheetView(d);
    auto* canvas = d.find<SheetCanvas>("sheet.paper");
    const SheetPaper::Row boost = rowOf(view.paper(), "boost5");
    QTest::mouseClick(canvas, Qt::LeftButton, {}, canvas->placeOf(boost).center().toPoint());
    CHECK(d.session.selected() == "boost5");
    QTest::mouseClick(canvas, Qt::LeftButton, {}, canvas->tickOf(boost).center().toPoint());
    CHECK(haveOf(d.session.project()) == std::set<std::string>{"boost5"});
    REQUIRE(view.settle());
    CHECK(rowOf(view.paper(), "boost5").have);
    CHECK(d.find<QLabel>("sheet.says")->text().contains("still to buy"));
    d.act("action.undo");
    CHECK(haveOf(d.session.project()).empty());
    REQUIRE(view.settle());
    canvas->setFocus();
    QTest::keyClick(canvas, Qt::Key_Home);
    while (canvas->row() + 1 < static_cast<int>(view.paper().rows().size()) &&
           view.paper().rows()[static_cast<std::size_t>(canvas->row())].key != "guard")
        QTest::keyClick(canvas, Qt::Key_Down);
    QTest::keyClick(canvas, Qt::Key_Return);
    CHECK(d.session.selected() == "guard");
    QTest::keyClick(canvas, Qt::Key_Space);
    CHECK(haveOf(d.session.project()) == std::set<std::string>{"guard"});
}

TEST_CASE("every way out writes what it says, and a refusal is said", "[sheet]") {
    Driven d;
    SheetView& view = sheetView(d);
    const auto path = [&](const char* name) { return d.folder.filePath(name); };
    for (const char* ending : {"pdf", "html", "csv", "svg", "png", "json"}) {
        INFO(ending);
        view.askWhere = [&](const QString& suggested, const QString&) {
            CHECK(suggested == QString("nest-box-listener.") + ending);
            return path("out"); // the ending is put on
        };
        d.find<QPushButton>((std::string("sheet.") + ending).c_str())->click();
        QFile file(path("out.") + QLatin1String(ending));
        REQUIRE(file.open(QIODevice::ReadOnly));
        const QByteArray bytes = file.readAll();
        CHECK(bytes.size() > 300);
        if (std::string_view(ending) == "pdf") {
            CHECK(bytes.startsWith("%PDF"));
            CHECK(bytes.contains("/FontFile")); // embedded
            const auto pages = bytes.count("/Type /Page\n");
            CHECK(pages == view.paper().pages());
        }
        if (std::string_view(ending) == "png") {
            QImage image;
            REQUIRE(image.loadFromData(bytes));
            CHECK(image.width() > 600);
        }
    }
    view.askWhere = [](const QString&, const QString&) { return QString("/nowhere/at/all.csv"); };
    d.find<QPushButton>("sheet.csv")->click();
    CHECK_FALSE(d.find<QLabel>("sheet.complaint")->text().isEmpty());
    view.askWhere = [](const QString&, const QString&) { return QString(); };
    d.find<QPushButton>("sheet.csv")->click(); // given up: nothing
    bool printed = false;
    view.preview = [&](const std::function<void(QPrinter*)>& paint) {
        QPrinter printer;
        printer.setOutputFormat(QPrinter::PdfFormat);
        printer.setOutputFileName(path("printed.pdf"));
        printer.setFullPage(true);
        paint(&printer);
        printed = true;
    };
    d.find<QPushButton>("sheet.print")->click();
    CHECK(printed);
    CHECK(QFileInfo(path("printed.pdf")).size() > 1000);
}

TEST_CASE("what is on the sheet, its paper and its colours are the user's", "[sheet]") {
    Driven d;
    SheetView& view = sheetView(d);
    const auto has = [&](const char* words) {
        return view.paper().texts().contains(QString::fromUtf8(words));
    };
    CHECK(has("Cautions"));
    d.find<QCheckBox>("sheet.part.cautions")->click();
    CHECK_FALSE(has("Cautions"));
    CHECK(has("Parts"));
    d.find<QCheckBox>("sheet.part.parts")->click();
    CHECK_FALSE(has("Parts"));
    const QSizeF before = view.paper().size();
    auto* size = d.find<QComboBox>("sheet.size");
    size->setCurrentIndex(1);
    emit size->activated(1);
    CHECK(view.paper().size() != before);
    size->setCurrentIndex(0);
    emit size->activated(0);
    view.askColours = [](LeadColours& colours) {
        colours.minus = "blue";
        return true;
    };
    d.find<QPushButton>("sheet.colours")->click();
    REQUIRE(view.settle());
    const QStringList texts = view.paper().texts();
    CHECK(std::any_of(texts.begin(), texts.end(),
                      [](const QString& text) { return text.contains("red/blue"); }));
    QSettings().remove("leads");
}

TEST_CASE("a plug is stated on the sheet as one undoable edit", "[sheet]") {
    Driven d;
    SheetView& view = sheetView(d);
    auto* of = d.find<QComboBox>("plug.of");
    of->setCurrentIndex(of->findData("eye"));
    emit of->activated(of->currentIndex());
    REQUIRE(d.session.selected() == "eye");
    auto* kind = d.find<QLineEdit>("plug.kind");
    kind->setFocus();
    kind->clear();
    QTest::keyClicks(kind, "barrel 5.5");
    QTest::keyClick(kind, Qt::Key_Return);
    auto* centre = d.find<QComboBox>("plug.centre");
    centre->setCurrentIndex(1);
    emit centre->activated(1);
    const auto& connector = d.session.project().load("eye")->connector;
    REQUIRE(connector);
    CHECK(connector->kind == "barrel 5.5");
    CHECK(connector->centre == Polarity::positive);
    REQUIRE(view.settle());
    CHECK(view.paper().sheet().plugs.size() >= 1);
    d.act("action.undo");
    d.act("action.undo");
    CHECK_FALSE(d.session.project().load("eye")->connector);
}

TEST_CASE("no row is parted from its heading, and none is over the page's edge", "[sheet]") {
    Driven d;
    REQUIRE(d.window.openExample("hand-cart-organ"));
    d.session.waitForIdle();
    Project many = d.session.project();
    for (int i = 0; i < 14; ++i) {
        Load load = many.loads.front();
        load.id = "more" + std::to_string(i);
        load.label = "A load with rather a long name, number " + std::to_string(i);
        many.loads.push_back(load);
    }
    const QuickAnalysis quick = analyseQuick(many);
    const SheetPaper paper(many, sheetOf(many, quick, nullptr), PaperSize::letter, allSheetParts());
    CHECK(paper.pages() >= 2);
    for (const SheetPaper::Row& row : paper.rows()) {
        INFO(row.text.toStdString());
        CHECK(row.box.top() >= 0);
        CHECK(row.box.bottom() <= paper.size().height());
        CHECK(row.box.right() <= paper.size().width());
    }
    // Painting all of it on a picture leaves its margins white.
    for (int page = 0; page < paper.pages(); ++page) {
        QImage image(612, 792, QImage::Format_RGB32);
        image.fill(Qt::white);
        QPainter painter(&image);
        painter.scale(1 / kUnitsAPoint, 1 / kUnitsAPoint);
        paper.paint(painter, page);
        painter.end();
        for (int y = 0; y < image.height(); ++y)
            for (int x = 590; x < image.width(); ++x)
                REQUIRE(image.pixelColor(x, y) == QColor(Qt::white));
    }
}
