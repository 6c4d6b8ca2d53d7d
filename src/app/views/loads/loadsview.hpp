// SPDX-License-Identifier: GPL-3.0-or-later
// What the project draws, and when.
#pragma once

#include "session/session.hpp"

#include "trace/tracefile.hpp"

#include <QWidget>

class QLabel;
class QPushButton;
class QVBoxLayout;

namespace sipper::app {

class LoadsView : public QWidget {
    Q_OBJECT
  public:
    explicit LoadsView(Session& session, QWidget* parent = nullptr);

    /// Asks how the file is to be read, then reads and cuts it beside the window.
    void openTrace(const QString& path);

    // Where people are asked; a test answers in their place.
    std::function<QString()> askWhichTrace;
    /// Nothing: leave it.
    std::function<std::optional<TraceFormat>(const QString& path, const std::string& start)>
        askFormat;

  signals:
    void troubled(const Error& error);

  protected:
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;

    void resizeEvent(QResizeEvent* event) override;

  private:
    QLayout* buildTitle();
    QLabel* caption(QVBoxLayout* column, const QString& text);
    void buildDay(QVBoxLayout* column);
    void buildTrace(QVBoxLayout* column);
    void makeRoom();
    void showTrace(bool on);
    void refreshButtons();

    Session& m_session;
    QPushButton* m_show;
    QWidget* m_card;
    const Trace* m_seen = nullptr;
    QList<QWidget*> m_dayParts;
    QList<QWidget*> m_besides; ///< what makes room for the trace
};

} // namespace sipper::app
