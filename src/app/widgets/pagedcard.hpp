// SPDX-License-Identifier: GPL-3.0-or-later
// A card with a row of pages on top: one is chosen, its rows scroll below.
#pragma once

#include <QFrame>
#include <QList>

class QHBoxLayout;
class QLabel;
class QPushButton;
class QVBoxLayout;

namespace sipper::app {

class PagedCard : public QFrame {
    Q_OBJECT
  public:
    /// `name` is the card's object name; scroll area and body are called after `prefix`.
    PagedCard(const QString& name, const QString& accessible, const QString& prefix,
              QWidget* parent = nullptr);

    /// Puts a control at the end of the row of pages.
    void addToHead(QWidget* control);

  protected:
    /// The next page, with the object name of its button.
    void addPage(const QString& text, const char* name, const QString& help);
    void choose(int page);
    [[nodiscard]] int page() const { return m_page; }
    /// Fills `rows` with the chosen page; they are cleared before.
    virtual void fillPage() = 0;
    /// The chosen page anew.
    void showPage();
    [[nodiscard]] QVBoxLayout& rows() { return *m_rows; }
    [[nodiscard]] QWidget* body() { return m_body; }
    [[nodiscard]] QLabel& state() { return *m_state; }

  private:
    QList<QPushButton*> m_pages;
    QHBoxLayout* m_head;
    QLabel* m_state;
    QWidget* m_body;
    QVBoxLayout* m_rows;
    int m_page = 0;
};

} // namespace sipper::app
