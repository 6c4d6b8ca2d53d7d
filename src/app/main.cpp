// sipper: the window.
#include "project/variants.hpp"
#include "shell/mainwindow.hpp"
#include "theme/theme.hpp"
#include "views/compare/compareview.hpp"
#include "views/library/librarydialog.hpp"
#include "views/runtime/leverscard.hpp"
#include "views/sums/sumsdrawer.hpp"

#include <CLI/CLI.hpp>
#include <QAbstractButton>
#include <QApplication>
#include <QSettings>
#include <QTimer>
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
    int variant = 0;
    bool curves = false;
    std::string sum;
    bool library = false;
    double charge = -1;
    double scale = 0;
};

int refuse(const std::string& line) {
    std::fprintf(stderr, "sipper: %s\n", line.c_str());
    return 2;
}

/// 1 at the usual desktop font; bigger fonts scale the whole window.
double desktopScale() {
    constexpr double kUsualPoints = 10;
    const double points = QApplication::font().pointSizeF();
    return points > 0 && QGuiApplication::platformName() != "offscreen"
               ? std::clamp(points / kUsualPoints, 1.0, 2.0)
               : 1.0;
}

int picture(QApplication& app, sipper::app::MainWindow& window, sipper::app::Session& session,
            const Options& o) {
    window.show();
    window.setFocus();
    app.processEvents();
    session.settle();
    session.traceWork().settle();
    if (auto* levers = window.findChild<sipper::app::LeversCard*>())
        levers->settle();
    if (auto* compare = window.findChild<sipper::app::CompareView*>())
        compare->settle();
    for (int i = 0; i < 3; ++i)
        app.processEvents();
    QWidget* shown = &window;
    std::optional<sipper::app::LibraryDialog> library;
    if (o.library) {
        library.emplace(session, session.selected(), &window);
        library->show();
        library->settle();
        app.processEvents();
        shown = &*library;
    }
    if (!shown->grab().save(QString::fromStdString(o.screenshot)))
        return refuse(o.screenshot + ": can't be written");
    return 0;
}

} // namespace

int main(int argc, char** argv) {
    using namespace sipper::app;
    Options o;
    CLI::App cli{"Designs the supply of a small project, from cells to loads.", "sipper"};
    cli.set_version_flag("--version", "sipper 0.1.0");
    cli.add_option("FILE", o.file, "a project, *.sipper");
    cli.add_option("--example", o.example, "open a shipped example, such as nest-box-listener");
    cli.add_option("--screenshot", o.screenshot, "write a picture of the window and end");
    cli.add_option("--view", o.view, "start, brief, loads, supply-line, runtime or compare");
    cli.add_option("--size", o.size, "of the window, such as 1280x800");
    cli.add_option("--theme", o.theme, "day or night")->check(CLI::IsMember({"day", "night"}));
    cli.add_option("--mode", o.mode, "id of the mode shown");
    cli.add_option("--charge", o.charge, "charge shown, 0 to 1")->check(CLI::Range(0.0, 1.0));
    cli.add_option("--select", o.select, "id of the part chosen");
    cli.add_flag("--library", o.library, "with --screenshot: the library for the chosen stage");
    cli.add_option("--sum", o.sum, "open the quick sums at this one, such as divider");
    cli.add_option("--page", o.page, "beside the discharge: levers, envelope, range, units or wear")
        ->check(CLI::IsMember({"levers", "envelope", "range", "units", "wear"}));
    cli.add_option("--variant", o.variant, "number of the variant shown, from 0")
        ->check(CLI::Range(0, 100));
    cli.add_flag("--curves", o.curves, "show the curves of the chosen regulator");
    cli.add_option("--trace", o.trace, "a measured trace to lay on the Loads view, a CSV");
    cli.add_option("--font-scale", o.scale, "1 to 2; by default the desktop's font decides")
        ->check(CLI::Range(0.8, 2.0));
    try {
        cli.parse(argc, argv);
    } catch (const CLI::ParseError& e) {
        return e.get_exit_code() == 0 ? cli.exit(e) : refuse(e.what());
    }
    int width = 0;
    int height = 0;
    if (std::sscanf(o.size.c_str(), "%dx%d", &width, &height) != 2 || width < 400 || height < 300 ||
        width > 8000 || height > 8000)
        return refuse("--size: found " + o.size + ", expected WIDTHxHEIGHT, such as 1280x800");
    if (!o.screenshot.empty() && qEnvironmentVariableIsEmpty("DISPLAY") &&
        qEnvironmentVariableIsEmpty("WAYLAND_DISPLAY") &&
        qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM"))
        qputenv("QT_QPA_PLATFORM", "offscreen");
    int qtArgc = 1;
    QApplication app(qtArgc, argv);
    QApplication::setOrganizationName(QStringLiteral("sipper"));
    QApplication::setApplicationName(QStringLiteral("sipper"));
    QApplication::setApplicationVersion(QStringLiteral("0.1.0"));
    if (!loadFonts())
        return refuse("the fonts of the program can't be loaded");
    const bool night = o.theme.empty() ? o.screenshot.empty() && QSettings().value("night").toBool()
                                       : o.theme == "night";
    Theme::use(night, o.scale > 0 ? o.scale : desktopScale());

    Session session;
    MainWindow window(session);
    window.resize(width, height);
    if (!o.file.empty()) {
        if (const auto trouble = session.open(QString::fromStdString(o.file))) {
            if (!o.screenshot.empty())
                return refuse(trouble->message());
            window.say(*trouble);
        }
    } else if (!o.example.empty()) {
        if (const auto trouble = session.openExample(QString::fromStdString(o.example)))
            return refuse(trouble->message());
    } else if (o.view.empty()) {
        o.view = "start";
    }
    if (o.view.empty())
        o.view = "supply-line";
    if (o.view != "start" && o.view != "brief" && o.view != "loads" && o.view != "supply-line" &&
        o.view != "runtime" && o.view != "compare")
        return refuse("--view: found " + o.view +
                      ", expected start, brief, loads, supply-line, runtime or compare");
    const auto variants = static_cast<int>(sipper::variantCount(session.document()));
    if (o.variant >= variants)
        return refuse("--variant: found " + std::to_string(o.variant) + ", expected 0 to " +
                      std::to_string(variants - 1));
    session.showVariant(static_cast<std::size_t>(o.variant));
    window.showView(QString::fromStdString(o.view));
    std::size_t mode = session.mode();
    if (const sipper::Mode* found = session.project().mode(o.mode))
        mode = static_cast<std::size_t>(found - session.project().modes.data());
    session.setMoment(o.charge >= 0 ? o.charge : session.charge(), mode);
    if (!o.trace.empty())
        session.traceWork().open(QString::fromStdString(o.trace), {});
    if (!o.select.empty())
        session.select(QString::fromStdString(o.select));
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
    if (!o.screenshot.empty())
        return picture(app, window, session, o);
    window.show();
    return QApplication::exec();
}
