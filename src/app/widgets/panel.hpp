// SPDX-License-Identifier: GPL-3.0-or-later
// What the cards of the work area share.
#pragma once

#include "theme/theme.hpp"

#include <QFrame>
#include <QLabel>
#include <QLayout>

class QTableView;

namespace sipper::app {

/// Card ground, hairline border, rounded corners.
void makeCard(QFrame& frame, const QString& name, const QString& accessible);
/// Second text.
[[nodiscard]] QLabel* mutedLabel(const QString& text, QWidget* parent, double size = 11);
/// Where a refused edit says why; hidden while there is nothing to say.
[[nodiscard]] QLabel* complaintLabel(const QString& name, QWidget* parent);
void complain(QLabel& label, const QString& text);
/// A page that fills the widget and scrolls where it is higher than that; `name` is the scroll
/// area's. Returns the page.
[[nodiscard]] QWidget* scrollingPage(QWidget* owner, const QString& name);
/// A table without frame and grid on the ground of its card, rows of one height.
void styleTable(QTableView& table);
/// Takes everything out of a layout; its widgets lose their names at once and go when the event
/// that asked for it is over.
void clearLayout(QLayout& layout);
/// The chosen one of a row of buttons, or a plain one again.
void accentButton(QWidget& button, bool on);
/// The colour of a role as a style sheet's `color`.
[[nodiscard]] QString inkOf(Role role);

} // namespace sipper::app
