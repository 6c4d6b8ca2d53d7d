// SPDX-License-Identifier: GPL-3.0-or-later
// The window of somebody who has just started it.
#pragma once

#include "driven.hpp"
#include "views/start/startpage.hpp"

namespace sipper::app {

/// A window as it is when nothing was opened yet.
struct Fresh {
    Session session;
    MainWindow window{session};
    QTemporaryDir folder;
    int keys = 0;

    Fresh() {
        window.askBeforeLosing = [](const QString&) { return MainWindow::Answer::discard; };
        window.askWhereToSave = [this] { return folder.filePath(QStringLiteral("mine.sipper")); };
        window.resize(1280, 800);
        window.showView(QString::fromLatin1(kStartPage));
        window.show();
        QApplication::setActiveWindow(&window);
        QApplication::processEvents();
        QTest::qWait(10);
    }
    template <class W = QWidget>
    W* find(const char* name) {
        QApplication::processEvents();
        auto* w = window.findChild<W*>(QString::fromLatin1(name));
        INFO(name);
        REQUIRE(w);
        return w;
    }
    void key(int k, Qt::KeyboardModifiers with = Qt::NoModifier) {
        QApplication::processEvents();
        QWidget* at = QApplication::focusWidget() ? QApplication::focusWidget() : &window;
        QTest::keyClick(at, static_cast<Qt::Key>(k), with);
        ++keys;
    }
    void type(const char* text) {
        for (const char* c = text; *c; ++c) {
            QApplication::processEvents();
            QTest::keyClick(QApplication::focusWidget(), *c);
            ++keys;
        }
    }
    void settle() {
        find<StartPage>("start")->waitForIdle();
        session.waitForIdle();
        QApplication::processEvents();
    }
};

} // namespace sipper::app
