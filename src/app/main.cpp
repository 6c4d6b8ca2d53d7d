// SPDX-License-Identifier: GPL-3.0-or-later
// sipper: the window.
#include "parts/kinds.hpp"
#include "project/tree.hpp"
#include "project/variants.hpp"
#include "shell/mainwindow.hpp"
#include "shell/viewtable.hpp"
#include "text/text.hpp"
#include "theme/theme.hpp"
#include "views/bench/calibrationcard.hpp"
#include "views/library/librarydialog.hpp"
#include "views/sheet/sheetout.hpp"
#include "views/start/startpage.hpp"
#include "views/sums/sumsdrawer.hpp"

#include <CLI/CLI.hpp>
#include <QAbstractButton>
#include <QApplication>
#include <QFileInfo>
#include <QSettings>
#include <cstdio>
#include <optional>

namespace {

struct Options {
    std::string file;
    std::string example;
    std::string screenshot;
    std::string view;
    std::string size = "1280x800";
    std::string theme;
    std::string mode;
    std::string select;
    std::string trace;
    std::string page;
    std::vector<std::string> logs;
    int variant = 0;
    bool curves = false;
    std::vector<std::string> plugs;
    std::string sum;
    bool library = false;
    bool listShots = false;
    std::string report;
    bool letter = false;
    double charge = -1;
    double light = 0;
    double scale = 0;
};

int refuse(const std::string& line) {
    std::fprintf(stderr, "sipper: %s\n", sipper::escapeForTerminal(line).c_str());
    return 2;
}

/// Qt ends a program that can't reach its display by aborting it: one line and exit 2 instead.
void endPolitely(QtMsgType type, const QMessageLogContext&, const QString& text) {
    if (type == QtCriticalMsg)
        refuse(text.toStdString());
    if (type != QtFatalMsg)
        return;
    refuse("no display: " + text.section('\n', 0, 0).toStdString());
    std::_Exit(2);
}

bool hasDisplay() {
    return !qEnvironmentVariableIsEmpty("DISPLAY") ||
           !qEnvironmentVariableIsEmpty("WAYLAND_DISPLAY");
}

/// 1 at the usual desktop font; bigger fonts scale the whole window.
double desktopScale() {
    constexpr double kUsualPoints = 10;
    const double points = QApplication::font().pointSizeF();
    return points > 0 && QGuiApplication::platformName() != "offscreen"
               ? std::clamp(points / kUsualPoints, 1.0, 2.0)
               : 1.0;
}

int picture(sipper::app::MainWindow& window, sipper::app::Session& session, const Options& o) {
    window.show();
    window.setFocus();
    QApplication::processEvents();
    for (int i = 0; i < 3; ++i) {
        session.waitForIdle();
        QApplication::processEvents();
    }
    QWidget* shown = &window;
    std::optional<sipper::app::LibraryDialog> library;
    if (o.library) {
        library.emplace(session, session.selected(), &window);
        library->show();
        library->waitForIdle();
        QApplication::processEvents();
        shown = &*library;
    }
    if (!shown->grab().save(QString::fromStdString(o.screenshot)))
        return refuse(o.screenshot + ": can't be written");
    return 0;
}

/// The build sheet as a file, without a window.
int report(const sipper::app::Session& session, const Options& o) {
    using namespace sipper::app;
    const sipper::QuickAnalysis& quick = session.results();
    const PaperSize size = o.letter ? PaperSize::letter : PaperSize::a4;
    const SheetPaper paper(
        session.project(),
        sipper::sheetOf(session.project(), quick, session.results().deep.get(), sheetAsk()), size,
        allSheetParts());
    if (const auto trouble =
            writeReport(QString::fromStdString(o.report), session.project(), paper, size))
        return refuse(trouble->message());
    return 0;
}

/// One line a picture of docs/screenshots: its name and the options that make it.
int listShots() {
    std::printf("start --view start\n");
    for (const sipper::app::ViewEntry& entry : sipper::app::viewTable())
        for (const sipper::app::Shot& shot : entry.shots)
            std::printf("%s --view %s %s\n", shot.name, entry.name, shot.options);
    return 0;
}

void addOptions(CLI::App& cli, Options& o) {
    cli.set_version_flag("--version", "sipper " SIPPER_VERSION);
    cli.add_option("FILE", o.file, "a project, *.sipper");
    cli.add_option("--example", o.example, "open a shipped example, such as nest-box-listener");
    cli.add_option("--screenshot", o.screenshot, "write a picture of the window and end");
    cli.add_option("--view", o.view, sipper::app::viewNames().toStdString());
    cli.add_option("--size", o.size, "of the window, such as 1280x800");
    cli.add_option("--theme", o.theme, "day or night")->check(CLI::IsMember({"day", "night"}));
    cli.add_option("--mode", o.mode, "id of the mode shown");
    cli.add_option("--charge", o.charge, "charge shown, 0 to 1")->check(CLI::Range(0.0, 1.0));
    cli.add_option("--light", o.light, "light on the panels, W/m2")->check(CLI::Range(0.0, 1500.0));
    cli.add_option("--select", o.select, "id of the part chosen");
    cli.add_flag("--library", o.library, "with --screenshot: the library for the chosen stage");
    cli.add_option("--sum", o.sum, "open the quick sums at this one, such as divider");
    cli.add_option("--page", o.page,
                   "beside the discharge: levers, envelope, range, units, wear; beside the charge: "
                   "choices.sources, choices.energy, choices.rates, choices.paths, choices.packs, "
                   "choices.setup; beside a panel's year: beside.map, beside.levers, beside.need, "
                   "beside.reading, beside.watch; beside a guard: guard.schools, guard.proof, "
                   "guard.after, guard.ways; on the bench: bench.checks, bench.runs, bench.cells, "
                   "bench.aside, bench.logbook")
        ->check(
            CLI::IsMember({"levers",        "envelope",        "range",          "units",
                           "wear",          "choices.sources", "choices.energy", "choices.rates",
                           "choices.paths", "choices.packs",   "choices.setup",  "beside.map",
                           "beside.levers", "beside.need",     "beside.reading", "beside.watch",
                           "guard.schools", "guard.proof",     "guard.after",    "guard.ways",
                           "bench.checks",  "bench.runs",      "bench.cells",    "bench.aside",
                           "bench.logbook"}));
    cli.add_option("--variant", o.variant, "number of the variant shown, from 0")
        ->check(CLI::Range(0, 100));
    cli.add_option("--plug", o.plugs, "ids of sources that are plugged in");
    cli.add_flag("--curves", o.curves, "show the curves of the chosen regulator");
    cli.add_option("--trace", o.trace, "a measured trace to lay on the Loads view, a CSV");
    cli.add_option("--log", o.logs,
                   "a log of a discharge to lay on the bench, a CSV; again for more")
        ->allow_extra_args(false);
    cli.add_option("--font-scale", o.scale, "1 to 2; by default the desktop's font decides")
        ->check(CLI::Range(0.8, 2.0));
    cli.add_option(
        "--report", o.report,
        "write the build sheet of FILE and end: OUT.pdf, .html, .csv, .svg, .png, .json");
    cli.add_flag("--letter", o.letter, "with --report: letter paper in place of A4");
    cli.add_flag("--list-shots", o.listShots, "print how the pictures of the docs are made");
}

/// Opens what was asked for; a line where it can't be.
std::optional<std::string> openAsked(sipper::app::MainWindow& window, sipper::app::Session& session,
                                     Options& o) {
    if (!o.file.empty()) {
        if (const auto trouble = session.open(QString::fromStdString(o.file))) {
            if (!o.screenshot.empty())
                return trouble->message();
            window.say(*trouble);
        }
    } else if (!o.example.empty()) {
        if (const auto trouble = session.openExample(QString::fromStdString(o.example)))
            return trouble->message();
    } else if (o.view.empty()) {
        o.view = sipper::app::kStartPage;
    }
    return std::nullopt;
}

/// Puts the window where the options say; a line where one of them names what is not there.
std::optional<std::string> showAsked(sipper::app::MainWindow& window, sipper::app::Session& session,
                                     const Options& o) {
    using namespace sipper::app;
    if (!o.view.empty() && o.view != kStartPage && !viewNamed(o.view))
        return "--view: found " + o.view + ", expected " + viewNames().toStdString();
    const auto variants = static_cast<int>(sipper::variantCount(session.document()));
    if (o.variant >= variants)
        return "--variant: found " + std::to_string(o.variant) + ", expected 0 to " +
               std::to_string(variants - 1);
    session.showVariant(static_cast<std::size_t>(o.variant));
    const sipper::Project& p = session.project();
    std::size_t mode = session.mode();
    if (!o.mode.empty()) {
        mode = sipper::modeIndex(p, o.mode);
        if (mode == sipper::kNotFound)
            return "--mode: found " + o.mode + ", expected the id of a mode";
    }
    session.setDisplayedPoint(o.charge >= 0 ? o.charge : session.charge(), mode);
    session.setLight(o.light, std::nullopt);
    if (!o.select.empty() && !p.stage(o.select) && !p.load(o.select))
        return "--select: found " + o.select + ", expected the id of a stage or load";
    if (!o.select.empty())
        session.select(QString::fromStdString(o.select));
    for (const std::string& id : o.plugs) {
        const sipper::Stage* source = p.stage(id);
        if (!source || !sipper::isExternalSource(source->part))
            return "--plug: found " + id + ", expected the id of an adapter, a socket or a vehicle";
        session.plug(QString::fromStdString(id), true);
    }
    if (!o.trace.empty()) {
        if (!QFileInfo(QString::fromStdString(o.trace)).isReadable() ||
            QFileInfo(QString::fromStdString(o.trace)).isDir())
            return "--trace: found " + o.trace + ", expected a CSV that can be read";
        session.traceWork().open(QString::fromStdString(o.trace), {});
    }
    if (!o.view.empty())
        window.showView(QString::fromStdString(o.view));
    for (const std::string& log : o.logs)
        if (auto* learn = window.findChild<CalibrationCard*>())
            learn->learnFrom(QString::fromStdString(log));
    if (!o.sum.empty())
        if (auto* sums = window.findChild<SumsDrawer*>())
            sums->open(QString::fromStdString(o.sum));
    if (!o.page.empty())
        if (auto* page = window.findChild<QAbstractButton*>(QString::fromStdString(o.page) +
                                                            QStringLiteral(".show")))
            page->click();
    if (o.curves)
        if (auto* curves = window.findChild<QAbstractButton*>(QStringLiteral("build.curves")))
            curves->setChecked(true);
    return std::nullopt;
}

} // namespace

int main(int argc, char** argv) {
    using namespace sipper::app;
    Options o;
    CLI::App cli{"Designs the supply of a small project, from cells to loads.", "sipper"};
    addOptions(cli, o);
    try {
        cli.parse(argc, argv);
    } catch (const CLI::ParseError& e) {
        return e.get_exit_code() == 0 ? cli.exit(e) : refuse(e.what());
    }
    if (o.listShots)
        return listShots();
    int width = 0;
    int height = 0;
    if (std::sscanf(o.size.c_str(), "%dx%d", &width, &height) != 2 || width < 400 || height < 300 ||
        width > 8000 || height > 8000)
        return refuse("--size: found " + o.size + ", expected WIDTHxHEIGHT, such as 1280x800");
    const bool picturing = !o.screenshot.empty() || !o.report.empty();
    if (!hasDisplay() && qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) {
        if (!picturing)
            return refuse("found no display, expected DISPLAY or WAYLAND_DISPLAY to be set; "
                          "sipper-cli works without one");
        qputenv("QT_QPA_PLATFORM", "offscreen");
    }
    qInstallMessageHandler(endPolitely);
    int qtArgc = 1;
    QApplication app(qtArgc, argv);
    QApplication::setOrganizationName(QStringLiteral("sipper"));
    QApplication::setApplicationName(QStringLiteral("sipper"));
    QApplication::setApplicationVersion(QStringLiteral(SIPPER_VERSION));
    if (!loadFonts())
        return refuse("the fonts of the program can't be loaded");
    const bool night =
        o.theme.empty() ? !picturing && QSettings().value("night").toBool() : o.theme == "night";
    Theme::use(night, o.scale > 0 ? o.scale : desktopScale());

    Session session;
    if (!o.report.empty()) {
        if (o.file.empty() && o.example.empty())
            return refuse("--report: found no project, expected FILE or --example");
        const auto trouble = o.file.empty() ? session.openExample(QString::fromStdString(o.example))
                                            : session.open(QString::fromStdString(o.file));
        if (trouble)
            return refuse(trouble->message());
        const auto variants = static_cast<int>(sipper::variantCount(session.document()));
        if (o.variant >= variants)
            return refuse("--variant: found " + std::to_string(o.variant) + ", expected 0 to " +
                          std::to_string(variants - 1));
        session.showVariant(static_cast<std::size_t>(o.variant));
        session.waitForIdle();
        return report(session, o);
    }
    MainWindow window(session);
    window.resize(width, height);
    if (!picturing)
        window.restoreLayout();
    if (const auto trouble = openAsked(window, session, o))
        return refuse(*trouble);
    if (picturing && o.view.empty())
        o.view = "supply-line";
    if (const auto trouble = showAsked(window, session, o))
        return refuse(*trouble);
    if (picturing)
        return picture(window, session, o);
    window.show();
    return QApplication::exec();
}
