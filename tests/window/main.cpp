// The window's tests run in one real application, with settings of their own.
#define CATCH_CONFIG_RUNNER
#include "theme/theme.hpp"

#include <QApplication>
#include <QStandardPaths>
#include <catch2/catch.hpp>

int main(int argc, char** argv) {
    if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM"))
        qputenv("QT_QPA_PLATFORM", "offscreen");
    QStandardPaths::setTestModeEnabled(true);
    int qtArgc = 1;
    QApplication app(qtArgc, argv);
    QApplication::setOrganizationName("sipper-tests");
    QApplication::setApplicationName("sipper-tests");
    if (!sipper::app::loadFonts())
        return 3;
    sipper::app::Theme::use(false, 1.0);
    return Catch::Session().run(argc, argv);
}
