// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/bench/instrumentcard.hpp"

#include "instruments/instruments.hpp"
#include "line/sources.hpp"
#include "measure/plantedfault.hpp"
#include "views/bench/instrumentplace.hpp"
#include "views/bench/standin.hpp"
#include "views/bench/supplybox.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/text.hpp"

#include <QDateTime>
#include <QDir>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QRandomGenerator>
#include <QStandardPaths>
#include <QVBoxLayout>
#include <array>
#include <qcustomplot.h>

namespace sipper::app {
namespace {

constexpr int kBetween = 50;      ///< ms between two samples
constexpr double kPlotTall = 110; ///< px
constexpr double kHourSeconds = 3600;
constexpr int kMeterDigits = 5; ///< that are taken of what a meter sends

/// As wide as a meter shows it, not as the line sends it.
double tidyReading(double value) {
    return QString::number(value, 'g', kMeterDigits).toDouble();
}

QuantityEdit* numberField(const char* key, Unit unit, double low, double high, double value,
                          QWidget* parent) {
    auto* edit = quantityField(
        parent, QStringLiteral("discharge.") + QLatin1String(key),
        typedFacts(key, "Setting", "What the electronic load is set to", unit, low, high), 66);
    edit->setValue(value);
    return edit;
}

} // namespace

InstrumentCard::InstrumentCard(Session& session, QWidget* parent)
    : QFrame(parent), m_session(session), m_standIn(new StandIn(this)) {
    makeCard(*this, QStringLiteral("instrumentCard"), tr("On the bench"));
    const Theme& t = Theme::now();
    auto* column = newColumn(this, 5, Margins{12, 8, 12, 10});
    auto* title = textLabel(this, tr("On the bench"), {.size = 13, .bold = true});
    column->addWidget(title);
    buildPractice(*column);
    m_meter = new InstrumentPlace(tr("Meter"), "meter", this);
    column->addWidget(m_meter);
    m_supply = new SupplyBox(session, this);
    column->addWidget(m_supply);
    connect(m_supply, &SupplyBox::refused, this, &InstrumentCard::refused);
    m_load = new InstrumentPlace(tr("Load"), "load", this);
    column->addWidget(m_load);
    connect(m_load, &InstrumentPlace::leaving, this, [this] { stop(tr("Stopped.")); });
    connect(m_load, &InstrumentPlace::gone, this,
            [this] { stop(tr("The load is gone: what was logged is kept.")); });
    buildRun(*column);
    m_plot = new QCustomPlot(this);
    m_plot->setObjectName(QStringLiteral("discharge.plot"));
    m_plot->setFixedHeight(t.ipx(kPlotTall));
    m_plot->setAccessibleName(tr("Volts of the run so far"));
    m_plot->addGraph();
    m_plot->hide();
    column->addWidget(m_plot);
    column->addStretch();
    m_clock.setInterval(kBetween);
    m_clock.setSingleShot(true);
    connect(&m_clock, &QTimer::timeout, this, &InstrumentCard::sample);
}

/// A stand-in of the open variant, begun and ended here: nothing to be started by hand.
void InstrumentCard::buildPractice(QVBoxLayout& column) {
    auto* row = newRow(nullptr, 6);
    m_practise = pushButton(this, "practise", tr("Practise on a stand-in"),
                            tr("Meter, load and supply that behave like this variant, played by "
                               "the computer"));
    auto* menu = new QMenu(m_practise);
    menu->setObjectName(QStringLiteral("practise.menu"));
    const auto action = [&](const char* name, const QString& text, auto then) {
        QAction* a = menu->addAction(text);
        a->setObjectName(QLatin1String(name));
        connect(a, &QAction::triggered, this, then);
    };
    action("practise.right", tr("As it is drawn"), [this] { practise(false); });
    action("practise.fault", tr("With a fault I have to find"), [this] { practise(true); });
    action("practise.tell", tr("Tell me the fault"), [this] {
        m_told = true;
        showPractice();
    });
    action("practise.end", tr("End the practice"), [this] { endPractice(); });
    connect(menu, &QMenu::aboutToShow, this, [this, menu] {
        const bool on = m_standIn->running();
        menu->findChild<QAction*>(QStringLiteral("practise.end"))->setVisible(on);
        menu->findChild<QAction*>(QStringLiteral("practise.tell"))
            ->setVisible(on && m_standIn->fault() && !m_told);
    });
    m_practise->setMenu(menu);
    row->addWidget(m_practise);
    row->addStretch();
    column.addLayout(row);
    m_practiceSays = mutedLabel({}, this, 11.5);
    m_practiceSays->setObjectName(QStringLiteral("practise.says"));
    m_practiceSays->setWordWrap(true);
    column.addWidget(m_practiceSays);
    connect(m_standIn, &StandIn::ready, this, [this](int meter, int load, int supply) {
        m_meter->connectTo(QString::number(meter));
        m_load->connectTo(QString::number(load));
        m_supply->place().connectTo(QString::number(supply));
        showPractice();
    });
    connect(m_standIn, &StandIn::failed, this, [this](const QString& why) {
        showPractice();
        emit refused(why);
    });
    showPractice();
}

bool InstrumentCard::practising() const {
    return m_standIn->running();
}

void InstrumentCard::practise(bool faulty) {
    const Project& p = m_session.project();
    if (!p.pack() && externalSources(p).empty()) {
        emit refused(tr("This variant has no source yet: there is nothing to play."));
        return;
    }
    std::optional<PlantedFault> fault;
    if (faulty) {
        const std::vector<PlantedFault> list = noticeableFaults(p);
        if (list.empty()) {
            emit refused(tr("No single fault of this line would be seen by its checks."));
            return;
        }
        fault = list[QRandomGenerator::global()->bounded(static_cast<quint32>(list.size()))];
    }
    m_told = false;
    emit refused({});
    m_standIn->start(p, fault);
    showPractice();
}

void InstrumentCard::endPractice() {
    for (InstrumentPlace* place : {m_meter, m_load, &m_supply->place()})
        place->leave();
    m_standIn->stop();
    showPractice();
}

void InstrumentCard::showPractice() {
    const bool on = m_standIn->running();
    const auto& fault = m_standIn->fault();
    m_practiceSays->setText(
        !on      ? tr("Nothing connected. The stand-in puts its probe where the marked check wants "
                           "it: F9 walks down the list.")
        : !fault ? tr("Practice: meter, load and supply play “%1” as it was when they began. "
                      "Nothing here is real.")
                       .arg(qs(m_session.project().name))
        : m_told
            ? tr("Practice. The fault: %1.").arg(qs(faultSentence(m_session.project(), *fault)))
            : tr("Practice with one fault in it. Read the checks and find it; the menu tells."));
}

InstrumentCard::~InstrumentCard() {
    if (m_running && m_load->link().isOpen())
        m_load->link().put(QStringLiteral("INP OFF"));
    m_load->link().close();
}

void InstrumentCard::buildRun(QVBoxLayout& column) {
    auto* row = newRow(nullptr, 6);
    m_function = choiceField(this, "discharge.function", tr("What is held"));
    m_function->addItems({tr("power"), tr("current"), tr("resistance")});
    row->addWidget(m_function);
    m_watts = numberField("watts", Unit::watt, 0, 300, 12, this);
    m_amps = numberField("amps", Unit::ampere, 0, 30, 1, this);
    m_ohms = numberField("ohms", Unit::ohm, 0.05, 1e4, 10, this);
    for (QuantityEdit* edit : {m_watts, m_amps, m_ohms}) {
        row->addWidget(edit);
        connect(edit, &QuantityEdit::committed, this, [this](std::optional<double> v) {
            if (v)
                m_value = *v;
        });
    }
    row->addWidget(mutedLabel(tr("to"), this, 12));
    m_cut = numberField("cut", Unit::volt, 0, 150, m_cutVolts, this);
    connect(m_cut, &QuantityEdit::committed, this, [this](std::optional<double> v) {
        if (v)
            m_cutVolts = *v;
    });
    row->addWidget(m_cut);
    row->addStretch();
    column.addLayout(row);
    auto* foot = newRow(nullptr, 8);
    m_start = pushButton(this, "discharge.start", tr("Run down"));
    accentButton(*m_start, true);
    connect(m_start, &QPushButton::clicked, this,
            [this] { m_running ? stop(tr("Stopped.")) : start(); });
    foot->addWidget(m_start);
    m_says = mutedLabel({}, this, 11.5);
    m_says->setObjectName(QStringLiteral("discharge.says"));
    m_says->setWordWrap(true);
    m_says->setText(
        tr("sipper-instruments plays all three, as fast as you like. Stay with it: never run "
           "lithium down or charge it unattended."));
    foot->addWidget(m_says, 1);
    column.addLayout(foot);
    connect(m_function, &QComboBox::activated, this, [this] { setWhat(); });
    setWhat();
}

void InstrumentCard::setWhat() {
    const std::array edits{m_watts, m_amps, m_ohms};
    const std::array usual{12.0, 1.0, 10.0};
    const int at = m_function->currentIndex();
    for (int i = 0; i < 3; ++i)
        edits[static_cast<std::size_t>(i)]->setVisible(i == at);
    m_value = usual[static_cast<std::size_t>(at)];
    edits[static_cast<std::size_t>(at)]->setValue(m_value);
}

void InstrumentCard::readMeter(const BenchCheck& check) {
    if (!m_meter->link().isOpen()) {
        emit refused(tr("No meter is connected: give its address under “On the bench”."));
        return;
    }
    const Unit unit = unitRead(check.kind, check.quantity);
    if (unit == Unit::celsius && !m_meter->simulated()) {
        emit refused(tr("The meter reads volts and amps; type the temperature."));
        return;
    }
    if (m_meter->simulated())
        m_meter->link().put(qs(probeOrder(check)));
    m_meter->link().ask(
        unit == Unit::celsius  ? QStringLiteral("MEAS:TEMP?")
        : unit == Unit::ampere ? QStringLiteral("MEAS:CURR?")
                               : QStringLiteral("MEAS:VOLT?"),
        [this](const QString& text) {
            bool number = false;
            const double value = text.toDouble(&number);
            if (number && std::isfinite(value))
                emit measured(tidyReading(value));
            else
                emit refused(tr("The meter said “%1”, which is no figure.").arg(text.left(40)));
        });
}

void InstrumentCard::start() {
    if (!m_load->link().isOpen()) {
        emit refused(tr("No electronic load is connected: give its address under “On the bench”."));
        return;
    }
    const QDir folder(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) +
                      QStringLiteral("/logs"));
    folder.mkpath(QStringLiteral("."));
    m_path = folder.filePath(QDateTime::currentDateTime().toString(
        QStringLiteral("'discharge'-yyyy-MM-dd-HHmmsszzz'.csv'")));
    m_log.setFileName(m_path);
    if (!m_log.open(QIODevice::WriteOnly | QIODevice::Text)) {
        emit refused(tr("%1 can't be written: %2").arg(m_path, m_log.errorString()));
        return;
    }
    m_log.write("time (s),voltage (V),current (A)\n");
    m_log.flush();
    emit refused({});
    m_rows = 0;
    m_last = false;
    m_running = true;
    m_plot->graph(0)->data()->clear();
    m_plot->show();
    m_start->setText(tr("Stop"));
    static constexpr std::array words{"POW", "CURR", "RES"};
    const char* word = words[static_cast<std::size_t>(m_function->currentIndex())];
    m_load->link().put(QStringLiteral("*RST;:FUNC %1;:%1 %2;:INP:CUT %3;:INP:CLE")
                           .arg(QLatin1String(word))
                           .arg(m_value, 0, 'g', 8)
                           .arg(m_cutVolts, 0, 'g', 8));
    // One row at rest, for what the cells stand at before.
    m_load->link().ask(QStringLiteral("MEAS:ALL?"), [this](const QString& text) {
        takeSample(text);
        if (!m_running)
            return;
        m_load->link().put(QStringLiteral("INP ON"));
        m_clock.start();
    });
}

void InstrumentCard::sample() {
    if (!m_running)
        return;
    m_load->link().ask(QStringLiteral("INP?;:MEAS:ALL?"), [this](const QString& text) {
        const qsizetype cut = text.indexOf(';');
        m_last = cut > 0 && text.left(cut) == QLatin1String("0");
        takeSample(text.mid(cut + 1));
        if (m_running && m_last)
            stop(tr("Down to the cut-off."));
        else if (m_running)
            m_clock.start();
    });
}

void InstrumentCard::takeSample(const QString& text) {
    const QStringList parts = text.split(',');
    std::array<double, 6> values{};
    bool good = parts.size() == 6;
    for (int i = 0; good && i < 6; ++i)
        values[static_cast<std::size_t>(i)] = parts[i].toDouble(&good);
    if (!good) {
        stop(tr("The load said “%1”, which is no answer: what was logged is kept.")
                 .arg(text.left(40)));
        return;
    }
    const auto [s, v, a, w, ah, wh] = values;
    // The load counts its seconds on: the row at rest before, and the one after, stand beside them.
    const double time = m_rows == 0 ? -1 : m_last ? s + 1 : s;
    m_log.write(QStringLiteral("%1,%2,%3\n")
                    .arg(time, 0, 'f', 3)
                    .arg(v, 0, 'g', 8)
                    .arg(a, 0, 'g', 8)
                    .toUtf8());
    m_log.flush();
    ++m_rows;
    m_plot->graph(0)->setPen(QPen(colour(Role::copper), Theme::now().px(1.6)));
    m_plot->graph(0)->addData(std::max(0.0, s) / kHourSeconds, v);
    m_plot->rescaleAxes();
    m_plot->replot(QCustomPlot::rpQueuedReplot);
    m_says->setText(tr("%1, %2, %3 and %4 so far.")
                        .arg(hours(s / kHourSeconds), quantity(v, Unit::volt),
                             quantity(ah, Unit::ampereHour), quantity(wh, Unit::wattHour)));
    static_cast<void>(w);
}

void InstrumentCard::stop(const QString& why) {
    if (!m_running)
        return;
    m_running = false;
    m_clock.stop();
    if (m_load->link().isOpen())
        m_load->link().put(QStringLiteral("INP OFF"));
    m_log.close();
    m_start->setText(tr("Run down"));
    m_says->setText(tr("%1 %2 The log is %3.").arg(why, m_says->text(), m_path));
    if (m_rows >= 3)
        emit finished(m_path);
}

} // namespace sipper::app
