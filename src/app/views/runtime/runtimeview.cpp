// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/runtime/runtimeview.hpp"

#include "runtime/shelf.hpp"
#include "text/text.hpp"
#include "theme/theme.hpp"
#include "views/runtime/dischargeplot.hpp"
#include "views/runtime/improvementscard.hpp"
#include "views/runtime/ledgerstream.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"
#include "widgets/viewtitle.hpp"

#include <QCheckBox>
#include <QSlider>
#include <QVBoxLayout>
#include <cmath>

namespace sipper::app {
namespace {

/// What each source has to carry where there are no cells to run down.
QString tetheredText(const Project& p, const Results& r) {
    if (r.externalLoads.empty())
        return QObject::tr("There are no cells to run down and nothing to plug in: the supply line "
                           "begins with a source.");
    QString text = QObject::tr("Nothing runs down.");
    for (const ExternalLoad& t : r.externalLoads)
        text +=
            QObject::tr(" From %1 it draws %2 at the most, %3 on average, and %4 of that become "
                        "heat on the way.")
                .arg(qs(nameOf(p.stages[t.source])), quantity(t.worstWatts, Unit::watt),
                     quantity(t.meanWatts, Unit::watt), quantity(t.heatWatts, Unit::watt));
    return text;
}

} // namespace

RuntimeView::RuntimeView(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("runtime"));
    QWidget* page = scrollingPage(this, QStringLiteral("runtime.scroll"));
    auto* column = newColumn(page, 8, Margins{16, 8, 16, 12});
    column->addLayout(viewTitle(this, tr("Runtime"), tr("how long, and what ends it")));
    column->addLayout(buildVerdict());
    m_body = new QWidget(page);
    column->addWidget(m_body, 1);
    column->addStretch();
    column = newColumn(m_body, 8, Margins{});
    column->addLayout(buildWhatIf());
    m_plot = new DischargePlot(this);
    addZoom(*m_plot, [this] { m_plot->show(m_session); });
    auto* row = newRow(nullptr, 8);
    row->addWidget(m_plot, 6);
    row->addWidget(new ImprovementsCard(session, this), 5);
    column->addLayout(row, 6);
    column->addWidget(new LedgerStream(session, this), 5);
    auto* follower = new Refresher(
        this, session, {&Session::projectChanged, &Session::resultsUpdated}, [this] { refresh(); });
    // The end's words take the room that there is.
    connect(m_plot, &QCustomPlot::afterLayout, follower, [this, wide = 0]() mutable {
        if (std::exchange(wide, m_plot->width()) != m_plot->width())
            QMetaObject::invokeMethod(
                this, [this] { m_plot->show(m_session); }, Qt::QueuedConnection);
    });
}

QLayout* RuntimeView::buildVerdict() {
    const Theme& theme = Theme::now();
    m_answer = new QLabel(this);
    m_answer->setObjectName(QStringLiteral("runtime.answer"));
    m_answer->setFont(theme.font(24, true));
    m_why = new QLabel(this);
    m_why->setObjectName(QStringLiteral("runtime.why"));
    m_why->setFont(theme.font(13));
    m_why->setWordWrap(true);
    m_why->setStyleSheet(QStringLiteral("color: %1").arg(colour(Role::muted).name()));
    auto* verdict = newRow(nullptr, 14);
    verdict->addWidget(m_answer);
    verdict->addWidget(m_why, 1);
    return verdict;
}

QLayout* RuntimeView::buildWhatIf() {
    const Theme& theme = Theme::now();
    auto* row = newRow(nullptr, 8);
    const auto slider = [&](const QString& name, const char* object, int low, int high) {
        row->addWidget(mutedLabel(name, this, 12));
        auto* s = new QSlider(Qt::Horizontal, this);
        s->setObjectName(QLatin1String(object));
        s->setAccessibleName(name);
        s->setRange(low, high);
        s->setFixedWidth(theme.ipx(130));
        connect(s, &QSlider::valueChanged, this, &RuntimeView::askWhatIf);
        row->addWidget(s);
        return s;
    };
    m_air = slider(tr("Air"), "whatIf.air", -20, 50);
    m_air->setToolTip(tr("The run in air of another temperature, -20 to 50 °C"));
    m_age = slider(tr("Cells"), "whatIf.age", 50, 100);
    m_age->setToolTip(tr("The run with cells that have aged to this share of their capacity"));
    m_whatIf = mutedLabel({}, this, 12);
    m_whatIf->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    m_whatIf->setObjectName(QStringLiteral("whatIf.says"));
    row->addWidget(m_whatIf, 1);
    m_five = checkBox(this, "whatIf.five", tr("five temperatures"));
    m_five->setFont(theme.font(12));
    m_five->setToolTip(tr("The runs at -10, 0, 10, 25 and 40 °C on the same plot"));
    connect(m_five, &QCheckBox::toggled, this, &RuntimeView::askWhatIf);
    row->addWidget(m_five);
    return row;
}

RuntimeView::Planned RuntimeView::planned() const {
    const Project& p = m_session.project();
    const Pack* pack = p.pack();
    return {static_cast<int>(std::lround(p.brief.air().usual().value())),
            pack ? static_cast<int>(std::lround(100 * pack->health.value_or(1.0))) : 100,
            pack ? pack->cell.id + pack->cell.label : std::string(), m_session.file().number()};
}

void RuntimeView::settleSliders() {
    const Planned now = planned();
    if (now == m_planned && m_air->isEnabled())
        return;
    m_planned = now;
    const QSignalBlocker a(m_air);
    const QSignalBlocker b(m_age);
    m_air->setValue(now.air);
    m_age->setValue(now.age);
}

/// Runs beside the window; what is shown stays until the new ones are there.
void RuntimeView::askWhatIf() {
    const Project& p = m_session.project();
    const bool any = p.pack() && m_session.results().runtime.hours;
    for (QWidget* w : std::initializer_list<QWidget*>{m_air, m_age, m_five})
        w->setEnabled(any);
    const bool usual = m_air->value() == planned().air && m_age->value() == planned().age;
    if (!any || (usual && !m_five->isChecked())) {
        m_session.jobs().stop(kWhatIf);
        sayWhatIf(nullptr);
        return;
    }
    m_session.jobs().runOnProject(
        kWhatIf, Jobs::Priority::shown,
        [this, project = std::make_shared<const Project>(p), air = double(m_air->value()),
         health = m_age->value() / 100.0, five = m_five->isChecked(),
         parallelFor = m_session.jobs().parallelFor()](const std::stop_token& stop,
                                                       const Jobs::Progress&) -> Jobs::Deliver {
            auto found = whatIf(*project, air, health, five, stop, parallelFor);
            if (!found)
                return {};
            return [this, found = std::make_shared<const WhatIf>(std::move(*found))] {
                sayWhatIf(found.get());
            };
        },
        this);
}

void RuntimeView::sayWhatIf(const WhatIf* w) {
    const Project& p = m_session.project();
    QString text;
    if (w && w->other)
        text = tr("At %1 with cells at %2: %3, %4.")
                   .arg(quantity(w->airC, Unit::celsius), qs(writeShare(w->health)),
                        qs(runText(*w->other)), qs(endText(p, w->other->ending)));
    else if (p.pack() && m_session.results().runtime.hours)
        text =
            tr("as planned: %1, cells at %2")
                .arg(quantity(planned().air, Unit::celsius), qs(writeShare(planned().age / 100.0)));
    m_whatIf->setText(text);
    m_whatIf->setToolTip(text);
    m_plot->showBeside(w);
}

QString RuntimeView::why() const {
    const Project& p = m_session.project();
    const Results& r = m_session.results();
    if (!p.pack())
        return tetheredText(p, r);
    const auto& runs = r.runtime.hours;
    const QString end = qs(endText(p, r.runtime.ending));
    QString text = !runs                ? tr("As it stands, %1.").arg(end)
                   : runs->value() == 0 ? tr("It never runs: %1.").arg(end)
                                        : tr("It ends when %1.").arg(end);
    const RuntimeUncertainty* range = r.range();
    const auto humps = range ? humpsOf(*range) : std::nullopt;
    if (humps && m_session.resultsCurrent() && runs)
        text += QStringLiteral(" %1.").arg(qs(humpsText(*humps)));
    else if (range && m_session.resultsCurrent() && runs)
        text += tr(" Eight builds in ten run %1 to %2.")
                    .arg(hours(range->range.p10), hours(range->range.p90));
    if (const auto age = runs ? qs(ageText(p, runs->value())) : QString(); !age.isEmpty())
        text += tr(" But %1.").arg(age);
    if (runs && runs->value() > 0)
        text += tr(" Mean draw %1 at the cells.")
                    .arg(quantity(r.runtime.meanPower.value(), Unit::watt));
    return text;
}

void RuntimeView::refresh() {
    const Project& p = m_session.project();
    const Results& r = m_session.results();
    m_body->setVisible(p.pack() != nullptr);
    m_answer->setText(p.pack()                  ? r.runtime.hours ? hours(r.runtime.hours->value())
                                                                  : qs(runText(r.runtime))
                                       : r.externalLoads.empty() ? tr("no source yet")
                                                : tr("plugged in"));
    m_why->setText(why());
    m_plot->show(m_session);
    m_plot->setAccessibleDescription(m_why->text());
    settleSliders();
    askWhatIf();
}

} // namespace sipper::app
