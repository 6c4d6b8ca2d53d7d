// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/charging/chargingview.hpp"

#include "charge/text.hpp"
#include "parts/kinds.hpp"
#include "project/library.hpp"
#include "project/tree.hpp"
#include "theme/theme.hpp"
#include "views/charging/chargeplot.hpp"
#include "views/charging/choicescard.hpp"
#include "views/charging/fillcard.hpp"
#include "views/charging/ladder.hpp"
#include "views/charging/sunpage.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"
#include "widgets/viewtitle.hpp"

#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace sipper::app {
namespace {

constexpr std::size_t kLadders = 100; ///< moments at which the marker knows every limit
constexpr int kShared = 4;            ///< chargers that may hang on one supply
constexpr double kSideBySide = 720;   ///< px that two cards need beside each other
constexpr double kFirstMarker = 0.3;  ///< share of the charge where the marker first stands

/// Sockets and adapters of the library, by volts.
std::vector<Stage> librarySources() {
    std::vector<Stage> stages;
    for (const LibraryPart& part : loadLibrary(Session::partsFolder().toStdString()).parts)
        if (std::holds_alternative<Usb>(part.stage.part) ||
            std::holds_alternative<Adapter>(part.stage.part))
            stages.push_back(part.stage);
    std::stable_sort(stages.begin(), stages.end(), [](const Stage& a, const Stage& b) {
        const SourceModel one = sourceModel(a.part);
        const SourceModel two = sourceModel(b.part);
        return std::pair(one.volts, one.limit) < std::pair(two.volts, two.limit);
    });
    return stages;
}

} // namespace

ChargingView::ChargingView(Session& session, QWidget* parent)
    : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("charging"));
    const Theme& t = Theme::now();
    QWidget* page = scrollingPage(this, QStringLiteral("charging.scroll"));
    auto* column = newColumn(page, 8, Margins{16, 8, 16, 12});
    auto* title = viewTitle(this, tr("Charging"), {});
    m_about = qobject_cast<QLabel*>(title->itemAt(1)->widget());
    column->addLayout(title);
    column->addLayout(buildVerdict());
    m_fill = new FillCard(session, page);
    column->addWidget(m_fill, 1);
    connect(m_fill, &FillCard::answered, this,
            [this](const QString& word, const QString& says) { say(word, says, false); });
    m_body = new QWidget(page);
    column->addWidget(m_body, 1);
    column->addStretch();
    auto* body = newColumn(m_body, 8, Margins{});
    body->addLayout(buildChoices());
    m_complaint = complaintLabel(QStringLiteral("charging.complaint"), this);
    body->addWidget(m_complaint);
    m_sun = new SunPage(session, m_body);
    body->addWidget(m_sun, 1);
    m_askLayout->insertWidget(m_askLayout->indexOf(m_chargers) + 1, m_sun->controls(), 1);
    connect(m_sun, &SunPage::answered, this, &ChargingView::say);
    m_held = new QWidget(m_body);
    body->addWidget(m_held, 1);
    auto* held = newColumn(m_held, 8, Margins{});
    auto* frame = newCard(m_held, "chargeCard", tr("The charge"));
    auto* inside = newColumn(frame, {}, Margins{8, 6, 8, 4});
    m_plot = new ChargePlot(frame);
    inside->addWidget(m_plot);
    held->addWidget(frame, 6);
    m_beside = new QBoxLayout(QBoxLayout::LeftToRight);
    m_beside->setSpacing(t.ipx(8));
    m_ladder = new LadderCard(m_held);
    m_choices = new ChoicesCard(session, m_held);
    m_choices->setMinimumHeight(m_ladder->minimumHeight());
    m_beside->addWidget(m_ladder, 1);
    m_beside->addWidget(m_choices, 1);
    held->addLayout(m_beside, 5);
    connect(m_plot, &ChargePlot::markerMoved, this, [this](double hours) {
        m_fresh = false;
        showLadder(hours);
    });
    connect(m_choices, &ChoicesCard::refused, this,
            [this](const QString& says) { complain(*m_complaint, says); });
    connect(m_fill, &FillCard::refused, this,
            [this](const QString& says) { say(tr("No charger"), says, true); });
    new Refresher(this, session, {&Session::projectChanged}, [this] { refresh(); });
}

bool ChargingView::settle() {
    if (m_fill->isVisibleTo(this))
        return m_fill->settle();
    if (m_sun->isVisibleTo(this))
        return m_sun->settle();
    return m_session.jobs().waitForIdle(kCharge) && m_session.jobs().waitForIdle(kChoices);
}

/// Where there is no room side by side the two lower cards stand one over the other.
void ChargingView::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    m_beside->setDirection(width() < Theme::now().ipx(kSideBySide) ? QBoxLayout::TopToBottom
                                                                   : QBoxLayout::LeftToRight);
}

QLayout* ChargingView::buildVerdict() {
    m_lead = textLabel(this, {}, {.size = 24, .bold = true, .name = "charging.answer"});
    m_why = textLabel(this, {}, {.size = 13, .wrap = true, .name = "charging.why"});
    auto* row = newRow(nullptr, 14);
    row->addWidget(m_lead);
    row->addWidget(m_why, 1);
    return row;
}

QLayout* ChargingView::buildChoices() {
    const Theme& t = Theme::now();
    auto* row = new QHBoxLayout;
    m_askLayout = row;
    row->setSpacing(t.ipx(8));
    m_sources = newRow(nullptr, 6);
    row->addLayout(m_sources);
    m_chargers = choiceField(this, "charging.charger", tr("Charger"), tr("Which of the chargers"));
    connect(m_chargers, &QComboBox::activated, this, [this](int at) {
        m_charger = m_chargers->itemData(at).toString().toStdString();
        m_source.clear();
        refresh();
    });
    row->addWidget(m_chargers);
    row->addStretch();
    const auto label = [&](const QString& text) {
        m_askRow << mutedLabel(text, this, 12);
        row->addWidget(m_askRow.back());
    };
    label(tr("from"));
    m_from =
        quantityField(this, "charging.from",
                      typedFacts("from", "From", "Charge at the start", Unit::percent, 0, 1), 62);
    connect(m_from, &QuantityEdit::committed, this, [this](std::optional<double> share) {
        m_fromShare = share.value_or(0.1);
        refresh();
    });
    row->addWidget(m_from);
    label(tr("device"));
    m_mode = choiceField(this, "charging.mode", tr("Mode of the device"),
                         tr("The mode that the device is in all the while"));
    connect(m_mode, &QComboBox::activated, this, [this](int at) {
        m_modeId = m_mode->itemData(at).toString().toStdString();
        refresh();
    });
    row->addWidget(m_mode);
    label(tr("air"));
    m_air = quantityField(this, "charging.air",
                          typedFacts("air", "Air", "Air around it; empty for the brief's typical",
                                     Unit::celsius, -60, 90),
                          66);
    connect(m_air, &QuantityEdit::committed, this, [this](std::optional<double> c) {
        m_airC = c;
        refresh();
    });
    row->addWidget(m_air);
    m_askRow << m_from << m_mode << m_air;
    return row;
}

ChargeOptions ChargingView::ask() const {
    ChargeOptions a;
    a.charger = m_charger;
    a.source = m_source;
    a.from = m_fromShare;
    const std::size_t mode = modeIndex(m_session.project(), m_modeId);
    if (mode != kNotFound)
        a.mode = mode;
    if (m_airC)
        a.ambient = Celsius{*m_airC};
    return a;
}

void ChargingView::refreshChargers() {
    const Project& p = m_session.project();
    const auto all = chargersOf(p);
    if (std::find(all.begin(), all.end(), m_charger) == all.end())
        m_charger = all.empty() ? std::string() : all.front();
    m_chargers->clear();
    for (const std::string& id : all)
        m_chargers->addItem(qs(nameOf(*p.stage(id))), qs(id));
    m_chargers->setCurrentIndex(m_chargers->findData(qs(m_charger)));
    m_chargers->setVisible(all.size() > 1);
}

void ChargingView::refreshSources() {
    const Project& p = m_session.project();
    const auto all = m_charger.empty() ? std::vector<std::string>{} : chargeSources(p, m_charger);
    if (std::find(all.begin(), all.end(), m_source) == all.end())
        m_source = all.empty() ? std::string() : all.front();
    clearLayout(*m_sources);
    for (const std::string& id : all) {
        auto* b = pushButton(this, "charging.source." + qs(id), qs(nameOf(*p.stage(id))));
        b->setCheckable(true);
        b->setChecked(id == m_source);
        b->setToolTip(tr("Charge from %1").arg(qs(nameOf(*p.stage(id)))));
        accentButton(*b, id == m_source);
        connect(b, &QPushButton::clicked, this, [this, id] {
            m_source = id;
            refresh();
        });
        m_sources->addWidget(b);
    }
}

void ChargingView::refresh() {
    const Project& p = m_session.project();
    refreshChargers();
    refreshSources();
    m_mode->clear();
    for (const Mode& mode : p.modes)
        m_mode->addItem(qs(nameOf(mode)), qs(mode.id));
    if (modeIndex(p, m_modeId) == kNotFound)
        m_modeId = p.modes[p.baseMode()].id;
    m_mode->setCurrentIndex(m_mode->findData(qs(m_modeId)));
    m_from->setValue(m_fromShare);
    m_air->setValue(m_airC.value_or(p.brief.air().usual().value()));
    const bool any = !m_charger.empty() && !m_source.empty();
    m_about->setText(tr("how long a refill takes, and what holds it back"));
    m_body->setVisible(any);
    m_fill->setVisible(m_charger.empty());
    if (!any) {
        m_answer.reset();
        if (m_charger.empty())
            m_fill->refresh();
        else
            say(tr("No source"), tr("Nothing feeds the charger: add a source before it."), false);
        return;
    }
    const bool sun = std::holds_alternative<Panel>(p.stage(m_source)->part);
    m_sun->setVisible(sun);
    if (sun)
        m_about->setText(tr("years of sun on the panel, and what they miss"));
    m_sun->controls()->setVisible(sun);
    m_held->setVisible(!sun);
    for (QWidget* w : m_askRow)
        w->setVisible(!sun);
    if (sun) {
        m_answer.reset();
        say(tr("…"), tr("The years are being run."), false);
        m_sun->show(m_charger);
        return;
    }
    solve();
    solveChoices();
}

void ChargingView::say(const QString& answer, const QString& why, bool trouble) {
    m_lead->setText(answer);
    m_lead->setStyleSheet(inkOf(trouble ? Role::stop : Role::ink));
    m_why->setText(why);
    m_why->setStyleSheet(inkOf(Role::muted));
}

void ChargingView::solve() {
    m_session.jobs().runOnProject(
        kCharge, Jobs::Priority::shown,
        [this, project = std::make_shared<const Project>(m_session.project()),
         asked = ask()](const std::stop_token& stop, const Jobs::Progress&) -> Jobs::Deliver {
            auto charge = chargeOf(*project, asked);
            if (!charge)
                return [this, trouble = charge.error()] {
                    complain(*m_complaint, qs(trouble.message()));
                };
            auto answer = std::make_shared<Answer>();
            answer->charge = std::move(charge).value();
            if (stop.stop_requested())
                return {};
            answer->lift = liftOf(*project, asked, answer->charge);
            answer->ladders = laddersOf(*project, asked, answer->charge, kLadders);
            return [this, answer] {
                complain(*m_complaint, {});
                m_answer = answer;
                fill();
            };
        },
        this);
}

void ChargingView::solveChoices() {
    m_choices->setState(tr("solving …"));
    m_session.jobs().runOnProject(
        kChoices, Jobs::Priority::soon,
        [this, project = std::make_shared<const Project>(m_session.project()),
         asked = ask()](const std::stop_token& stop, const Jobs::Progress&) -> Jobs::Deliver {
            auto found = std::make_shared<ChargeChoices>();
            found->sources = otherSources(*project, asked, librarySources(), stop);
            found->rates = rateAlternatives(*project, asked, stop);
            found->paths = powerPaths(*project, asked, stop);
            found->hasPath = hasPowerPath(*project, asked.charger);
            found->steps = setupSteps(*project, asked.charger);
            found->caution = converterCaution(*project, asked.charger);
            found->pack = benchPackOf(*project, asked.charger);
            found->shared = sharedSupply(*project, asked, kShared, stop);
            found->socketSees = backfeedVolts(*project, asked.charger, asked.source);
            if (stop.stop_requested())
                return {};
            return [this, found] {
                m_choices->setState({});
                m_choices->show(found);
            };
        },
        this);
}

QString ChargingView::lead(const ChargeRun& c) const {
    if (c.hoursToFull)
        return hours(*c.hoursToFull);
    return qs(neverShort(c));
}

QString ChargingView::why(const ChargeRun& c) const {
    QString says = qs(chargeHeadline(m_session.project(), c));
    // The answer stands large beside it already.
    const QString own = c.hoursToFull ? hours(*c.hoursToFull) + QLatin1Char(' ')
                                      : qs(neverShort(c)) + QStringLiteral(": ");
    if (!own.isEmpty() && says.startsWith(own))
        says = says.mid(own.size());
    return says;
}

void ChargingView::fill() {
    const ChargeRun& c = m_answer->charge;
    say(lead(c), why(c), c.failure.has_value());
    m_plot->show(m_session.project(), c);
    m_choices->showCharge(std::shared_ptr<const ChargeRun>(m_answer, &m_answer->charge));
    if (m_fresh && !c.curve.empty())
        m_plot->setMarker(c.curve.back().hours * kFirstMarker);
    showLadder(m_plot->marker());
}

QString ChargingView::liftText() const {
    const auto& lift = m_answer->lift;
    if (!lift)
        return {};
    const Project& p = m_session.project();
    const Part& source = p.stage(m_answer->charge.source)->part;
    const QString what = qs(limitNamed(lift->relaxed, source));
    if (!lift->hours)
        return tr("Lift %1 and it comes to no end.").arg(what);
    if (!lift->next)
        return tr("Lift %1: %2.").arg(what, hours(*lift->hours));
    return tr("Lift %1 and %2 is next: %3.")
        .arg(what, qs(limitNamed(*lift->next, source)), hours(*lift->hours));
}

void ChargingView::showLadder(double hours_) {
    if (!m_answer || m_answer->ladders.empty()) {
        m_ladder->clear();
        return;
    }
    const auto at = std::min_element(
        m_answer->ladders.begin(), m_answer->ladders.end(), [&](const auto& a, const auto& b) {
            return std::abs(a.first - hours_) < std::abs(b.first - hours_);
        });
    m_ladder->show(at->second, hours_, m_session.project().stage(m_answer->charge.source)->part,
                   liftText());
}

} // namespace sipper::app
