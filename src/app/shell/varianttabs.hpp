// SPDX-License-Identifier: GPL-3.0-or-later
// The variants of the document as tabs in the title line.
#pragma once

#include "session/session.hpp"

#include <QList>
#include <QStringList>
#include <QWidget>

class QHBoxLayout;
class QToolButton;

namespace sipper::app {

class VariantTabs : public QWidget {
    Q_OBJECT
  public:
    explicit VariantTabs(Session& session, QWidget* parent = nullptr);

    /// Asks for another name of a variant; replaceable, so that tests need no dialog. Nothing: as
    /// it was.
    std::function<QString(const QString& now)> askForName;
    void addCopy();
    void rename(std::size_t number);
    void remove(std::size_t number);
    void next(); ///< the one behind the open one, and round again

  signals:
    void compareAsked();
    void troubled(const Error& error);

  private:
    void refresh();
    void menuAt(std::size_t number, const QPoint& where);

    Session& m_session;
    QHBoxLayout* m_row;
    QStringList m_names; ///< of the tabs
    QList<QToolButton*> m_tabs;
};

} // namespace sipper::app
