// SPDX-License-Identifier: GPL-3.0-or-later
// The title line of a view: its name and what it shows.
#pragma once

#include <QHBoxLayout>
#include <QLabel>

namespace sipper::app {

/// A row with a title, a muted sentence, and room on the right for the view's own controls.
[[nodiscard]] QHBoxLayout* viewTitle(QWidget* parent, const QString& title, const QString& about);

/// The row that a view begins with: one large figure or word, and one sentence. The labels are
/// called `name.answer` and `name.says`.
[[nodiscard]] QHBoxLayout* answerRow(QWidget* parent, const QString& name, QLabel*& word,
                                     QLabel*& says);

} // namespace sipper::app
