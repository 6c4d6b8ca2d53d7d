// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/bench/supplybox.hpp"

#include "project/tree.hpp"
#include "views/bench/instrumentplace.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/text.hpp"

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

namespace sipper::app {
namespace {

constexpr int kSupplyPoll = 200;       ///< ms between two looks at what it gives
constexpr double kSupplyVolts = 60;    ///< what a bench supply gives
constexpr double kSupplyAmps = 10;     ///< likewise
constexpr double kSupplySagged = 0.98; ///< of the set volts: under it, it holds the amps
constexpr int kSupplyField = 66;       ///< px

} // namespace

SupplyBox::SupplyBox(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    build();
    connect(m_place, &InstrumentPlace::opened, this, [this] {
        m_place->link().put(QStringLiteral("OUTP OFF"));
        m_on = false;
        showWhat();
    });
    connect(m_place, &InstrumentPlace::leaving, this, [this] { switchTo(false); });
    connect(m_place, &InstrumentPlace::gone, this, [this] {
        if (m_on)
            emit refused(tr("The bench supply no longer answers, and may still be on: switch it "
                            "off by hand."));
        m_on = false;
        m_clock.stop();
        showWhat();
    });
    m_clock.setInterval(kSupplyPoll);
    m_clock.setSingleShot(true);
    connect(&m_clock, &QTimer::timeout, this, &SupplyBox::poll);
    showWhat();
}

SupplyBox::~SupplyBox() {
    if (m_on)
        m_place->link().put(QStringLiteral("OUTP OFF"));
    m_place->link().close();
}

void SupplyBox::build() {
    const Theme& t = Theme::now();
    auto* column = newColumn(this, 4, Margins{});
    m_place = new InstrumentPlace(tr("Supply"), "supply", this);
    column->addWidget(m_place);
    m_row = new QWidget(this);
    auto* inside = newColumn(m_row, 4, Margins{});
    const auto field = [&](const char* key, const QString& help, Unit unit, double most) {
        auto* edit =
            quantityField(m_row, QStringLiteral("supply.") + QLatin1String(key),
                          typedFacts(key, "Setting", help.toStdString().c_str(), unit, 0, most));
        edit->setFixedWidth(t.ipx(kSupplyField));
        return edit;
    };
    m_volts = field("volts", tr("What it gives in the cells' place"), Unit::volt, kSupplyVolts);
    m_limit = field("limit", tr("What it gives at the most: it then holds the amps"), Unit::ampere,
                    kSupplyAmps);
    auto* setting = newRow(nullptr, 6);
    setting->addWidget(m_volts);
    setting->addWidget(mutedLabel(tr("at most"), m_row, 12));
    setting->addWidget(m_limit);
    m_mode = choiceField(m_row, "supply.mode", tr("What the simulated line does"),
                         tr("What the simulated line does; it follows the marked check"));
    m_mode->setMinimumWidth(t.ipx(40));
    m_mode->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    setting->addWidget(m_mode, 1);
    inside->addLayout(setting);
    auto* keys = newRow(nullptr, 6);
    m_switch = pushButton(m_row, "supply.switch", {});
    keys->addWidget(m_switch);
    m_take = pushButton(m_row, "supply.take", tr("Take it down"),
                        tr("Its figure goes into the marked check, where that is at the cells"));
    keys->addWidget(m_take);
    keys->addStretch();
    inside->addLayout(keys);
    m_says = mutedLabel({}, m_row, 11.5);
    m_says->setObjectName(QStringLiteral("supply.says"));
    m_says->setWordWrap(true);
    inside->addWidget(m_says);
    column->addWidget(m_row);
    connect(m_volts, &QuantityEdit::committed, this, [this](std::optional<double> v) {
        if (!v || !bears(*v)) {
            m_volts->setValue(m_set);
            return;
        }
        emit refused({});
        m_typed = true;
        m_set = *v;
        send();
    });
    connect(m_limit, &QuantityEdit::committed, this, [this](std::optional<double> v) {
        if (!v) {
            m_limit->setValue(m_most);
            return;
        }
        m_typed = true;
        m_most = *v;
        send();
    });
    connect(m_mode, &QComboBox::activated, this, [this] { sendMode(); });
    connect(m_switch, &QPushButton::clicked, this, [this] { switchTo(!m_on); });
    connect(m_take, &QPushButton::clicked, this, [this] { emit taken(m_draws); });
}

void SupplyBox::expect(const BenchAnalysis& look) {
    const Project& p = m_session.project();
    const QString chosen = m_mode->currentData().toString();
    m_mode->clear();
    for (const Mode& mode : p.modes)
        m_mode->addItem(qs(mode.label.empty() ? mode.id : mode.label), qs(mode.id));
    m_mode->setCurrentIndex(std::max(0, m_mode->findData(chosen)));
    // The line was changed under a supply that is on.
    if (m_on && !bears(m_set))
        switchTo(false);
    const auto usual = benchSupplyFor(p, look);
    if (!usual || m_typed || m_on)
        return;
    m_set = usual->volts;
    m_most = usual->amps;
    m_volts->setValue(m_set);
    m_limit->setValue(m_most);
}

void SupplyBox::follow(const std::string& mode) {
    const int at = m_mode->findData(qs(mode));
    if (mode.empty() || at < 0 || at == m_mode->currentIndex())
        return;
    m_mode->setCurrentIndex(at);
    sendMode();
}

void SupplyBox::showWhat() {
    const bool there = m_place->link().isOpen();
    m_row->setVisible(there);
    // Only the stand-in is told what the device does: at a real one a person does that.
    m_mode->setVisible(there && m_place->link().identity().contains(QLatin1String("simulated")));
    m_switch->setText(m_on ? tr("Switch off") : tr("Switch on"));
    accentButton(*m_switch, !m_on);
    m_take->setEnabled(m_on);
    if (m_on)
        return;
    m_place->say({});
    m_says->setText(tr("In the cells' place, with the cells taken out. Set it and its limit first, "
                       "then connect, then switch on."));
}

bool SupplyBox::bears(double volts) {
    const auto killed = firstDamagedBy(m_session.project(), volts);
    if (!killed)
        return true;
    emit refused(tr("%1 bears %2 at the most: %3 would damage it. The supply stays as it was.")
                     .arg(qs(nameAt(m_session.project(), killed->id)),
                          quantity(killed->limit, Unit::volt), quantity(volts, Unit::volt)));
    return false;
}

void SupplyBox::switchTo(bool on) {
    if (!m_place->link().isOpen() || on == m_on)
        return;
    if (on && !bears(m_set))
        return;
    if (on && (m_set <= 0 || m_most <= 0)) {
        emit refused(tr("Set the supply's volts and its limit first."));
        return;
    }
    emit refused({});
    m_on = on;
    if (on) {
        send();
        sendMode();
        m_place->link().put(QStringLiteral("OUTP ON"));
        poll();
    } else {
        m_clock.stop();
        m_place->link().put(QStringLiteral("OUTP OFF"));
    }
    showWhat();
}

void SupplyBox::send() {
    m_place->link().put(
        QStringLiteral("VOLT %1;:CURR %2").arg(m_set, 0, 'g', 8).arg(m_most, 0, 'g', 8));
}

void SupplyBox::sendMode() {
    if (m_place->link().identity().contains(QLatin1String("simulated")))
        m_place->link().put(QStringLiteral("SYST:MODE %1").arg(m_mode->currentData().toString()));
}

void SupplyBox::poll() {
    m_place->link().ask(QStringLiteral("MEAS:VOLT?;:MEAS:CURR?"), [this](const QString& text) {
        if (!m_on)
            return;
        const QStringList parts = text.split(';');
        bool volts = parts.size() == 2;
        bool amps = volts;
        const double v = volts ? parts[0].toDouble(&volts) : 0;
        const double a = amps ? parts[1].toDouble(&amps) : 0;
        if (!volts || !amps || !std::isfinite(v) || !std::isfinite(a)) {
            switchTo(false);
            emit refused(tr("The supply said “%1”, which is no answer: it was switched off.")
                             .arg(text.left(40)));
            return;
        }
        show(v, a);
        m_clock.start();
    });
}

void SupplyBox::show(double volts, double amps) {
    m_draws = amps;
    // What holds its amps has let its volts fall; a line that then stops takes nothing.
    const bool held = volts < kSupplySagged * m_set;
    m_place->say(tr("gives %1, %2").arg(quantity(volts, Unit::volt), quantity(amps, Unit::ampere)));
    m_says->setText(held ? tr("At its limit of %1: the line wants more, or something is shorted. "
                              "Switch it off before you touch anything.")
                               .arg(quantity(m_most, Unit::ampere))
                         : tr("It holds its volts."));
}

} // namespace sipper::app
