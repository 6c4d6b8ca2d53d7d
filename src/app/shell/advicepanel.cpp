// SPDX-License-Identifier: GPL-3.0-or-later
#include "shell/advicepanel.hpp"

#include "theme/theme.hpp"
#include "widgets/controls.hpp"
#include "widgets/flowlayout.hpp"
#include "widgets/severitymark.hpp"
#include "widgets/text.hpp"

#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QScrollArea>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>

namespace sipper::app {
namespace {

/// The text, broken at its last word that fits where it is wider than the room; what is too long
/// for the second line too is cut there.
QString inTwoLines(const QString& text, const QFontMetrics& metrics, int room) {
    if (metrics.horizontalAdvance(text) <= room)
        return text;
    qsizetype at = text.indexOf(' ');
    for (qsizetype next = at; next > 0 && metrics.horizontalAdvance(text.left(next)) <= room;
         next = text.indexOf(' ', next + 1))
        at = next;
    if (at <= 0)
        return metrics.elidedText(text, Qt::ElideRight, room);
    return metrics.elidedText(text.left(at), Qt::ElideRight, room) + '\n' +
           metrics.elidedText(text.mid(at + 1), Qt::ElideRight, room);
}

} // namespace

AdviceCard::AdviceCard(Session& session, const Finding& f, QWidget* parent)
    : QFrame(parent), m_session(session), m_subject(qs(f.subject)) {
    const Theme& t = Theme::now();
    setObjectName(QStringLiteral("advice.%1.%2").arg(qs(f.rule), m_subject));
    setAccessibleName(qs(f.title));
    setAccessibleDescription(qs(f.says));
    setFocusPolicy(Qt::StrongFocus);
    auto* column = newColumn(this, 6, Margins{10, 10, 10, 10});
    auto* head = newRow(nullptr, 8);
    head->addWidget(new SeverityMark(f.severity, this), 0, Qt::AlignTop);
    auto* title = textLabel(this, qs(f.title), {.size = 12.5, .bold = true, .wrap = true});
    head->addWidget(title, 1);
    column->addLayout(head);
    auto* says = textLabel(this, qs(f.says), {.size = 11.5, .wrap = true, .ink = Role::muted});
    column->addWidget(says);
    if (f.rule == "no_refill") {
        auto* fill = pushButton(this, objectName() + ".fill", tr("Fill it by…"),
                                tr("What could fill these cells, each solved on them"));
        connect(fill, &QPushButton::clicked, this,
                [this] { emit m_session.viewAsked(QStringLiteral("charging")); });
        column->addWidget(fill, 0, Qt::AlignLeft);
    }
    if (!f.fix)
        return;
    auto* cure = new QWidget(this);
    auto* row = new FlowLayout(cure, t.ipx(8), t.ipx(4));
    // A long name takes two lines, or it would push the whole column out of the window.
    const QString label = qs(f.fix->label);
    auto* button = new QPushButton(this);
    button->setText(inTwoLines(label, QFontMetrics(t.font(12.5, true)), t.ipx(178)));
    button->setAccessibleName(label);
    button->setObjectName(objectName() + ".cure");
    button->setProperty("accent", f.severity == Severity::stop);
    button->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
    button->setToolTip(
        tr("%1. Applies as one edit that can be undone: %2").arg(label, qs(f.fix->name)));
    connect(button, &QPushButton::clicked, this, [this, edit = *f.fix] {
        // The panel is made anew by the edit: leave the button's own event first.
        QTimer::singleShot(0, &m_session, [s = &m_session, edit] {
            s->apply(qs(edit.name), edit.apply(s->project()));
        });
    });
    row->addWidget(button);
    if (f.gainHours) {
        auto* gain = textLabel(this, (*f.gainHours >= 0 ? "+" : "") + hours(*f.gainHours),
                               {.size = 12, .bold = true});
        gain->setStyleSheet(QStringLiteral("color: %1")
                                .arg(colour(*f.gainHours >= 0 ? Role::fine : Role::muted).name()));
        gain->setToolTip(tr("What the runtime gains by it"));
        gain->setMinimumHeight(button->sizeHint().height());
        row->addWidget(gain);
    }
    column->addWidget(cure);
}

void AdviceCard::enterEvent(QEnterEvent*) {
    m_session.highlight(m_subject);
}
void AdviceCard::leaveEvent(QEvent*) {
    m_session.highlight({});
}
void AdviceCard::mousePressEvent(QMouseEvent*) {
    if (m_subject != "project")
        QTimer::singleShot(0, &m_session, [s = &m_session, id = m_subject] { s->select(id); });
}
void AdviceCard::focusInEvent(QFocusEvent*) {
    m_session.highlight(m_subject);
    update();
}
void AdviceCard::focusOutEvent(QFocusEvent*) {
    m_session.highlight({});
    update();
}
void AdviceCard::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const bool chosen = hasFocus() || m_session.highlighted() == m_subject;
    p.setPen(QPen(colour(chosen ? Role::copper : Role::hairline), chosen ? 1.6 : 1));
    p.setBrush(colour(Role::field));
    p.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 4, 4);
}

AdvicePanel::AdvicePanel(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("advice"));
    setAccessibleName(tr("Advice"));
    const Theme& t = Theme::now();
    auto* column = newColumn(this, 8, Margins{12, 8, 10, 8});
    m_head = new QWidget(this);
    auto* head = newRow(m_head, {}, Margins{4, 0, 0, 0});
    auto* title = textLabel(this, tr("Advice"), {.size = 15, .bold = true});
    m_about = textLabel(this, {}, {.size = 11, .ink = Role::muted});
    auto* fold = pushButton(this, "advice.fold", QStringLiteral("›"));
    fold->setAccessibleName(tr("Fold the advice away"));
    fold->setToolTip(tr("Fold the advice away (Ctrl+D)"));
    fold->setFixedSize(t.ipx(26), t.ipx(24));
    connect(fold, &QPushButton::clicked, this, [this] { emit foldAsked(true); });
    head->addWidget(title);
    head->addStretch();
    head->addWidget(m_about);
    head->addWidget(fold);
    column->addWidget(m_head);
    m_scroll = new QScrollArea(this);
    m_scroll->setWidgetResizable(true);
    m_scroll->setFrameShape(QFrame::NoFrame);
    m_scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_scroll->setStyleSheet(QStringLiteral(
        "QScrollArea, QScrollArea > QWidget > QWidget { background: transparent; }"));
    m_list = new QWidget;
    m_column = newColumn(m_list, 8, Margins{0, 0, 2, 0});
    m_column->addStretch();
    m_scroll->setWidget(m_list);
    column->addWidget(m_scroll, 1);
    connect(&session, &Session::projectChanged, this, &AdvicePanel::rebuild);
    connect(&session, &Session::resultsUpdated, this, &AdvicePanel::rebuild);
    connect(&session, &Session::selectionChanged, this, &AdvicePanel::rebuild);
    connect(&session, &Session::highlightChanged, this, [this] {
        for (AdviceCard* card : m_cards)
            card->update();
    });
    setFolded(false);
    rebuild();
}

void AdvicePanel::rebuild() {
    for (AdviceCard* card : m_cards) {
        card->hide(); // a click may still be on its way out of it
        card->setObjectName({});
        card->deleteLater();
    }
    m_cards.clear();
    qDeleteAll(
        m_list->findChildren<QLabel*>(QStringLiteral("advice.none"), Qt::FindDirectChildrenOnly));
    std::vector<Finding> list = m_session.results().findings;
    const std::string chosen = m_session.selected().toStdString();
    // The chosen part's advice comes first.
    std::stable_sort(list.begin(), list.end(), [&](const Finding& a, const Finding& b) {
        return (a.subject == chosen) > (b.subject == chosen);
    });
    int at = 0;
    for (const Finding& f : list) {
        auto* card = new AdviceCard(m_session, f, m_list);
        m_column->insertWidget(at++, card);
        m_cards << card;
    }
    m_about->setText(list.empty() ? QString()
                                  : tr("%n piece(s)", nullptr, static_cast<int>(list.size()))
                                        .replace("(s)", list.size() == 1 ? "" : "s"));
    if (list.empty()) {
        auto* none =
            textLabel(m_list,
                      m_session.results().sweep || !m_session.results().externalLoads.empty()
                          ? tr("Nothing to mend and nothing to weigh: every load gets "
                               "its volts.")
                          : tr("No source yet: nothing to judge."),
                      {.size = 12, .wrap = true, .name = "advice.none"});
        none->setStyleSheet(
            QStringLiteral("color: %1; padding: 4px;").arg(colour(Role::fine).name()));
        m_column->insertWidget(0, none);
    }
    m_at = std::min<int>(m_at, static_cast<int>(m_cards.size()) - 1);
    update();
}

void AdvicePanel::setFolded(bool folded) {
    m_folded = folded;
    m_head->setVisible(!folded);
    m_scroll->setVisible(!folded);
    setFixedWidth(Theme::now().ipx(folded ? 34 : 246));
    setCursor(folded ? Qt::PointingHandCursor : Qt::ArrowCursor);
    setToolTip(folded ? tr("Show the advice (Ctrl+D)") : QString());
    update();
}

void AdvicePanel::next() {
    if (m_cards.isEmpty())
        return;
    if (m_folded)
        emit foldAsked(false);
    m_at = (m_at + 1) % static_cast<int>(m_cards.size());
    m_scroll->ensureWidgetVisible(m_cards[m_at]);
    m_cards[m_at]->setFocus(Qt::ShortcutFocusReason);
    m_session.highlight(m_cards[m_at]->subject());
}

void AdvicePanel::mousePressEvent(QMouseEvent*) {
    if (m_folded)
        emit foldAsked(false);
}

void AdvicePanel::paintEvent(QPaintEvent*) {
    QPainter p(this);
    const Theme& t = Theme::now();
    p.fillRect(rect(), colour(Role::card));
    p.setPen(QPen(colour(Role::hairline), 1));
    p.drawLine(0, 0, 0, height());
    if (!m_folded)
        return;
    // Folded: a mark for each piece, in order.
    double y = t.px(16);
    for (const Finding& f : m_session.results().findings) {
        drawSeverity(p, QRectF(t.px(11), y, t.px(12), t.px(12)), f.severity);
        y += t.px(22);
    }
    p.setFont(t.font(12, true));
    p.setPen(colour(Role::muted));
    p.save();
    p.translate(t.px(10), y + t.px(8));
    p.rotate(90);
    p.drawText(QRectF(0, -t.px(16), t.px(120), t.px(16)), Qt::AlignLeft | Qt::AlignVCenter,
               tr("Advice"));
    p.restore();
}

} // namespace sipper::app
