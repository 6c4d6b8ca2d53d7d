// SPDX-License-Identifier: GPL-3.0-or-later
#include "shell/verdictstrip.hpp"
#include "project/tree.hpp"

#include "charge/text.hpp"
#include "measure/comparison.hpp"
#include "shell/varianttabs.hpp"
#include "solar/text.hpp"
#include "text/text.hpp"
#include "theme/theme.hpp"
#include "widgets/controls.hpp"
#include "widgets/severitymark.hpp"
#include "widgets/text.hpp"

#include <QEvent>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QVBoxLayout>

namespace sipper::app {

VerdictFigure::VerdictFigure(const QString& name, const QString& caption, QWidget* parent)
    : QAbstractButton(parent), m_caption(caption) {
    setObjectName(name);
    setCursor(Qt::PointingHandCursor);
    setFocusPolicy(Qt::TabFocus);
}

void VerdictFigure::show3(const QString& figure, const QString& note, Tone tone, bool old) {
    m_figure = figure;
    m_note = note;
    m_tone = tone;
    m_old = old;
    setAccessibleName(m_caption);
    setAccessibleDescription(QStringLiteral("%1, %2").arg(figure, note));
    setToolTip(QStringLiteral("%1: %2, %3").arg(m_caption, figure, note));
    updateGeometry();
    update();
}

QSize VerdictFigure::sizeHint() const {
    const Theme& t = Theme::now();
    const int width = std::max({QFontMetrics(t.font(11)).horizontalAdvance(m_caption),
                                QFontMetrics(t.font(20, true)).horizontalAdvance(m_figure),
                                QFontMetrics(t.font(11)).horizontalAdvance(m_note)});
    return {width + t.ipx(26), t.ipx(64)};
}

void VerdictFigure::paintEvent(QPaintEvent*) {
    QPainter p(this);
    if (m_stale)
        p.setOpacity(0.45);
    const Theme& t = Theme::now();
    const QRectF inner = QRectF(rect()).adjusted(t.px(4), 0, -t.px(4), 0);
    if (hasFocus() || underMouse()) {
        p.setPen(QPen(colour(Role::headerMuted), 1));
        p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 4.5, -0.5, -4.5), 4, 4);
    }
    p.setPen(colour(Role::headerMuted));
    p.setFont(t.font(11));
    p.drawText(QRectF(inner.left(), t.px(7), inner.width(), t.px(16)),
               Qt::AlignLeft | Qt::AlignVCenter, m_caption);
    p.setPen(colour(m_tone == Tone::good  ? Role::headerFine
                    : m_tone == Tone::bad ? Role::headerStop
                                          : Role::headerInk));
    p.setFont(t.font(20, true));
    p.drawText(QRectF(inner.left(), t.px(21), inner.width(), t.px(26)),
               Qt::AlignLeft | Qt::AlignVCenter, m_figure);
    QColor note = colour(Role::headerMuted);
    if (m_old)
        note.setAlphaF(0.55F);
    p.setPen(note);
    p.setFont(t.font(11));
    p.drawText(QRectF(inner.left(), t.px(46), inner.width(), t.px(15)),
               Qt::AlignLeft | Qt::AlignVCenter, m_note);
}

namespace {

/// A line that ends in three dots where it has no room; in less than that of a word it is left out.
class CutLabel : public QLabel {
  public:
    CutLabel(double size, bool bold, Role ink, const QString& name, QWidget* parent)
        : QLabel(parent), m_ink(ink) {
        setObjectName(name);
        setFont(Theme::now().font(size, bold));
        setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        constexpr double kLeast = 44; // px of a word
        const QFontMetricsF metrics(font());
        if (metrics.horizontalAdvance(text()) > width() && width() < Theme::now().px(kLeast))
            return;
        QPainter p(this);
        p.setFont(font());
        p.setPen(colour(m_ink));
        p.drawText(rect(), Qt::AlignLeft | Qt::AlignVCenter,
                   metrics.elidedText(text(), Qt::ElideRight, width()));
    }

  private:
    Role m_ink;
};

} // namespace

VerdictStrip::VerdictStrip(Session& session, QWidget* parent)
    : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("verdict"));
    const Theme& t = Theme::now();
    auto* row = newRow(this, 10, Margins{20, 0, 16, 0});
    m_titleBox = new QWidget(this);
    auto* title = newColumn(m_titleBox, 0, Margins{0, 10, 0, 10});
    m_name = new CutLabel(15, true, Role::headerInk, QStringLiteral("verdict.name"), m_titleBox);
    m_state =
        new CutLabel(11, false, Role::headerMuted, QStringLiteral("verdict.state"), m_titleBox);
    title->addWidget(m_name);
    auto* below = newRow(nullptr, 8);
    m_tabs = new VariantTabs(session, m_titleBox);
    below->addWidget(m_tabs);
    below->addWidget(m_state, 1);
    title->addLayout(below);
    row->addWidget(m_titleBox, 1);
    m_runtime = new VerdictFigure(QStringLiteral("verdict.runtime"), tr("Runs for"), this);
    m_target = new VerdictFigure(QStringLiteral("verdict.target"), tr("Target"), this);
    m_worst = new VerdictFigure(QStringLiteral("verdict.worst"), tr("Worst draw"), this);
    m_refill = new VerdictFigure(QStringLiteral("verdict.refill"), tr("Refill"), this);
    m_weight = new VerdictFigure(QStringLiteral("verdict.weight"), tr("Weight"), this);
    m_advice = new VerdictFigure(QStringLiteral("verdict.advice"), tr("Advice"), this);
    for (VerdictFigure* f : {m_runtime, m_target, m_refill, m_worst, m_weight, m_advice})
        row->addWidget(f);
    connect(m_runtime, &QAbstractButton::clicked, this,
            [this] { emit asked(QStringLiteral("runtime")); });
    connect(m_target, &QAbstractButton::clicked, this,
            [this] { emit asked(QStringLiteral("runtime")); });
    connect(m_worst, &QAbstractButton::clicked, this, [this] {
        emit asked(QStringLiteral("supply-line"));
        if (const Mode* mode = m_session.project().mode(m_session.results().runtime.worstMode))
            m_session.setDisplayedPoint(m_session.charge(),
                                        modeIndex(m_session.project(), mode->id));
    });
    connect(m_refill, &QAbstractButton::clicked, this,
            [this] { emit asked(QStringLiteral("charging")); });
    connect(m_weight, &QAbstractButton::clicked, this, [this] {
        emit asked(QStringLiteral("supply-line"));
        if (const Stage* pack = m_session.project().packStage())
            m_session.select(qs(pack->id));
    });
    connect(m_advice, &QAbstractButton::clicked, this, &VerdictStrip::adviceAsked);
    connect(&session, &Session::projectChanged, this, &VerdictStrip::refresh);
    connect(&session, &Session::resultsUpdated, this, &VerdictStrip::refresh);
    connect(&session, &Session::documentChanged, this, &VerdictStrip::refresh);
    connect(&session, &Session::lateChanged, this, &VerdictStrip::refresh);
    setFixedHeight(t.ipx(64));
    refresh();
}

void VerdictStrip::refresh() {
    const Project& p = m_session.project();
    const Results& r = m_session.results();
    m_name->setText(p.name.empty() ? tr("Untitled") : qs(escapeForTerminal(p.name)));
    m_name->setToolTip(qs(p.notes));
    m_state->setText(m_session.brokenOff()        ? tr("not computed")
                     : m_session.late()           ? tr("computing …")
                     : m_session.modified()       ? tr("changed, not saved")
                     : m_session.path().isEmpty() ? m_session.origin()
                                                  : QFileInfo(m_session.path()).fileName());
    m_state->setToolTip(m_session.path());

    if (!p.pack() && !r.externalLoads.empty())
        showExternalLoads();
    else
        showCells();
    showRefill();
    m_weight->show3(quantity(p.massGrams(), Unit::gram),
                    tr("%1 in parts").arg(p.totalPrice(), 0, 'f', 2));

    const int stop = countOf(r.findings, Severity::stop);
    const int care = countOf(r.findings, Severity::care);
    m_advice->show3(qs(adviceText(r.findings)),
                    stop && care   ? tr("%1 to weigh · next: F8").arg(care)
                    : stop || care ? tr("next: F8")
                                   : tr("nothing open"),
                    stop   ? VerdictFigure::Tone::bad
                    : care ? VerdictFigure::Tone::plain
                           : VerdictFigure::Tone::good);
    if (!r.sweep && r.externalLoads.empty())
        m_advice->show3(QStringLiteral("–"), tr("no source yet"));
    for (VerdictFigure* f : {m_runtime, m_target, m_refill, m_worst, m_weight, m_advice})
        f->setStale(m_session.late());
    fit();
}

void VerdictStrip::showCells() {
    const Project& p = m_session.project();
    const Results& r = m_session.results();
    // Said where it rests on measurements, in whole or in part.
    const Evidence rests = restsOn(p);
    m_runtime->setCaption(
        rests.measured == 0 ? tr("Runs for")
        : rests.measured == rests.all
            ? tr("Runs for, measured")
            : tr("Runs for, %1 of %2 measured").arg(rests.measured).arg(rests.all));
    m_target->setCaption(tr("Target"));
    m_worst->setCaption(tr("Worst draw"));
    const auto& runs = r.runtime.hours;
    QString range = tr("being computed");
    if (const RuntimeUncertainty* known = r.range()) {
        if (const auto humps = humpsOf(*known)) // a cliff: one or the other, nothing between
            range = tr("%1 or %2").arg(hours(humps->low), hours(humps->high));
        else
            range = QStringLiteral("%1 – %2").arg(hours(known->range.p10), hours(known->range.p90));
    }
    if (!runs)
        m_runtime->show3(r.runtime.ending.reason == EndReason::mains ? tr("–") : tr("for ever"),
                         qs(endText(p, r.runtime.ending)));
    else if (runs->value() == 0)
        m_runtime->show3(tr("never"), tr("it does not start"), VerdictFigure::Tone::bad);
    else
        m_runtime->show3(hours(runs->value()), range, VerdictFigure::Tone::plain,
                         !m_session.resultsCurrent());

    if (const SolarAnalysis* sun = r.sun(); sun && byTheSun(p)) {
        const double missed = sun->year.all.lossOfLoadHours / static_cast<double>(sun->year.years);
        m_target->show3(tr("all year"),
                        missed > 0 ? tr("%1 a year missed").arg(hours(missed))
                                   : tr("nothing missed"),
                        missed > 0 ? VerdictFigure::Tone::bad : VerdictFigure::Tone::good,
                        !m_session.resultsCurrent());
        m_runtime->setCaption(tr("Without sun"));
    } else if (p.brief.targetRuntime && runs) {
        const double target = p.brief.targetRuntime->value();
        const double spare = runs->value() - target;
        m_target->show3(hours(target),
                        spare >= 0 ? tr("%1 to spare").arg(hours(spare))
                                   : tr("%1 short").arg(hours(-spare)),
                        spare >= 0 ? VerdictFigure::Tone::good : VerdictFigure::Tone::bad);
    } else {
        m_target->show3(QStringLiteral("–"), tr("none set"));
    }

    const double worst = r.runtime.worstCurrent.value();
    const Pack* pack = p.pack();
    if (pack && pack->cell.maxDischarge) {
        const double allowed = pack->cell.maxDischarge->value() * pack->parallel;
        m_worst->show3(quantity(worst, Unit::ampere),
                       tr("cells allow %1").arg(quantity(allowed, Unit::ampere)),
                       worst > allowed ? VerdictFigure::Tone::bad : VerdictFigure::Tone::plain);
    } else {
        m_worst->show3(quantity(worst, Unit::ampere),
                       pack ? tr("limit not known") : tr("no cells"));
    }
}

/// How long a refill takes, and what holds it back.
void VerdictStrip::showRefill() {
    const ChargeRun* refill = m_session.results().refill();
    if (const SolarAnalysis* sun = m_session.results().sun();
        sun && (!refill || byTheSun(m_session.project()))) {
        std::size_t poorest = 0;
        for (std::size_t month = 1; month < sun->year.months.size(); ++month)
            if (timesTheNeed(sun->year, month) < timesTheNeed(sun->year, poorest))
                poorest = month;
        m_refill->show3(tr("%1 × need").arg(timesTheNeed(sun->year, poorest), 0, 'f', 1),
                        tr("by the sun in %1").arg(qs(monthName(poorest))),
                        VerdictFigure::Tone::plain, !m_session.resultsCurrent());
        return;
    }
    if (!refill)
        return;
    const Part& source = m_session.project().stage(refill->source)->part;
    if (!refill->hoursToFull) {
        m_refill->show3(qs(neverShort(*refill)).toLower(),
                        tr("from the %1").arg(qs(sourceWord(source))), VerdictFigure::Tone::bad);
        return;
    }
    const auto held = refill->bindingLimit();
    m_refill->show3(hours(*refill->hoursToFull),
                    held ? tr("held by %1").arg(qs(limitShort(*held, source))) : tr("from 10 %"),
                    VerdictFigure::Tone::plain);
}

void VerdictStrip::showExternalLoads() {
    const Project& p = m_session.project();
    // The source with the least in hand speaks.
    const auto& all = m_session.results().externalLoads;
    const ExternalLoad* t = &all.front();
    for (const ExternalLoad& other : all)
        if (other.margin() > 0 && (t->margin() <= 0 || other.margin() < t->margin()))
            t = &other;
    const double policy = p.brief.headroom.value_or(1.5);
    const bool broken = t->trips || t->collapses;
    m_runtime->setCaption(tr("Worst draw"));
    m_runtime->show3(
        quantity(t->asked(), Unit::ampere),
        tr("%1 from %2").arg(quantity(t->worstWatts, Unit::watt), qs(nameOf(p.stages[t->source]))),
        broken ? VerdictFigure::Tone::bad : VerdictFigure::Tone::plain);
    m_target->setCaption(tr("Headroom"));
    if (t->margin() > 0)
        m_target->show3(tr("%1 times").arg(t->margin(), 0, 'g', 2),
                        tr("%1 allowed, %2 wanted")
                            .arg(quantity(t->model.limit, Unit::ampere))
                            .arg(policy, 0, 'g', 2),
                        broken || t->margin() < 1 ? VerdictFigure::Tone::bad
                        : t->margin() >= policy   ? VerdictFigure::Tone::good
                                                  : VerdictFigure::Tone::plain);
    else
        m_target->show3(QStringLiteral("–"), tr("limit not known"));
    m_worst->setCaption(tr("Heat"));
    m_worst->show3(
        quantity(t->heatWatts, Unit::watt),
        tr("%1 reaches %2")
            .arg(qs(nameOf(p.stages[t->hottest])), quantity(t->hottestC, Unit::celsius)));
}

/// Where it gets tight the figures that matter least step back first.
void VerdictStrip::fit() {
    const Theme& t = Theme::now();
    const int title = std::max(t.ipx(130), m_tabs->sizeHint().width());
    int room = width() - title - t.ipx(40);
    for (VerdictFigure* f : {m_advice, m_runtime, m_target, m_refill, m_worst, m_weight}) {
        if (f == m_refill && !m_session.results().refill() && !m_session.results().sun()) {
            f->hide();
            continue;
        }
        room -= f->sizeHint().width() + t.ipx(10);
        f->setVisible(room >= 0 || f == m_advice || f == m_runtime);
    }
}

bool VerdictStrip::event(QEvent* event) {
    // Tabs come, go and take their width after they are made.
    if (event->type() == QEvent::LayoutRequest)
        fit();
    return QWidget::event(event);
}

void VerdictStrip::resizeEvent(QResizeEvent*) {
    fit();
}

void VerdictStrip::paintEvent(QPaintEvent*) {
    QPainter(this).fillRect(rect(), colour(Role::header));
}

} // namespace sipper::app
