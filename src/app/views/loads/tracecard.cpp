// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/loads/tracecard.hpp"

#include "theme/theme.hpp"
#include "views/loads/traceplot.hpp"
#include "widgets/controls.hpp"
#include "widgets/labelplacing.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"

#include <QCheckBox>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QToolButton>
#include <QVBoxLayout>

namespace sipper::app {
namespace {

constexpr double kRowHeight = 38;
constexpr double kLevelsWidth = 292;
constexpr double kLeastChoice = 90; ///< px; its words are cut short before the card grows
constexpr double kNudge = 1.02;     ///< ratio of one arrow key

} // namespace

LevelGrip::LevelGrip(std::size_t level, QWidget* parent) : QWidget(parent), m_level(level) {
    setObjectName(QStringLiteral("level.%1.grip").arg(level));
    setAccessibleName(tr("Level %1 of the trace").arg(level + 1));
    setToolTip(tr("Drag, or use the arrow keys, to move the level; Delete joins it to the one "
                  "under it"));
    setCursor(Qt::SizeVerCursor);
    setFocusPolicy(Qt::StrongFocus);
    setFixedWidth(Theme::now().ipx(10));
}

void LevelGrip::mousePressEvent(QMouseEvent* event) {
    m_last = event->globalPosition().y();
}

void LevelGrip::mouseMoveEvent(QMouseEvent* event) {
    const double now = event->globalPosition().y();
    const double by = now - m_last;
    m_last = now;
    emit dragged(by);
}

void LevelGrip::keyPressEvent(QKeyEvent* event) {
    switch (event->key()) {
    case Qt::Key_Up:
    case Qt::Key_Down:
        emit nudged(event->key() == Qt::Key_Up ? 1 : -1);
        break;
    case Qt::Key_Delete:
    case Qt::Key_Backspace:
        emit join();
        break;
    default:
        QWidget::keyPressEvent(event);
    }
}

void LevelGrip::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const double wide = hasFocus() ? 8 : 4;
    p.fillRect(QRectF(0, 3, Theme::now().px(wide), height() - 6), levelColour(m_level));
}

LevelRow::LevelRow(TraceWork& work, TracePlot& plot, std::size_t level, QWidget* parent)
    : QWidget(parent), m_work(work), m_level(level) {
    const Theme& t = Theme::now();
    auto* row = newRow(this, 4, Margins{});
    auto* grip = new LevelGrip(level, this);
    connect(grip, &LevelGrip::dragged, this, [this, &plot](double by) {
        m_work.moveLevel(m_level, plot.ampsAt(plot.yOf(m_work.levels()[m_level]) + by));
    });
    connect(grip, &LevelGrip::nudged, this, [this](int steps) {
        m_work.moveLevel(m_level, m_work.levels()[m_level] * (steps > 0 ? kNudge : 1 / kNudge));
    });
    connect(grip, &LevelGrip::join, this, [this] { m_work.merge(m_level); });
    row->addWidget(grip);
    auto* column = newColumn(nullptr, 0);
    m_name = new QLineEdit(this);
    m_name->setObjectName(QStringLiteral("level.%1.name").arg(level));
    m_name->setAccessibleName(tr("Name of level %1").arg(level + 1));
    m_name->setToolTip(tr("What this level is. A mode's name makes it that mode."));
    m_name->setFont(t.font(12, true));
    m_name->setFrame(false);
    m_name->setStyleSheet(
        QStringLiteral("QLineEdit { background: transparent; border: 1px solid transparent; "
                       "padding: 0px 2px; color: %1; }"
                       "QLineEdit:focus { border: 1px solid %2; background: %3; }")
            .arg(levelColour(level).name(), colour(Role::copper).name(),
                 colour(Role::field).name()));
    connect(m_name, &QLineEdit::editingFinished, this, [this] {
        if (m_name->isModified())
            m_work.rename(m_level, m_name->text().trimmed().toStdString());
        m_name->setModified(false);
    });
    m_figures = mutedLabel({}, this);
    m_figures->setObjectName(QStringLiteral("level.%1.figures").arg(level));
    m_figures->setIndent(t.ipx(4));
    auto* top = newRow(nullptr, 0);
    top->addWidget(m_name, 1);
    column->addLayout(top);
    column->addWidget(m_figures);
    row->addLayout(column, 1);
    const auto button = [&](const QString& text, const char* what, const QString& about) {
        auto* b = new QToolButton(this);
        b->setText(text);
        b->setObjectName(QStringLiteral("level.%1.%2").arg(level).arg(QLatin1String(what)));
        b->setAccessibleName(about);
        b->setToolTip(about);
        b->setAutoRaise(true);
        b->setFont(t.font(11));
        b->setFocusPolicy(Qt::TabFocus);
        b->setFixedHeight(t.ipx(18));
        top->addWidget(b);
        return b;
    };
    m_split = button(tr("split"), "split", tr("Split this level in two where it parts best"));
    connect(m_split, &QToolButton::clicked, this, [this] { m_work.split(m_level); });
    m_join = button(tr("join"), "join", tr("Join this level to the one under it"));
    connect(m_join, &QToolButton::clicked, this, [this] { m_work.merge(m_level); });
    m_join->setEnabled(level > 0);
    setFixedHeight(t.ipx(kRowHeight));
}

void LevelRow::refresh(const QString& proposedName) {
    if (m_level >= m_work.cut().modes.size())
        return;
    if (!m_name->hasFocus() || !m_name->isModified()) {
        const std::string& given = m_work.names()[m_level];
        m_name->setText(given.empty() ? proposedName : qs(given));
        m_name->setCursorPosition(0);
    }
    m_split->setEnabled(m_work.cut().modes.size() < static_cast<std::size_t>(kMostLevels));
    m_figures->setText(figures());
    const TraceMode& m = m_work.cut().modes[m_level];
    m_figures->setToolTip(
        tr("Mean %1, spread %2, 99.9 %% at or under %3, %4 of the time, %5 of the charge%6")
            .arg(quantity(m.amps, Unit::ampere), quantity(m.spread, Unit::ampere),
                 quantity(m.peak, Unit::ampere), qs(writeShare(m.share)),
                 qs(writeShare(m.chargeShare)),
                 m.burstAmps > 0 ? tr(", bursts of %1 for %2")
                                       .arg(quantity(m.burstAmps, Unit::ampere),
                                            quantity(m.burstSeconds, Unit::second))
                                 : QString())
            .replace(QStringLiteral("%%"), QStringLiteral("%")));
}

QString LevelRow::figures() const {
    const TraceMode& m = m_work.cut().modes[m_level];
    QString text = quantity(m.amps, Unit::ampere);
    if (m_level > 0 && m.everySeconds > 0)
        text += tr(" · %1 every %2")
                    .arg(quantity(m.typicalSeconds, Unit::second),
                         quantity(m.everySeconds, Unit::second));
    else
        text += tr(" · %1 of the time").arg(qs(writeShare(m.share)));
    if (m.burstAmps > 0)
        text += tr(" · bursts %1").arg(quantity(m.burstAmps, Unit::ampere));
    return text;
}

TraceCard::TraceCard(Session& session, QWidget* parent)
    : QFrame(parent), m_session(session), m_work(session.traceWork()) {
    makeCard(*this, QStringLiteral("traceCard"), tr("Measured trace"));
    const Theme& t = Theme::now();
    auto* column = newColumn(this, 4, Margins{12, 8, 8, 8});
    auto* head = newRow(nullptr, 8);
    m_title = textLabel(this, tr("Measured trace"), {.size = 13, .bold = true});
    head->addWidget(m_title);
    m_about = mutedLabel({}, this);
    m_about->setObjectName(QStringLiteral("trace.about"));
    m_about->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    head->addWidget(m_about, 1);
    m_load = choiceField(this, "trace.load", tr("Which load was measured"),
                         tr("Which load was measured"));
    connect(m_load, &QComboBox::currentIndexChanged, this, &TraceCard::refresh);
    connect(m_load, &QComboBox::activated, this, [this] { m_loadChosen = true; });
    m_load->setMinimumWidth(t.ipx(kLeastChoice));
    head->addWidget(m_load);
    m_how = choiceField(this, "trace.how", tr("What becomes of the modes there are"),
                        tr("In place of the modes there are, or beside them"));
    m_how->addItem(tr("in place of the modes"));
    m_how->addItem(tr("beside the modes"));
    m_how->setMinimumWidth(t.ipx(kLeastChoice));
    head->addWidget(m_how);
    m_power = checkBox(this, "trace.power", tr("as power"),
                       tr("Take watts (current times the measured voltage) in place of amps: "
                          "right for what has a switching regulator of its own"));
    head->addWidget(m_power);
    m_use = pushButton(this, "trace.use", tr("Use these modes"));
    m_use->setProperty("accent", true);
    m_use->setToolTip(tr("Makes modes and measured draws of the levels; one undo takes it back"));
    connect(m_use, &QPushButton::clicked, this, &TraceCard::use);
    head->addWidget(m_use);
    auto* close = new QToolButton(this);
    close->setText(QStringLiteral("×"));
    close->setObjectName(QStringLiteral("trace.close"));
    close->setAccessibleName(tr("Put the trace away"));
    close->setToolTip(tr("Put the trace away; stops reading"));
    close->setAutoRaise(true);
    close->setFocusPolicy(Qt::TabFocus);
    connect(close, &QToolButton::clicked, this, [this] {
        m_work.close();
        emit hideAsked();
    });
    head->addWidget(close);
    column->addLayout(head);
    m_remarks = mutedLabel({}, this);
    m_remarks->setObjectName(QStringLiteral("trace.remarks"));
    m_remarks->setWordWrap(true);
    column->addWidget(m_remarks);
    auto* body = newRow(nullptr, 8);
    m_plot = new TracePlot(m_work, this);
    body->addWidget(m_plot, 1);
    m_levels = new QWidget(this);
    m_levels->setMinimumWidth(t.ipx(kLevelsWidth * 0.7));
    m_levels->setMaximumWidth(t.ipx(kLevelsWidth));
    body->addWidget(m_levels, 1);
    column->addLayout(body, 1);
    m_complaint = complaintLabel(QStringLiteral("trace.complaint"), this);
    column->addWidget(m_complaint);

    connect(&m_work, &TraceWork::changed, this, &TraceCard::refresh);
    connect(&m_work, &TraceWork::busyChanged, this, &TraceCard::refresh);
    connect(m_plot, &TracePlot::arranged, this, &TraceCard::arrangeRows);
    new Refresher(this, session, {&Session::projectChanged}, [this] {
        fillLoads();
        refresh();
    });
    new Refresher(this, session, {&Session::selectionChanged}, [this] {
        if (m_loadChosen)
            return;
        fillLoads();
        refresh();
    });
    fillLoads();
    refresh();
}

void TraceCard::fillLoads() {
    const QSignalBlocker quiet(m_load);
    const QString before = m_loadChosen ? m_load->currentData().toString() : m_session.selected();
    m_load->clear();
    for (const Load& load : m_session.project().loads)
        m_load->addItem(tr("of %1").arg(qs(nameOf(load))), qs(load.id));
    m_load->addItem(tr("of a new load"), QString());
    m_load->setCurrentIndex(std::max(0, m_load->findData(before)));
}

QString TraceCard::remarks() const {
    const Trace& t = *m_work.trace();
    QStringList parts;
    const auto rows = [&](std::initializer_list<const char*> words) {
        QStringList list;
        for (const TraceRemark& r : t.remarks)
            for (const char* word : words)
                if (r.what == word)
                    list << QString::number(r.row);
        return list.join(QStringLiteral(", "));
    };
    const auto say = [&](std::size_t count, const QString& one, const QString& many,
                         const QString& which) {
        if (count > 0)
            parts << tr("%1 (row %2%3)")
                         .arg(count == 1 ? one : many.arg(count))
                         .arg(which, count > 5 ? tr(" …") : QString());
    };
    say(t.badRows, tr("1 row can't be read"), tr("%1 rows can't be read"),
        rows({"no time", "no current", "no voltage"}));
    say(t.outOfOrder, tr("1 row goes back in time"), tr("%1 rows go back in time"),
        rows({"time does not go on"}));
    say(t.negative, tr("1 current is negative"), tr("%1 currents are negative"),
        rows({"negative current"}));
    return parts.join(QStringLiteral(" · "));
}

void TraceCard::refresh() {
    const Trace* trace = m_work.trace();
    m_use->setEnabled(trace && !m_work.busy());
    m_power->setVisible(trace && !trace->volts.empty());
    if (!trace) {
        m_about->setText(m_work.busy() ? tr("reading …") : tr("none on the bench"));
        m_remarks->clear();
        rebuildRows();
        return;
    }
    const TraceSegments& cut = m_work.cut();
    m_about->setText(QFileInfo(m_work.path()).fileName());
    const QString said = remarks();
    m_remarks->setText(
        tr("%1 rows over %2 · mean %3 · %4 · %5")
            .arg(QLocale(QLocale::English)
                     .toString(qlonglong(trace->seconds.size()))
                     .replace(',', ' '))
            .arg(hours(trace->span() / 3600), quantity(cut.meanAmps, Unit::ampere),
                 m_work.busy() ? tr("cutting …")
                               : tr("%1 of the charge asleep").arg(qs(writeShare(cut.sleepCharge))),
                 said.isEmpty() ? tr("every row can be read")
                                : QStringLiteral("<span style=\"color: %1\">%2</span>")
                                      .arg(colour(Role::weigh).name(), said.toHtmlEscaped())));
    if (static_cast<std::size_t>(m_rows.size()) != cut.modes.size())
        rebuildRows();
    const auto names =
        proposedNames(m_session.project(), cut, m_load->currentData().toString().toStdString());
    for (qsizetype i = 0; i < m_rows.size(); ++i)
        m_rows[i]->refresh(qs(names[static_cast<std::size_t>(i)]));
    arrangeRows();
}

void TraceCard::rebuildRows() {
    for (LevelRow* row : m_rows) {
        row->hide();
        row->deleteLater();
    }
    m_rows.clear();
    // From the top: that is also the order of the keys.
    for (std::size_t i = m_work.trace() ? m_work.cut().modes.size() : 0; i-- > 0;) {
        auto* row = new LevelRow(m_work, *m_plot, i, m_levels);
        row->show();
        m_rows.prepend(row);
    }
    arrangeRows();
}

void TraceCard::arrangeRows() {
    const Theme& t = Theme::now();
    if (m_rows.isEmpty() || m_rows.size() != static_cast<qsizetype>(m_work.levels().size()))
        return;
    std::vector<double> wanted;
    for (std::size_t i = m_work.levels().size(); i-- > 0;)
        wanted.push_back(m_plot->yOf(m_work.levels()[i]));
    const std::vector<double> tall(wanted.size(), t.px(kRowHeight));
    const auto at = placeWithoutOverlap(wanted, tall, 0, m_levels->height());
    for (std::size_t i = 0; i < at.size(); ++i)
        m_rows[static_cast<qsizetype>(at.size() - 1 - i)]->setGeometry(
            0, qRound(at[i] - t.px(kRowHeight) / 2), m_levels->width(), t.ipx(kRowHeight));
}

void TraceCard::use() {
    TraceImport take;
    take.how = m_how->currentIndex() == 0 ? ImportMode::replace : ImportMode::add;
    take.load = m_load->currentData().toString().toStdString();
    take.asPower = m_power->isVisible() && m_power->isChecked();
    take.names = m_work.names();
    const Project before = m_session.project();
    Project after = withTraceModes(before, m_work.cut(), take);
    if (after == before) {
        complain(*m_complaint, before.stages.empty()
                                   ? tr("There is no stage that the load could hang on yet.")
                                   : tr("Nothing changes: these modes are there already."));
        return;
    }
    const QString name = tr("modes from %1").arg(QFileInfo(m_work.path()).fileName());
    if (const auto trouble = m_session.edit(name, std::move(after))) {
        complain(*m_complaint, qs(trouble->message()));
        return;
    }
    complain(*m_complaint, {});
    emit used();
}

} // namespace sipper::app
