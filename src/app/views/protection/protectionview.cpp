// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/protection/protectionview.hpp"

#include "line/unloaded.hpp"
#include "parts/chemistry.hpp"
#include "project/build.hpp"
#include "project/tree.hpp"
#include "protect/text.hpp"
#include "views/protection/currentscard.hpp"
#include "views/protection/dividercard.hpp"
#include "views/protection/faultcard.hpp"
#include "views/protection/guardcard.hpp"
#include "views/protection/reboundplot.hpp"
#include "views/protection/thresholdplot.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"
#include "widgets/viewtitle.hpp"

#include <QGraphicsOpacityEffect>
#include <QPushButton>
#include <QVBoxLayout>

namespace sipper::app {
namespace {

constexpr double kSideBySide = 720;      ///< px that two plots need beside each other
constexpr double kLowerSideBySide = 820; ///< px that schools and resistors need

} // namespace

ProtectionView::ProtectionView(Session& session, QWidget* parent)
    : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("protection"));
    const Theme& t = Theme::now();
    QWidget* page = scrollingPage(this, QStringLiteral("protection.scroll"));
    auto* column = newColumn(page, 8, Margins{16, 8, 16, 12});
    column->addLayout(viewTitle(this, tr("Protection"),
                                tr("what stops it in time, and what one fault would do")));
    column->addLayout(buildVerdict());
    m_complaint = complaintLabel(QStringLiteral("protection.complaint"), this);
    column->addWidget(m_complaint);
    column->addLayout(buildGuard(), 5);
    m_currents = new CurrentsCard(session, page);
    column->addWidget(m_currents);
    m_faults = new FaultCard(session, page);
    column->addWidget(m_faults, 5);
    m_card = new GuardCard(session, page);
    m_card->setMinimumHeight(t.ipx(176));
    m_dividers = new DividerCard(session, page);
    m_dividers->setMinimumWidth(t.ipx(370));
    m_lower = new QBoxLayout(QBoxLayout::LeftToRight);
    m_lower->setSpacing(t.ipx(8));
    m_lower->addWidget(m_card, 6);
    m_lower->addWidget(m_dividers, 5);
    column->addLayout(m_lower, 3);
    const auto refuse = [this](const QString& says) { complain(*m_complaint, says); };
    connect(m_currents, &CurrentsCard::refused, this, refuse);
    connect(m_faults, &FaultCard::refused, this, refuse);
    connect(m_dividers, &DividerCard::refused, this, refuse);
    connect(m_card, &GuardCard::refused, this, refuse);
    new Refresher(this, session, {&Session::projectChanged, &Session::resultsUpdated},
                  [this] { refresh(); });
}

bool ProtectionView::settle() {
    return m_faults->settle() && m_dividers->settle() && m_session.jobs().waitForIdle(kExpect);
}

void ProtectionView::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    const bool beside = width() >= Theme::now().ipx(kSideBySide);
    m_top->setDirection(beside ? QBoxLayout::LeftToRight : QBoxLayout::TopToBottom);
    const bool lower = width() >= Theme::now().ipx(kLowerSideBySide);
    m_lower->setDirection(lower ? QBoxLayout::LeftToRight : QBoxLayout::TopToBottom);
}

QLayout* ProtectionView::buildVerdict() {
    m_word = textLabel(this, {}, {.size = 24, .bold = true, .name = "protection.answer"});
    m_says = textLabel(this, {},
                       {.size = 13, .wrap = true, .ink = Role::muted, .name = "protection.says"});
    m_guards = choiceField(this, "protection.guard", tr("Guard"), tr("Which of the guards"));
    connect(m_guards, &QComboBox::activated, this, [this](int at) {
        m_guard = m_guards->itemData(at).toString().toStdString();
        showGuard();
    });
    m_addGuard = pushButton(this, "protection.addGuard", {});
    accentButton(*m_addGuard, true);
    connect(m_addGuard, &QPushButton::clicked, this, [this] {
        const Stage* pack = m_session.project().packStage();
        if (!pack)
            return;
        Stage fresh = freshStage(m_session.project(), Kind::guard, pack->id);
        if (const auto trouble = m_session.edit(
                tr("add a guard"), withStageBetween(m_session.project(), fresh, pack->id)))
            complain(*m_complaint, qs(trouble->message()));
    });
    auto* row = newRow(nullptr, 14);
    row->addWidget(m_word);
    row->addWidget(m_says, 1);
    row->addWidget(m_guards);
    row->addWidget(m_addGuard);
    return row;
}

QLayout* ProtectionView::buildGuard() {
    const Theme& t = Theme::now();
    m_top = new QBoxLayout(QBoxLayout::LeftToRight);
    m_top->setSpacing(t.ipx(8));
    const auto card = [&](const QString& name, const QString& title, QHBoxLayout*& head,
                          QVBoxLayout*& column) {
        auto* frame = newCard(this, name, title);
        column = newColumn(frame, 2, Margins{12, 8, 8, 6});
        head = new QHBoxLayout;
        auto* label = textLabel(frame, title, {.size = 13, .bold = true});
        head->addWidget(label);
        head->addStretch();
        head->addStrut(t.ipx(26)); // both heads as tall as the one with a button
        column->addLayout(head);
        m_top->addWidget(frame, 1);
        return frame;
    };
    const auto none = [&](QVBoxLayout& column, const QString& name) {
        auto* label = mutedLabel({}, this, 12);
        label->setObjectName(name);
        label->setWordWrap(true);
        label->setAlignment(Qt::AlignCenter);
        column.addWidget(label, 1);
        return label;
    };
    QHBoxLayout* head = nullptr;
    QVBoxLayout* column = nullptr;
    card(QStringLiteral("thresholdCard"), tr("Thresholds on the cells' own curve"), head, column);
    m_threshold = new ThresholdPlot(this);
    column->addWidget(m_threshold, 1);
    m_thresholdNone = none(*column, QStringLiteral("threshold.none"));
    card(QStringLiteral("reboundCard"), tr("After it opens: what the cells come back to"), head,
         column);
    m_play = pushButton(this, "rebound.play", tr("▸ play"),
                        tr("Walk through cut, climb, reconnect and the next cut"));
    head->addWidget(m_play);
    m_rebound = new ReboundPlot(this);
    column->addWidget(m_rebound, 1);
    m_reboundNone = none(*column, QStringLiteral("rebound.none"));
    m_reboundExpects = mutedLabel({}, this, 11.5);
    m_reboundExpects->setObjectName(QStringLiteral("rebound.expects"));
    m_reboundExpects->setWordWrap(true);
    column->addWidget(m_reboundExpects);
    connect(m_play, &QPushButton::clicked, this,
            [this] { m_rebound->play(!m_rebound->playing()); });
    connect(m_rebound, &ReboundPlot::playingChanged, this,
            [this](bool on) { m_play->setText(on ? tr("▪ stop") : tr("▸ play")); });
    connect(m_threshold, &ThresholdPlot::moved, this, &ProtectionView::moveThreshold);
    connect(m_threshold, &ThresholdPlot::released, this, [this] { m_session.endGesture(); });
    return m_top;
}

const GuardAnalysis* ProtectionView::guard() const {
    if (!m_look)
        return nullptr;
    for (const GuardAnalysis& g : m_look->guards)
        if (g.id == m_guard)
            return &g;
    return m_look->guards.empty() ? nullptr : &m_look->guards.front();
}

void ProtectionView::refresh() {
    m_look = m_session.results().protect;
    if (!m_look)
        return;
    const Project& p = m_session.project();
    const GuardAnalysis* now = guard();
    m_guard = now ? now->id : std::string();
    m_guards->clear();
    for (const GuardAnalysis& g : m_look->guards)
        m_guards->addItem(qs(nameAt(p, g.id)), qs(g.id));
    m_guards->setCurrentIndex(m_guards->findData(qs(m_guard)));
    m_guards->setVisible(m_look->guards.size() > 1);
    m_addGuard->setVisible(m_look->guards.empty() && p.pack() && canRecharge(p.pack()->cell));
    if (m_addGuard->isVisibleTo(this)) {
        const Stage fresh = freshStage(p, Kind::guard, p.packStage()->id);
        m_addGuard->setText(
            tr("Add a guard at %1")
                .arg(quantity(std::get<Guard>(fresh.part).cutoff.value(), Unit::volt)));
    }
    complain(*m_complaint, {});
    if (!now && p.pack())
        expectGuard();
    showGuard();
    m_currents->show(m_look);
    m_faults->show(m_look);
    m_dividers->show(m_look);
}

void ProtectionView::showGuard() {
    const Project& p = m_session.project();
    const GuardAnalysis* g = guard();
    const ProtectVerdict verdict =
        g && m_look->guards.size() > 1 ? guardVerdict(p, *g) : protectVerdict(p, *m_look);
    m_word->setText(qs(verdict.word));
    m_word->setStyleSheet(inkOf(verdict.bad ? Role::stop : Role::ink));
    m_says->setText(qs(verdict.says));
    const auto* curve = g ? &g->curve : m_look->pack.empty() ? nullptr : &m_look->pack;
    m_threshold->setVisible(curve != nullptr);
    m_thresholdNone->setVisible(curve == nullptr);
    m_thresholdNone->setText(tr("No cells: nothing is cut off here. What hangs on the mains is "
                                "protected by its fuse, below."));
    if (curve) {
        ThresholdPlot::Shown shown;
        shown.guard = g;
        shown.curve = curve;
        const Pack& pack = *p.pack();
        for (const CellCare care : {CellCare::squeeze, CellCare::balanced, CellCare::gentle})
            shown.policies[static_cast<std::size_t>(care)] =
                pack.series * policyCutoff(pack.cell.chemistry, care);
        shown.full = fullVolts(pack);
        shown.floor = damageVolts(pack);
        const std::size_t mode = modeIndex(p, g ? g->mode : std::string());
        shown.mode =
            mode != kNotFound && p.modes.size() > 1 ? qs(nameOf(p.modes[mode])) : QString();
        m_threshold->show(shown);
    }
    showRebound(!p.pack() ? tr("No cells: nothing comes back.") : qs(verdict.says));
    std::size_t at = 0;
    for (std::size_t i = 0; i < m_look->guards.size(); ++i)
        if (m_look->guards[i].id == m_guard)
            at = i;
    m_card->show(m_look, at);
}

/// After the cut of the guard that is there; without one of the usual one, faintly. `none`: what is
/// said where nothing opens.
void ProtectionView::showRebound(const QString& none) {
    const GuardAnalysis* g = guard();
    const bool expected = !g && m_expected && m_expectedOf == m_session.project();
    const GuardAnalysis* shown = expected ? m_expected.get() : g;
    const bool acts = shown && shown->usual.acts;
    m_rebound->setVisible(acts);
    m_play->setVisible(acts && !expected);
    m_reboundNone->setVisible(!acts);
    m_reboundNone->setText(none);
    m_reboundExpects->setVisible(acts && expected);
    if (acts && expected)
        m_reboundExpects->setText(
            tr("Faint: so they would come back after a guard at %1, the usual depth for these "
               "cells. There is none on the line.")
                .arg(quantity(shown->cutoff, Unit::volt)));
    constexpr double kFaint = 0.5;
    auto* effect = acts && expected ? new QGraphicsOpacityEffect(m_rebound) : nullptr;
    if (effect)
        effect->setOpacity(kFaint);
    m_rebound->setGraphicsEffect(effect);
    m_rebound->show(shown);
}

/// What the usual guard would do on this line, beside the window.
void ProtectionView::expectGuard() {
    if (m_expectedOf == m_session.project())
        return;
    m_session.jobs().runOnProject(
        kExpect, Jobs::Priority::shown,
        [this, project = std::make_shared<const Project>(m_session.project())](
            const std::stop_token& stop, const Jobs::Progress&) -> Jobs::Deliver {
            const std::string pack = project->packStage()->id;
            const Project with =
                withStageBetween(*project, freshStage(*project, Kind::guard, pack), pack);
            auto guards = guardsOf(with, predictRuntime(with), {});
            if (stop.stop_requested())
                return {};
            auto found =
                guards.empty() ? nullptr : std::make_shared<const GuardAnalysis>(guards.front());
            return [this, found, project] {
                m_expected = found;
                m_expectedOf = *project;
                if (m_look)
                    showGuard();
            };
        },
        this);
}

void ProtectionView::moveThreshold(bool reconnect, double volts) {
    Project after = m_session.project();
    Stage* stage = after.stage(m_guard);
    if (!stage)
        return;
    auto& part = std::get<Guard>(stage->part);
    (reconnect ? part.reconnect.emplace(volts) : part.cutoff) = Volts{volts};
    const QString name = reconnect ? tr("reconnect at %1") : tr("cut off at %1");
    if (const auto trouble = m_session.edit(
            name.arg(quantity(volts, Unit::volt)), std::move(after),
            QStringLiteral("threshold.%1.%2").arg(qs(m_guard)).arg(static_cast<int>(reconnect))))
        complain(*m_complaint, qs(trouble->message()));
}

} // namespace sipper::app
