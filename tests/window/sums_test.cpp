// SPDX-License-Identifier: GPL-3.0-or-later
// The drawer of quick sums.
#include "driven.hpp"
#include "views/sums/sumsdrawer.hpp"

using namespace sipper;
using namespace sipper::app;

TEST_CASE("quick sums open by key, show their formula, and refuse with a reason", "[sums]") {
    Driven d;
    QTest::keyClick(&d.window, Qt::Key_K, Qt::ControlModifier);
    QApplication::processEvents();
    auto* drawer = d.find<SumsDrawer>("sums");
    REQUIRE(drawer->isVisible());
    CHECK(QApplication::focusWidget()->objectName() == "sums.bank.advertised");
    // What is on the screen is what the core answers, for every sum as it stands.
    auto* which = d.find<QComboBox>("sums.which");
    for (int i = 0; i < which->count(); ++i) {
        which->setCurrentIndex(i);
        const Calculator& sum = allCalculators()[static_cast<std::size_t>(i)];
        INFO(sum.name);
        std::map<std::string, std::string> arguments;
        for (const CalculatorField& f : sum.fields) {
            const QString name =
                QStringLiteral("sums.%1.%2")
                    .arg(
                        QString::fromUtf8(sum.name.data(), static_cast<qsizetype>(sum.name.size())),
                        QString::fromUtf8(f.key.data(), static_cast<qsizetype>(f.key.size())));
            auto* edit = d.find<QLineEdit>(name.toUtf8().constData());
            if (!edit->text().isEmpty())
                arguments[std::string(f.key)] = edit->text().toStdString();
        }
        const auto answer = runCalculator(sum.name, arguments);
        REQUIRE(answer);
        for (const CalculatorResult& r : answer.value())
            if (const auto* value = std::get_if<double>(&r.value);
                value && r.unit != Unit::fraction)
                CHECK(d.find<QLabel>(("sums.result." + r.key).c_str())->text().toStdString() ==
                      writeQuantity(*value, r.unit));
        CHECK_FALSE(d.find<QLabel>("sums.complaint")->isVisibleTo(&d.window));
    }
    which->setCurrentIndex(which->findData("life"));
    auto* current = d.find<QLineEdit>("sums.life.current");
    current->setText("0");
    CHECK_THAT(d.find<QLabel>("sums.complaint")->text().toStdString(),
               Catch::Contains("current") && Catch::Contains("more than 0"));
    current->setText("22 mA");
    CHECK(d.find<QLabel>("sums.result.h")->text().toStdString() == writeQuantity(100, Unit::hour));
    // What was typed is kept; Escape closes.
    which->setCurrentIndex(0);
    which->setCurrentIndex(which->findData("life"));
    CHECK(d.find<QLineEdit>("sums.life.current")->text() == "22 mA");
    d.find<QLineEdit>("sums.life.current")->setFocus();
    d.press(Qt::Key_Escape);
    CHECK_FALSE(drawer->isVisible());
}
