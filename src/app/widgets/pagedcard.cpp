// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/pagedcard.hpp"

#include "widgets/controls.hpp"
#include "widgets/panel.hpp"

#include <QHBoxLayout>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

namespace sipper::app {

PagedCard::PagedCard(const QString& name, const QString& accessible, const QString& prefix,
                     QWidget* parent)
    : QFrame(parent) {
    makeCard(*this, name, accessible);
    auto* column = newColumn(this, 6, Margins{12, 8, 8, 8});
    m_head = newRow(nullptr, 6);
    m_head->addStretch();
    m_state = mutedLabel({}, this);
    m_state->setObjectName(prefix + QStringLiteral(".state"));
    m_head->addWidget(m_state);
    column->addLayout(m_head);
    auto* scroll = new QScrollArea(this);
    scroll->setObjectName(prefix + QStringLiteral(".scroll"));
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setFocusPolicy(Qt::NoFocus);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setStyleSheet(
        QStringLiteral("QScrollArea, #%1Body { background: transparent; }").arg(prefix));
    m_body = new QWidget;
    m_body->setObjectName(prefix + QStringLiteral("Body"));
    m_rows = newColumn(m_body, 2, Margins{0, 0, 4, 0});
    scroll->setWidget(m_body);
    column->addWidget(scroll, 1);
}

void PagedCard::addPage(const QString& text, const char* name, const QString& help) {
    auto* b = pushButton(this, QLatin1String(name), text);
    b->setCheckable(true);
    b->setToolTip(help);
    const int number = static_cast<int>(m_pages.size());
    connect(b, &QPushButton::clicked, this, [this, number] { choose(number); });
    m_head->insertWidget(number, b);
    m_pages << b;
}

void PagedCard::addToHead(QWidget* control) {
    m_head->addWidget(control);
}

void PagedCard::choose(int page) {
    m_page = page;
    for (int i = 0; i < static_cast<int>(m_pages.size()); ++i) {
        QPushButton* b = m_pages[i];
        b->setChecked(i == page);
        accentButton(*b, i == page);
    }
    showPage();
}

void PagedCard::showPage() {
    clearLayout(*m_rows);
    fillPage();
    m_rows->addStretch();
}

} // namespace sipper::app
