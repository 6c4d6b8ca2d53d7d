// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/bench/calibrationcard.hpp"

#include "measure/logbook.hpp"
#include "measure/plantedfault.hpp"
#include "measure/text.hpp"
#include "project/file.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/text.hpp"

#include <QFileDialog>
#include <QFileInfo>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kRowTall = 40; ///< px of a factor
constexpr double kSpanOf = 0.6; ///< of what it was, that the bar reaches to either side
constexpr std::size_t kGives = 12;

LogAnalysis lessonOf(const Project& project, const std::vector<DischargeLog>& logs,
                     const CalibrateOptions& ask, const Calibration* learned,
                     const std::stop_token& stop) {
    LogAnalysis lesson;
    lesson.labelWh = ask.tester.labelWh.value_or(labelWhOf(*project.pack()));
    DischargeOptions tester = ask.tester;
    tester.labelWh = lesson.labelWh;
    lesson.sums = dischargesOf(logs, tester);
    if (auto runs = compareRuns(project, logs, ask, learned, stop))
        lesson.runs = std::move(runs).value();
    double low = 1e9;
    double high = 0;
    for (const DischargeRun& run : lesson.sums.runs) {
        low = std::min(low, run.meanWatts);
        high = std::max(high, run.meanWatts);
    }
    if (high > 0 && !stop.stop_requested())
        lesson.gives = givesOf(project, ask, lesson.labelWh, low * 0.6, high * 1.5, kGives);
    return lesson;
}

} // namespace

TunedBar::TunedBar(QWidget* parent) : QWidget(parent) {
    setObjectName(QStringLiteral("learn.bars"));
    setAccessibleName(tr("What moves"));
}

void TunedBar::show(const Project& project, const std::vector<CalibratedParameter>& list) {
    m_rows.clear();
    QStringList words;
    for (const CalibratedParameter& t : list) {
        m_rows.push_back(
            {qs(tunedName(project, t.id)), qs(tunedFigure(t)), t.before, t.after, t.sigma});
        words << m_rows.back().name + ' ' + m_rows.back().figure;
    }
    setAccessibleDescription(words.join(QStringLiteral(", ")));
    setFixedHeight(sizeHint().height());
    update();
}

QSize TunedBar::sizeHint() const {
    return {Theme::now().ipx(200), Theme::now().ipx(kRowTall * static_cast<double>(m_rows.size()))};
}

void TunedBar::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = Theme::now();
    double top = 0;
    for (const Row& row : m_rows) {
        const double wide = width();
        const QFont bold = t.font(12, true);
        const double figure = QFontMetricsF(bold).horizontalAdvance(row.figure);
        p.setPen(colour(Role::ink));
        p.setFont(bold);
        p.drawText(QRectF(0, top, wide, t.px(18)), Qt::AlignRight | Qt::AlignVCenter, row.figure);
        const QFont name = t.font(12);
        p.setFont(name);
        p.drawText(
            QRectF(0, top, wide - figure - t.px(8), t.px(18)), Qt::AlignLeft | Qt::AlignVCenter,
            QFontMetricsF(name).elidedText(row.name, Qt::ElideRight, wide - figure - t.px(8)));
        const double y = top + t.px(26);
        const auto x = [&](double value) {
            const double share = (value / row.before - 1) / kSpanOf;
            return wide / 2 * (1 + std::clamp(share, -1.0, 1.0));
        };
        p.setPen(Qt::NoPen);
        p.setBrush(colour(Role::shelf));
        p.drawRoundedRect(QRectF(0, y - t.px(3), wide, t.px(6)), t.px(3), t.px(3));
        p.setBrush(onCard(Role::copper, 0.45));
        p.drawRoundedRect(QRectF(QPointF(x(row.after - 2 * row.sigma), y - t.px(4)),
                                 QPointF(x(row.after + 2 * row.sigma), y + t.px(4))),
                          t.px(3), t.px(3));
        p.setBrush(colour(Role::copper));
        p.drawEllipse(QPointF(x(row.after), y), t.px(5), t.px(5));
        p.setPen(QPen(colour(Role::muted), t.px(1.5)));
        p.drawLine(QPointF(x(row.before), y - t.px(7)), QPointF(x(row.before), y + t.px(7)));
        top += t.px(kRowTall);
    }
}

CalibrationCard::CalibrationCard(Session& session, QWidget* parent)
    : QFrame(parent), m_session(session) {
    makeCard(*this, QStringLiteral("learnCard"), tr("What it teaches"));
    askLogs = [this] {
        return QFileDialog::getOpenFileNames(this, tr("Logs of discharges"), {},
                                             tr("Logs (*.csv);;All files (*)"));
    };
    auto* column = newColumn(this, 5, Margins{12, 8, 12, 10});
    auto* head = new QHBoxLayout;
    auto* title = textLabel(this, tr("What it teaches"), {.size = 13, .bold = true});
    head->addWidget(title);
    head->addStretch();
    m_forget =
        pushButton(this, "learn.forget", tr("Readings"), tr("Learn from the readings again"));
    connect(m_forget, &QPushButton::clicked, this, [this] {
        m_logs.clear();
        refresh();
    });
    head->addWidget(m_forget);
    m_open = pushButton(this, "learn.logs", tr("Logs…"),
                        tr("Learn from logs of the pack run down: CSV with time, volts, amps"));
    connect(m_open, &QPushButton::clicked, this, &CalibrationCard::openLogs);
    head->addWidget(m_open);
    column->addLayout(head);
    m_from = mutedLabel({}, this, 11.5);
    column->addWidget(m_from);
    m_fault = textLabel(this, {}, {.size = 12.5, .wrap = true, .name = "learn.fault"});
    m_fault->setStyleSheet(inkOf(Role::stop));
    column->addWidget(m_fault);
    m_none = mutedLabel({}, this, 12);
    m_none->setObjectName(QStringLiteral("learn.none"));
    m_none->setWordWrap(true);
    column->addWidget(m_none);
    m_bars = new TunedBar(this);
    column->addWidget(m_bars);
    m_left = mutedLabel({}, this, 11.5);
    m_left->setObjectName(QStringLiteral("learn.left"));
    m_left->setWordWrap(true);
    column->addWidget(m_left);
    auto* foot = new QHBoxLayout;
    m_hours = textLabel(this, {}, {.size = 12.5, .wrap = true, .name = "learn.hours"});
    foot->addWidget(m_hours, 1);
    m_take = pushButton(this, "learn.take", tr("Take it over"),
                        tr("Health, resistance, draws and losses as learned, as one edit that can "
                           "be undone"));
    accentButton(*m_take, true);
    connect(m_take, &QPushButton::clicked, this, &CalibrationCard::takeOver);
    foot->addWidget(m_take);
    column->addLayout(foot);
    column->addStretch();
}

bool CalibrationCard::read(const QString& path, std::vector<DischargeLog>& into) {
    const auto text = readFile(path.toStdString());
    if (!text) {
        emit refused(qs(text.error().message()));
        return false;
    }
    auto log = readDischarge(text.value(), QFileInfo(path).fileName().toStdString());
    if (!log) {
        emit refused(qs(log.error().message()));
        return false;
    }
    into.push_back(std::move(log).value());
    return true;
}

void CalibrationCard::openLogs() {
    const QStringList paths = askLogs();
    if (paths.isEmpty())
        return;
    std::vector<DischargeLog> logs;
    for (const QString& path : paths)
        if (!read(path, logs))
            return;
    if (logs.empty())
        return;
    emit refused({});
    m_logs = std::move(logs);
    refresh();
}

void CalibrationCard::learnFrom(const QString& path) {
    if (read(path, m_logs))
        refresh();
}

void CalibrationCard::refresh() {
    m_session.jobs().runOnProject(
        kJob, Jobs::Priority::soon,
        [this, project = m_session.project(), logs = m_logs,
         ask = m_ask](const std::stop_token& stop, const Jobs::Progress&) -> Jobs::Deliver {
            auto fit = std::make_shared<Outcome<Calibration>>(
                logs.empty() ? calibrateByReadings(project)
                             : calibrateByDischarge(project, logs, ask));
            const BenchAnalysis bench = analyseBench(project);
            const QString suspects = qs(suspectText(project, bench));
            const bool strange = readsStrange(bench);
            auto lesson = std::make_shared<LogAnalysis>();
            if (!logs.empty() && project.pack())
                *lesson = lessonOf(project, logs, ask, fit->ok() ? &fit->value() : nullptr, stop);
            return [this, fit, lesson, suspects, strange] {
                m_suspects = suspects;
                m_strange = strange;
                m_lesson = std::move(*lesson);
                if (fit->ok()) {
                    m_learned = std::move(*fit).value();
                    m_why.clear();
                } else {
                    m_learned.reset();
                    m_why = fit->error().code == "no_readings"
                                ? tr("Nothing yet. A draw, a voltage under load or a discharge "
                                     "that was measured would teach something.")
                                : qs(fit->error().message());
                }
                show();
                emit taught();
            };
        },
        this);
}

void CalibrationCard::show() {
    const Project& p = m_session.project();
    // What is mostly outside its band speaks of a fault, not of figures that are a little off.
    const bool strange = m_strange && m_logs.empty();
    const bool any = m_learned && !m_learned->parameters.empty() && !strange;
    m_fault->setText(m_suspects);
    m_fault->setVisible(!m_suspects.isEmpty() && m_logs.empty());
    m_forget->setVisible(!m_logs.empty());
    m_from->setText(!m_learned           ? QString()
                    : m_logs.empty()     ? tr("from %1 readings").arg(m_learned->observations)
                    : m_logs.size() == 1 ? tr("from a discharge")
                                         : tr("from %1 discharges").arg(m_logs.size()));
    m_from->setVisible(!m_from->text().isEmpty());
    m_none->setText(m_learned ? tr("Nothing moves: what was measured is as the model has it, or "
                                   "does not tell.")
                              : m_why);
    m_none->setVisible(!any && !m_fault->isVisibleTo(this));
    m_bars->setVisible(any);
    m_take->setEnabled(any);
    m_take->setVisible(any);
    m_bars->show(p, any ? m_learned->parameters : std::vector<CalibratedParameter>());
    m_left->setText(m_learned && !strange ? qs(leftAloneText(p, *m_learned)) : QString());
    m_left->setVisible(!m_left->text().isEmpty());
    QString hoursText;
    if (m_learned && !strange && m_learned->predicted && m_learned->calibrated) {
        hoursText = m_learned->measured
                        ? tr("It ran %1 where %2 was predicted; learned, it says %3.")
                              .arg(hours(*m_learned->measured), hours(*m_learned->predicted),
                                   hours(*m_learned->calibrated))
                        : tr("The model then says %1, now %2.")
                              .arg(hours(*m_learned->calibrated), hours(*m_learned->predicted));
    }
    m_hours->setText(hoursText);
}

void CalibrationCard::setAsk(const CalibrateOptions& ask) {
    m_ask = ask;
    refresh();
}

void CalibrationCard::keepRuns() {
    const std::string now = minuteNow();
    Project after = m_session.project();
    for (const DischargeRun& run : m_lesson.sums.runs)
        after = withLogEntry(after, entryOfRun(run, m_ask.at, now));
    if (const auto trouble = m_session.edit(tr("runs into the logbook"), std::move(after)))
        emit refused(qs(trouble->message()));
}

void CalibrationCard::takeOver() {
    if (!m_learned)
        return;
    Project after = m_learned->project;
    const std::string now = minuteNow();
    for (const DischargeRun& run : m_lesson.sums.runs)
        after = withLogEntry(after, entryOfRun(run, m_ask.at, now));
    after = withLogEntry(after, entryOfCalibration(after, now));
    m_logs.clear();
    if (const auto trouble = m_session.edit(tr("take over what was learned"), std::move(after)))
        emit refused(qs(trouble->message()));
}

} // namespace sipper::app
