// SPDX-License-Identifier: GPL-3.0-or-later
// Loads by modes, typed in place.
#pragma once

#include "session/session.hpp"

#include <QFrame>
#include <QLineEdit>
#include <QMap>

class QGridLayout;
class QLabel;
class QScrollArea;

namespace sipper::app {

/// One cell: the draw as people type it (`3m8`, `0.6 W`, `47 ohm`), greyed while the base draw
/// holds.
class DrawEdit : public QLineEdit {
    Q_OBJECT
  public:
    DrawEdit(Session& session, std::size_t load, std::size_t mode, QWidget* parent);
    void refresh();
    [[nodiscard]] const QString& complaint() const { return m_complaint; }

  signals:
    void complained(const QString& complaint);

  protected:
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    void commit();
    void show(const QString& complaint);
    [[nodiscard]] QString shown() const;
    /// The grid is made anew by an edit; a cell that is on its way out knows it by this.
    [[nodiscard]] bool stands() const;

    Session& m_session;
    std::size_t m_load;
    std::size_t m_mode;
    std::string m_loadId;
    std::string m_modeId;
    QString m_known; ///< shown when it was refreshed last
    QString m_complaint;
};

class LoadGrid : public QFrame {
    Q_OBJECT
  public:
    explicit LoadGrid(Session& session, QWidget* parent = nullptr);

  signals:
    void modeChosen(); ///< by hand, to edit its times

  protected:
    void resizeEvent(QResizeEvent* event) override;

  private:
    void rebuild();
    void refresh();
    void build();
    void buildRow(QGridLayout* grid, std::size_t l);
    void buildCell(QGridLayout* grid, std::size_t l, std::size_t m);
    void buildRowEnd(QGridLayout* grid, std::size_t l);
    void rename(const std::string& id, const QString& text);
    void nextBasis(std::size_t l, std::size_t m);
    [[nodiscard]] QLabel* small(const QString& text);
    void ask(const QString& complaint);
    [[nodiscard]] QString signature() const;

    Session& m_session;
    QScrollArea* m_scroll;
    QWidget* m_body;
    QLabel* m_legend;
    QLabel* m_total;
    QLabel* m_complaint;
    QString m_signature;
    QList<DrawEdit*> m_cells;
    QMap<QString, QWidget*> m_marks;
};

} // namespace sipper::app
