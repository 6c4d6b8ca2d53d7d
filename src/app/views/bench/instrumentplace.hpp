// SPDX-License-Identifier: GPL-3.0-or-later
// One instrument on the bench: its address, whether it answers, and what it says it is.
#pragma once

#include "views/bench/scpilink.hpp"

#include <QWidget>

class QLabel;
class QLineEdit;
class QPushButton;

namespace sipper::app {

class InstrumentPlace : public QWidget {
    Q_OBJECT
  public:
    /// `name` is the last word of its object names and of what is remembered of it.
    InstrumentPlace(const QString& words, const char* name, QWidget* parent);

    [[nodiscard]] ScpiLink& link() { return *m_link; }
    /// Connects there, without keeping the address for the next time.
    void connectTo(const QString& address);
    /// Lets it go, as the button does.
    void leave();
    /// Does it play the bench of a project, so that its probe can be put in place?
    [[nodiscard]] bool simulated() const {
        return m_link->isOpen() && m_link->identity().contains(QLatin1String("simulated"));
    }
    /// What it does now, in place of what it is; empty: what it is.
    void say(const QString& text);

  signals:
    void opened();
    void leaving();                ///< the user lets it go; it is still there
    void gone(const QString& why); ///< it can't be reached, or no longer answers

  private:
    void press();
    void showShut(const QString& why);

    QString m_key;
    ScpiLink* m_link;
    QLineEdit* m_address;
    QPushButton* m_button;
    QLabel* m_state;
};

} // namespace sipper::app
