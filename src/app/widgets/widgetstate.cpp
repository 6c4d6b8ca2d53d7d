// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/widgetstate.hpp"

#include <QAbstractButton>
#include <QAbstractScrollArea>
#include <QAbstractSlider>
#include <QApplication>
#include <QComboBox>
#include <QLineEdit>
#include <QPointer>
#include <QScrollBar>
#include <QTimer>
#include <algorithm>

namespace sipper::app {
namespace {

const QString kFocus = QStringLiteral("focus");

} // namespace

QVariantMap stateOf(const QWidget& root) {
    QVariantMap state;
    for (const QWidget* w : root.findChildren<QWidget*>()) {
        const QString name = w->objectName();
        if (name.isEmpty() || name.startsWith("qt_"))
            continue;
        if (const auto* button = qobject_cast<const QAbstractButton*>(w);
            button && button->isCheckable())
            state.insert("check " + name, button->isChecked());
        else if (const auto* slider = qobject_cast<const QAbstractSlider*>(w))
            state.insert("slide " + name, slider->value());
        else if (const auto* combo = qobject_cast<const QComboBox*>(w))
            state.insert("choose " + name, combo->currentIndex());
        else if (const auto* line = qobject_cast<const QLineEdit*>(w))
            state.insert("type " + name, line->text());
        else if (const auto* area = qobject_cast<const QAbstractScrollArea*>(w))
            state.insert("scroll " + name, area->verticalScrollBar()->value());
    }
    if (const QWidget* at = QApplication::focusWidget(); at && root.isAncestorOf(at))
        state.insert(kFocus, at->objectName());
    return state;
}

void restoreWidgets(QWidget& root, const QVariantMap& state) {
    for (QWidget* w : root.findChildren<QWidget*>()) {
        const QString& name = w->objectName();
        const auto of = [&](const char* what) { return state.value(what + (" " + name)); };
        if (auto* button = qobject_cast<QAbstractButton*>(w); button && button->isCheckable()) {
            if (const QVariant v = of("check"); v.isValid() && v.toBool() != button->isChecked() &&
                                                (v.toBool() || !button->autoExclusive()))
                button->click();
        } else if (auto* slider = qobject_cast<QAbstractSlider*>(w)) {
            if (const QVariant v = of("slide"); v.isValid())
                slider->setValue(v.toInt());
        } else if (auto* combo = qobject_cast<QComboBox*>(w)) {
            if (const QVariant v = of("choose"); v.isValid() && v.toInt() < combo->count())
                combo->setCurrentIndex(v.toInt());
        } else if (auto* line = qobject_cast<QLineEdit*>(w)) {
            if (const QVariant v = of("type"); v.isValid() && v.toString() != line->text())
                line->setText(v.toString());
        }
    }
    QTimer::singleShot(0, &root, [root = QPointer<QWidget>(&root), state] {
        if (!root)
            return;
        for (auto* area : root->findChildren<QAbstractScrollArea*>())
            if (const QVariant v = state.value("scroll " + area->objectName());
                v.isValid() && !area->objectName().isEmpty())
                area->verticalScrollBar()->setValue(v.toInt());
        const QString focus = state.value(kFocus).toString();
        if (!focus.isEmpty())
            if (auto* at = root->findChild<QWidget*>(focus))
                at->setFocus(Qt::OtherFocusReason);
    });
}

} // namespace sipper::app
