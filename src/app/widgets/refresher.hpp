// SPDX-License-Identifier: GPL-3.0-or-later
// A view refreshes only while it is visible: what happens meanwhile is made good when it is shown.
#pragma once

#include "session/session.hpp"

#include <QEvent>
#include <QWidget>
#include <functional>
#include <initializer_list>

namespace sipper::app {

class Refresher : public QObject {
  public:
    using Signal = void (Session::*)();

    /// Calls `refresh` at each of the session's signals while `view` can be seen, and once when it
    /// is shown after one that it missed. Belongs to the view.
    Refresher(QWidget* view, Session& session, std::initializer_list<Signal> signals_,
              std::function<void()> refresh)
        : QObject(view), m_view(view), m_refresh(std::move(refresh)) {
        for (const Signal signal : signals_)
            connect(&session, signal, this, &Refresher::happened);
        view->installEventFilter(this);
    }
    /// Something else changed: as if a signal had come.
    void happened() {
        m_stale = !m_view->isVisible();
        if (!m_stale)
            m_refresh();
    }

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override {
        if (event->type() == QEvent::Show && m_stale) {
            m_stale = false;
            m_refresh();
        }
        return QObject::eventFilter(watched, event);
    }

  private:
    QWidget* m_view;
    std::function<void()> m_refresh;
    bool m_stale = true; ///< never shown yet
};

} // namespace sipper::app
