// SPDX-License-Identifier: GPL-3.0-or-later
// The window's tests run in one real application, with settings of their own.
#include "runner.hpp"
#include "session/session.hpp"
#include "theme/theme.hpp"

#include <QApplication>
#include <QSettings>
#include <QStandardPaths>
#include <QTemporaryDir>

int main(int argc, char** argv) {
    if (qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM"))
        qputenv("QT_QPA_PLATFORM", "offscreen");
    QStandardPaths::setTestModeEnabled(true);
    // Settings and state of this process alone: tests run side by side.
    const QTemporaryDir own;
    qputenv("XDG_CONFIG_HOME", own.path().toUtf8());
    qputenv("XDG_STATE_HOME", own.path().toUtf8() + "/state");
    qputenv("XDG_DATA_HOME", own.path().toUtf8() + "/data");
    QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope, own.path());
    int qtArgc = 1;
    QApplication app(qtArgc, argv);
    QApplication::setOrganizationName("sipper-tests");
    QApplication::setApplicationName("sipper-tests");
    if (!sipper::app::loadFonts())
        return 3;
    sipper::app::Theme::use(false, 1.0);
    // What an edit shows at once is waited for, however busy the machine is; late_test has its own.
    sipper::app::Session::setPatience(std::chrono::seconds(20));
    return runTests(argc, argv);
}
