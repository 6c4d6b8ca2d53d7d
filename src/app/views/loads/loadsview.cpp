// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/loads/loadsview.hpp"

#include "theme/theme.hpp"
#include "views/loads/chargebar.hpp"
#include "views/loads/loadgrid.hpp"
#include "views/loads/loadprofileplot.hpp"
#include "views/loads/modebar.hpp"
#include "views/loads/tracecard.hpp"
#include "views/loads/tracedialog.hpp"
#include "widgets/controls.hpp"
#include "widgets/inspector.hpp"
#include "widgets/panel.hpp"
#include "widgets/refresher.hpp"
#include "widgets/viewtitle.hpp"

#include <QDragEnterEvent>
#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QMimeData>
#include <QPushButton>
#include <QVBoxLayout>

namespace sipper::app {
namespace {

constexpr double kDayBesideTrace = 660; ///< px of height at 100 %
constexpr qint64 kStartBytes = 65536;   ///< of a trace: enough to see how it is written

} // namespace

LoadsView::LoadsView(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("loads"));
    setAcceptDrops(true);
    askWhichTrace = [this] {
        return QFileDialog::getOpenFileName(this, tr("Open a measured trace"), {},
                                            tr("Tables (*.csv *.tsv *.txt);;All files (*)"));
    };
    askFormat = [this](const QString& path, const std::string& start) {
        TraceDialog dialog(QFileInfo(path).fileName(), start, this);
        return dialog.exec() == QDialog::Accepted ? std::optional(dialog.format()) : std::nullopt;
    };
    // Where the window is low everything keeps its height and the page scrolls.
    QWidget* page = scrollingPage(this, QStringLiteral("loads.scroll"));
    auto* column = newColumn(page, 6, Margins{16, 8, 16, 12});
    column->addLayout(buildTitle());
    buildDay(column);
    m_besides << caption(column, tr("One cycle"));
    auto* cycle = new LoadProfilePlot(session, false, this);
    column->addWidget(cycle, 2);
    auto* modes = new ModeBar(session, this);
    column->addWidget(modes);
    auto* grid = new LoadGrid(session, this);
    connect(grid, &LoadGrid::modeChosen, modes, &ModeBar::enter);
    column->addWidget(grid, 4);
    auto* inspector = new Inspector(session, this);
    inspector->setFixedHeight(Inspector::heightOf(2));
    column->addWidget(inspector);
    m_besides << cycle << modes << inspector;
    buildTrace(column);
    m_seen = session.traceWork().trace();
    showTrace(session.traceWork().trace() != nullptr);
}

QLayout* LoadsView::buildTitle() {
    auto* title = viewTitle(this, tr("Loads"), tr("what your project draws, and when"));
    m_show = pushButton(this, "trace.show", {}, tr("Show or hide the measured trace"));
    connect(m_show, &QPushButton::clicked, this, [this] { showTrace(!m_card->isVisibleTo(this)); });
    title->addWidget(m_show);
    auto* open =
        pushButton(this, "trace.open", tr("Open a measured trace…"),
                   tr("A CSV of time and current, or drop one here: it is cut into modes"));
    connect(open, &QPushButton::clicked, this, [this] {
        if (const QString path = askWhichTrace(); !path.isEmpty())
            openTrace(path);
    });
    title->addWidget(open);
    return title;
}

QLabel* LoadsView::caption(QVBoxLayout* column, const QString& text) {
    auto* label = textLabel(this, text, {.size = 12, .bold = true, .ink = Role::muted});
    column->addWidget(label);
    return label;
}

void LoadsView::buildDay(QVBoxLayout* column) {
    QLabel* where = caption(column, {});
    const auto nameWhere = [this, where] {
        where->setText(m_session.project().pack() ? tr("A day, at the cells")
                                                  : tr("A day, at the source"));
    };
    new Refresher(this, m_session, {&Session::projectChanged}, nameWhere);
    nameWhere();
    m_dayParts << where;
    auto* day = new LoadProfilePlot(m_session, true, this);
    column->addWidget(day, 3);
    auto* bar = new ChargeBar(m_session, this);
    column->addWidget(bar);
    m_dayParts << day << bar;
}

void LoadsView::buildTrace(QVBoxLayout* column) {
    auto* card = new TraceCard(m_session, this);
    m_card = card;
    card->setMinimumHeight(Theme::now().ipx(230));
    column->addWidget(card, 6);
    connect(card, &TraceCard::used, this, [this] { showTrace(false); });
    connect(card, &TraceCard::hideAsked, this, [this] { showTrace(false); });
    connect(&m_session.traceWork(), &TraceWork::failed, this, [this](const Error& error) {
        if (!m_session.traceWork().trace())
            showTrace(false);
        emit troubled(error);
    });
    connect(&m_session.traceWork(), &TraceWork::changed, this, [this] {
        const Trace* now = m_session.traceWork().trace();
        if (now && now != m_seen)
            showTrace(true); // another one has been read
        m_seen = now;
        refreshButtons();
    });
}

void LoadsView::openTrace(const QString& path) {
    QFile file(path);
    if (!file.open(QIODevice::ReadOnly)) {
        emit troubled(Error{"unreadable", "", file.errorString().toStdString(),
                            "a file that can be read", path.toStdString()});
        return;
    }
    const std::string start = file.read(kStartBytes).toStdString();
    if (const auto format = askFormat(path, start)) {
        m_session.traceWork().open(path, *format);
        showTrace(true);
    }
}

void LoadsView::showTrace(bool on) {
    m_card->setVisible(on);
    for (QWidget* w : m_besides)
        w->setVisible(!on);
    makeRoom();
    refreshButtons();
}

/// Beside a trace there is room for the day only in a high window.
void LoadsView::makeRoom() {
    const bool room = !m_card->isVisibleTo(this) || height() >= Theme::now().px(kDayBesideTrace);
    for (QWidget* w : m_dayParts)
        w->setVisible(room);
}

void LoadsView::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    makeRoom();
}

void LoadsView::refreshButtons() {
    m_show->setVisible(m_session.traceWork().trace() != nullptr);
    m_show->setText(m_card->isVisibleTo(this) ? tr("Hide the trace") : tr("Show the trace"));
}

void LoadsView::dragEnterEvent(QDragEnterEvent* event) {
    const QList<QUrl> urls = event->mimeData()->urls();
    if (urls.size() == 1 && urls.front().isLocalFile() &&
        !urls.front().toLocalFile().endsWith(QStringLiteral(".sipper")))
        event->acceptProposedAction();
}

void LoadsView::dropEvent(QDropEvent* event) {
    event->acceptProposedAction();
    openTrace(event->mimeData()->urls().front().toLocalFile());
}

} // namespace sipper::app
