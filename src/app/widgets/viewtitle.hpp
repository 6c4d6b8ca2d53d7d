// The title line of a view: its name and what it shows.
#pragma once

#include <QHBoxLayout>
#include <QLabel>

namespace sipper::app {

/// A row with a title, a muted sentence, and room on the right for the view's own controls.
[[nodiscard]] QHBoxLayout* viewTitle(QWidget* parent, const QString& title, const QString& about);

} // namespace sipper::app
