// SPDX-License-Identifier: GPL-3.0-or-later
// What a person has set on a page of widgets and no document keeps: which page, slider, tick and
// scroll position. For a page that is made anew.
#pragma once

#include <QVariantMap>

class QWidget;

namespace sipper::app {

/// By object name; what has none is left out.
[[nodiscard]] QVariantMap stateOf(const QWidget& root);
/// Sets what is named in `state` and differs; scroll positions and the focus once the page is laid
/// out.
void restoreWidgets(QWidget& root, const QVariantMap& state);

} // namespace sipper::app
