// SPDX-License-Identifier: GPL-3.0-or-later
#include "shell/steplist.hpp"

#include "shell/viewtable.hpp"
#include "theme/theme.hpp"
#include "widgets/controls.hpp"

#include <QPainter>
#include <QVBoxLayout>
#include <algorithm>

namespace sipper::app {

StepButton::StepButton(int number, const QString& view, const QString& title, QWidget* parent)
    : QAbstractButton(parent), m_number(number), m_title(title) {
    setObjectName("step." + view);
    setCheckable(true);
    setAutoExclusive(true);
    setFocusPolicy(Qt::TabFocus);
    setCursor(Qt::PointingHandCursor);
    setToolTip(tr("%1 (Ctrl+%2)").arg(title).arg(number));
    setAccessibleName(title);
}

void StepButton::setLine(const QString& line, bool trouble) {
    m_line = line;
    m_trouble = trouble;
    setAccessibleDescription(line);
    update();
}

QSize StepButton::sizeHint() const {
    return {Theme::now().ipx(168), Theme::now().ipx(52)};
}

void StepButton::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& t = Theme::now();
    if (isChecked()) {
        p.fillRect(rect(), colour(Role::paper));
        p.fillRect(QRectF(0, 0, t.px(4), height()), colour(Role::copper));
    }
    if (hasFocus()) {
        p.setPen(QPen(colour(Role::copper), 1));
        p.drawRect(rect().adjusted(0, 0, -1, -1));
    }
    p.setFont(t.font(13, isChecked()));
    p.setPen(colour(isChecked() ? Role::copper : Role::muted));
    p.drawText(QRectF(t.px(14), t.px(6), t.px(18), t.px(22)), Qt::AlignLeft | Qt::AlignVCenter,
               QString::number(m_number));
    p.setPen(colour(Role::ink));
    p.drawText(QRectF(t.px(36), t.px(6), width() - t.px(42), t.px(22)),
               Qt::AlignLeft | Qt::AlignVCenter, m_title);
    p.setFont(t.font(11));
    p.setPen(colour(m_trouble ? Role::stop : Role::muted));
    p.drawText(QRectF(t.px(36), t.px(27), width() - t.px(42), t.px(18)),
               Qt::AlignLeft | Qt::AlignVCenter,
               QFontMetricsF(p.font()).elidedText(m_line, Qt::ElideRight, width() - t.px(42)));
}

StepList::StepList(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("steps"));
    auto* column = newColumn(this, 4, Margins{0, 12, 0, 12});
    for (const ViewEntry& entry : viewTable()) {
        if (entry.step == 0)
            continue;
        const QString view = QString::fromLatin1(entry.name);
        auto* button = new StepButton(entry.step, view, tr(entry.title), this);
        connect(button, &QAbstractButton::clicked, this, [this, view] { emit chosen(view); });
        m_views << view;
        m_buttons << button;
        column->addWidget(button);
    }
    column->addStretch();
    setFixedWidth(Theme::now().ipx(168));
    connect(&session, &Session::projectChanged, this, &StepList::refresh);
    connect(&session, &Session::resultsUpdated, this, &StepList::refresh);
    refresh();
}

void StepList::setCurrent(const QString& view) {
    const auto at = m_views.indexOf(view);
    // The ring stays on the step that is open, wherever it was opened from.
    const bool ringed = std::any_of(m_buttons.begin(), m_buttons.end(),
                                    [](const StepButton* b) { return b->hasFocus(); });
    if (ringed && at >= 0)
        m_buttons[at]->setFocus();
    for (StepButton* button : m_buttons) {
        button->setAutoExclusive(false); // the start page is no step: then none is marked
        button->setChecked(at >= 0 && button == m_buttons[at]);
        button->setAutoExclusive(true);
    }
}

void StepList::refresh() {
    qsizetype at = 0;
    for (const ViewEntry& entry : viewTable())
        if (entry.step > 0) {
            const StepLine line = entry.line(m_session);
            m_buttons[at++]->setLine(line.text, line.trouble);
        }
}

void StepList::paintEvent(QPaintEvent*) {
    QPainter(this).fillRect(rect(), colour(Role::shelf));
}

} // namespace sipper::app
