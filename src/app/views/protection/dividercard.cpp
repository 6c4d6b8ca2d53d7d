// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/protection/dividercard.hpp"

#include "protect/dividers.hpp"
#include "views/protection/dividerdrawing.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/text.hpp"

#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

namespace sipper::app {
namespace {

constexpr std::size_t kBest = 5;

} // namespace

DividerCard::DividerCard(Session& session, QWidget* parent) : QFrame(parent), m_session(session) {
    makeCard(*this, QStringLiteral("dividerCard"), tr("The resistors that set it"));
    auto* column = newColumn(this, 4, Margins{12, 8, 12, 8});
    auto* head = new QHBoxLayout;
    m_places = choiceField(this, "divider.place", tr("What the divider sets"));
    m_places->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    connect(m_places, &QComboBox::activated, this, &DividerCard::choose);
    head->addWidget(m_places, 1);
    m_series = choiceField(this, "divider.series", tr("Series of resistors"),
                           tr("Values that resistors come in (IEC 60063)"));
    for (const char* series : {"E12", "E24", "E96"})
        m_series->addItem(QLatin1String(series));
    m_series->setCurrentIndex(1);
    connect(m_series, &QComboBox::activated, this, [this] { search(); });
    head->addWidget(m_series);
    column->addLayout(head);
    auto* ask = newRow(nullptr, 4);
    const auto add = [&](const QString& words, QuantityEdit* edit) {
        QLabel* label = mutedLabel(words, this, 11);
        label->setObjectName(QStringLiteral("divider.word"));
        ask->addWidget(label);
        ask->addWidget(edit);
    };
    m_reference = field("reference", "Reference",
                        "What the part compares the tap with; of a watch, "
                        "the input's full scale",
                        Unit::volt, 0.05, 50, &DividerCard::setReference);
    add(tr("at"), m_reference);
    m_draw = field("draw", "Draws at most", "What it may draw at the target", Unit::ampere, 1e-9, 1,
                   &DividerCard::setDraw);
    add(tr("draw"), m_draw);
    m_tap = field("tap", "Tap at most",
                  "What the tap may show: more picks up noise, and an input's leakage moves it",
                  Unit::ohm, 10, 1e7, &DividerCard::setTap);
    add(tr("tap"), m_tap);
    ask->addStretch();
    column->addLayout(ask);
    m_drawing = new DividerDrawing(this);
    column->addWidget(m_drawing);
    m_says = mutedLabel({}, this, 11);
    m_says->setObjectName(QStringLiteral("divider.says"));
    m_says->setWordWrap(true);
    column->addWidget(m_says);
    m_rows = newColumn(nullptr, 2);
    column->addLayout(m_rows);
    column->addStretch();
}

QuantityEdit* DividerCard::field(const char* name, const char* label, const char* help, Unit unit,
                                 double least, double most, void (DividerCard::*set)(double)) {
    auto* edit = quantityField(this, QStringLiteral("divider.%1").arg(QLatin1String(name)),
                               typedFacts(name, label, help, unit, least, most), 68);
    connect(edit, &QuantityEdit::committed, this, [this, set](std::optional<double> value) {
        if (value)
            (this->*set)(*value);
    });
    return edit;
}

void DividerCard::setReference(double volts) {
    m_ownReference = volts;
    search();
}
void DividerCard::setDraw(double amps) {
    m_ownDraw = amps;
    search();
}
void DividerCard::setTap(double ohms) {
    m_ownTap = ohms;
    search();
}

bool DividerCard::settle() {
    return m_session.jobs().waitForIdle(kSearch);
}

const DividerPlace* DividerCard::place() const {
    if (!m_look)
        return nullptr;
    for (const DividerPlace& p : m_look->dividers)
        if (p.id == m_id && p.use == m_use)
            return &p;
    return m_look->dividers.empty() ? nullptr : &m_look->dividers.front();
}

void DividerCard::show(const std::shared_ptr<const ProtectionAnalysis>& look) {
    m_look = look;
    m_places->clear();
    for (const DividerPlace& p : look->dividers)
        m_places->addItem(qs(p.says));
    const DividerPlace* now = place();
    for (QWidget* w :
         std::initializer_list<QWidget*>{m_places, m_series, m_reference, m_draw, m_tap, m_drawing})
        w->setVisible(now != nullptr);
    for (QLabel* label : findChildren<QLabel*>(QStringLiteral("divider.word")))
        label->setVisible(now != nullptr);
    if (!now) {
        m_says->setText(tr("Nothing on the line is set by resistors."));
        m_drawing->show({}, m_use, 0);
        clearLayout(*m_rows);
        return;
    }
    m_id = now->id;
    m_use = now->use;
    m_places->setCurrentIndex(static_cast<int>(now - look->dividers.data()));
    search();
}

void DividerCard::choose(int at) {
    const DividerPlace& p = m_look->dividers[static_cast<std::size_t>(at)];
    m_id = p.id;
    m_use = p.use;
    m_ownReference.reset();
    m_ownDraw.reset();
    m_ownTap.reset();
    search();
}

void DividerCard::search() {
    const DividerPlace* now = place();
    if (!now)
        return;
    DividerOptions ask = now->ask;
    ask.series = m_series->currentText().toStdString();
    ask.reference = m_ownReference.value_or(ask.reference);
    ask.drawsAtMost = m_ownDraw.value_or(ask.drawsAtMost);
    ask.tapOhmsAtMost = m_ownTap.value_or(ask.tapOhmsAtMost);
    m_reference->setValue(ask.reference);
    m_draw->setValue(ask.drawsAtMost);
    m_tap->setValue(ask.tapOhmsAtMost);
    m_session.jobs().runOnProject(
        kSearch, Jobs::Priority::shown,
        [this, ask](const std::stop_token&, const Jobs::Progress&) -> Jobs::Deliver {
            auto found = std::make_shared<const std::vector<Divider>>(dividersFor(ask, kBest));
            const QString why = found->empty() ? qs(whyNoDivider(ask)) : QString();
            return [this, found, why] { showFound(*found, why); };
        },
        this);
}

void DividerCard::showDivider(const Divider* divider) {
    const DividerPlace* now = place();
    if (now)
        m_drawing->show(divider ? std::optional(*divider) : std::nullopt, now->use,
                        m_ownReference.value_or(now->ask.reference));
}

void DividerCard::showFound(const std::vector<Divider>& found, const QString& why) {
    clearLayout(*m_rows);
    const DividerPlace* now = place();
    if (!now)
        return;
    showDivider(now->has ? &*now->has : found.empty() ? nullptr : &found.front());
    if (found.empty()) {
        m_says->setText(why.isEmpty() ? tr("No values of this series come near.")
                                      : tr("None: %1.").arg(why));
        return;
    }
    m_says->setText(now->has ? tr("Yours is drawn; band with 1 % parts and ±2 % reference. In its "
                                  "place:")
                             : tr("Band with 1 % parts and ±2 % reference. Click one to take it "
                                  "into the project:"));
    const std::vector<bool> good = undominated(found);
    for (std::size_t i = 0; i < found.size(); ++i) {
        const Divider& d = found[i];
        QString words =
            tr("%1 · %2").arg(quantity(d.upper, Unit::ohm), quantity(d.lower, Unit::ohm));
        if (d.feedback)
            words += tr(" · %1").arg(quantity(*d.feedback, Unit::ohm));
        const QString off = tr("%1%2 %")
                                .arg(d.error >= 0 ? QStringLiteral("+") : QStringLiteral("−"))
                                .arg(std::abs(d.error) * 100, 0, 'f', 2);
        const int digits = d.actual < 10 ? 3 : 2;
        words += d.givesUpper ? tr("   %1, back %2 V")
                                    .arg(d.actual, 0, 'f', digits)
                                    .arg(*d.givesUpper, 0, 'f', digits)
                              : tr("   %1 V   %2   %3")
                                    .arg(d.actual, 0, 'f', digits)
                                    .arg(off, quantity(d.draws, Unit::ampere));
        auto* b = pushButton(this, QStringLiteral("divider.take.%1").arg(i), words);
        b->setFont(Theme::now().font(11, good[i]));
        b->setToolTip(tr("Off by %1, draws %2. ").arg(off, quantity(d.draws, Unit::ampere)) +
                      (good[i] ? tr("None of the others is nearer and draws less.")
                               : tr("Another is as near and draws less.")));
        connect(b, &QPushButton::clicked, this, [this, d] { take(d); });
        m_rows->addWidget(b);
    }
}

void DividerCard::take(const Divider& d) {
    const DividerPlace* now = place();
    if (!now)
        return;
    DividerPlace at = *now;
    at.ask.reference = m_ownReference.value_or(at.ask.reference);
    if (const auto trouble = m_session.edit(
            tr("set by %1 over %2").arg(quantity(d.upper, Unit::ohm), quantity(d.lower, Unit::ohm)),
            withDivider(m_session.project(), at, d)))
        emit refused(qs(trouble->message()));
}

} // namespace sipper::app
