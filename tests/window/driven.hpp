// SPDX-License-Identifier: GPL-3.0-or-later
// A real window on an example, driven by keyboard and mouse.
#pragma once

#include "shell/advicepanel.hpp"
#include "shell/mainwindow.hpp"
#include "shell/steplist.hpp"
#include "shell/verdictstrip.hpp"
#include "support.hpp"
#include "theme/theme.hpp"
#include "views/loads/chargebar.hpp"
#include "views/loads/loadgrid.hpp"
#include "views/loads/loadprofileplot.hpp"
#include "views/loads/loadsview.hpp"
#include "views/loads/tracecard.hpp"
#include "views/loads/tracedialog.hpp"
#include "views/runtime/ledgerstream.hpp"
#include "views/supplyline/chargestrip.hpp"
#include "views/supplyline/linecanvas.hpp"
#include "widgets/madefordialog.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/quantityedit.hpp"

#include "parts/fields.hpp"
#include "project/edits.hpp"
#include "project/writer.hpp"
#include "quantity/write.hpp"

#include <QtTest>
#include <QtWidgets>
#include <qcustomplot.h>
#include <set>

namespace sipper::app {

struct Driven {
    Session session;
    MainWindow window{session};
    QTemporaryDir folder;

    /// Few builds make a range soon enough for what is not about the range.
    static constexpr int kFewBuilds = 40;
    explicit Driven(int builds = kFewBuilds) {
        session.setRangeBuilds(builds);
        window.askBeforeLosing = [this](const QString& about) {
            ++asked;
            question = about;
            return answer;
        };
        window.askWhereToSave = [this] { return where; };
        window.resize(1280, 800);
        REQUIRE(window.openExample("nest-box-listener"));
        window.show();
        session.waitForIdle();
        QApplication::processEvents();
    }
    template <class W = QWidget>
    W* find(const char* name) {
        // Two views may carry the same inspector: the one on show is meant.
        QApplication::processEvents(); // what was just made is shown by an event
        W* w = nullptr;
        for (W* one : window.findChildren<W*>(QString::fromLatin1(name)))
            if (const auto* widget = qobject_cast<QWidget*>(one);
                !w || (widget && widget->isVisibleTo(&window)))
                w = one;
        INFO(name);
        REQUIRE(w);
        return w;
    }
    void press(int key, Qt::KeyboardModifiers with = Qt::NoModifier) {
        QApplication::processEvents(); // what was just made is shown by an event
        QWidget* at = QApplication::focusWidget() ? QApplication::focusWidget() : &window;
        QTest::keyClick(at, static_cast<Qt::Key>(key), with);
    }
    void act(const char* name) { find<QAction>(name)->trigger(); }
    void type(QuantityEdit* edit, const char* text) {
        edit->setFocus();
        edit->selectAll();
        QTest::keyClicks(edit, text);
        QTest::keyClick(edit, Qt::Key_Return);
    }
    double figure(const char* stage, const char* key) {
        return sipper::test::figureOf(session.project().stage(stage)->part, key);
    }
    /// The same file through the command line's path: the core on a freshly loaded copy.
    Runtime fresh() {
        const QString path = folder.filePath("fresh.sipper");
        REQUIRE_FALSE(saveProject(path.toStdString(), session.project()));
        return predictRuntime(sipper::test::load(path.toStdString()));
    }

    MainWindow::Answer answer = MainWindow::Answer::cancel;
    int asked = 0;
    QString question;
    QString where;
};

} // namespace sipper::app
