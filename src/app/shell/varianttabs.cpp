// SPDX-License-Identifier: GPL-3.0-or-later
#include "shell/varianttabs.hpp"

#include "project/variants.hpp"
#include "theme/theme.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/text.hpp"

#include <QHBoxLayout>
#include <QInputDialog>
#include <QMenu>
#include <QToolButton>

namespace sipper::app {
namespace {

constexpr double kWidestName = 84; ///< px of a tab's text at 100 %

} // namespace

VariantTabs::VariantTabs(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("variants"));
    askForName = [this](const QString& now) {
        bool good = false;
        const QString name = QInputDialog::getText(
            this, tr("Name the variant"), tr("A short name of its own, such as B or Alkaline:"),
            QLineEdit::Normal, now, &good);
        return good ? name : QString();
    };
    m_row = newRow(this, 2, Margins{});
    connect(&session, &Session::variantsChanged, this, &VariantTabs::refresh);
    refresh();
}

void VariantTabs::refresh() {
    const Theme& t = Theme::now();
    const Project& document = m_session.document();
    QStringList names;
    for (std::size_t i = 0; i < variantCount(document); ++i)
        names << qs(variantName(document, i));
    // Another one is open, no more: the tabs stay, and the keyboard's focus with them.
    if (names == m_names) {
        for (qsizetype i = 0; i < m_tabs.size(); ++i)
            m_tabs[i]->setChecked(i == static_cast<qsizetype>(m_session.variant()));
        return;
    }
    m_names = names;
    clearLayout(*m_row);
    m_tabs.clear();
    const auto button = [&](const QString& text, const QString& name, const QString& help) {
        auto* b = new QToolButton(this);
        b->setText(text);
        b->setObjectName(name);
        b->setToolTip(help);
        b->setAccessibleName(help);
        b->setFont(t.font(12, true));
        b->setFocusPolicy(Qt::TabFocus);
        b->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
        b->setStyleSheet(
            QStringLiteral("QToolButton { color: %1; background: transparent; border: 1px solid "
                           "transparent; border-radius: 4px; padding: 1px %4px; }"
                           "QToolButton:hover, QToolButton:focus { border-color: %1; }"
                           "QToolButton:checked { color: %2; background: %3; }")
                .arg(colour(Role::headerMuted).name(), colour(Role::header).name(),
                     colour(Role::headerInk).name(), QString::number(t.ipx(7))));
        m_row->addWidget(b);
        return b;
    };
    for (std::size_t i = 0; i < variantCount(document); ++i) {
        const QString& name = names[static_cast<qsizetype>(i)];
        auto* tab = button(
            QFontMetrics(t.font(12, true)).elidedText(name, Qt::ElideRight, t.ipx(kWidestName)),
            QStringLiteral("variant.%1").arg(i), tr("Variant %1").arg(name));
        tab->setCheckable(true);
        tab->setChecked(i == m_session.variant());
        connect(tab, &QToolButton::clicked, this, [this, i] {
            m_session.showVariant(i);
            refresh(); // a click on the open one leaves it open
        });
        tab->setContextMenuPolicy(Qt::CustomContextMenu);
        connect(tab, &QWidget::customContextMenuRequested, this,
                [this, i, tab](const QPoint& at) { menuAt(i, tab->mapToGlobal(at)); });
        m_tabs << tab;
    }
    auto* add = button(QStringLiteral("+"), QStringLiteral("variant.add"),
                       tr("Another variant, as a copy of this one"));
    connect(add, &QToolButton::clicked, this, &VariantTabs::addCopy);
    if (variantCount(document) > 1) {
        auto* compare =
            button(tr("compare"), QStringLiteral("variant.compare"), tr("Variants side by side"));
        compare->setFont(t.font(11));
        connect(compare, &QToolButton::clicked, this, &VariantTabs::compareAsked);
    }
}

void VariantTabs::addCopy() {
    if (const auto trouble = m_session.addVariant(tr("add a variant"), m_session.project()))
        emit troubled(*trouble);
}

void VariantTabs::rename(std::size_t number) {
    const QString now = qs(variantName(m_session.document(), number));
    const QString name = askForName(now).trimmed();
    if (name.isEmpty() || name == now)
        return;
    if (const auto trouble = m_session.renameVariant(number, name))
        emit troubled(*trouble);
}

void VariantTabs::remove(std::size_t number) {
    if (const auto trouble = m_session.removeVariant(number))
        emit troubled(*trouble);
}

void VariantTabs::next() {
    m_session.showVariant((m_session.variant() + 1) % variantCount(m_session.document()));
}

void VariantTabs::menuAt(std::size_t number, const QPoint& where) {
    QMenu menu(this);
    menu.addAction(tr("Rename…"), [this, number] { rename(number); });
    QAction* gone = menu.addAction(tr("Remove"), [this, number] { remove(number); });
    gone->setEnabled(variantCount(m_session.document()) > 1);
    menu.addAction(tr("Compare"), [this] { emit compareAsked(); })
        ->setEnabled(variantCount(m_session.document()) > 1);
    menu.exec(where);
}

} // namespace sipper::app
