// What the project draws, and when.
#pragma once

#include "session/session.hpp"

#include <QWidget>

namespace sipper::app {

class LoadsView : public QWidget {
    Q_OBJECT
  public:
    explicit LoadsView(Session& session, QWidget* parent = nullptr);
};

} // namespace sipper::app
