// SPDX-License-Identifier: GPL-3.0-or-later
// The drawer: the user's own cells, what to throw away, and which belong together in a pack.
#pragma once

#include "inventory/inventory.hpp"
#include "session/session.hpp"

#include <QWidget>
#include <functional>

class QCheckBox;
class QBoxLayout;
class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;
class QSpinBox;
class QTableWidget;

namespace sipper::app {

class CellBars;
class MatchBars;
class QuantityEdit;

class InventoryPage : public QWidget {
    Q_OBJECT
  public:
    explicit InventoryPage(Session& session, QWidget* parent = nullptr);

    /// Which file to take in or to write; tests answer in its place.
    std::function<QString(bool save)> askFile;
    void refresh();
    [[nodiscard]] QString word() const { return m_word; }
    [[nodiscard]] QString says() const { return m_says; }
    [[nodiscard]] const std::vector<OwnedCell>& cells() const { return m_cells; }
    [[nodiscard]] const std::optional<CellMatch>& match() const { return m_match; }
    void takeIn(const QString& path);
    [[nodiscard]] QSize minimumSizeHint() const override;

  signals:
    void answered();
    void refused(const QString& says);

  protected:
    void resizeEvent(QResizeEvent* event) override;

  private:
    QWidget* buildTable();
    QWidget* buildForm();
    /// What is typed into the form goes to the chosen cell.
    void takeForm();
    void takeRests();
    QWidget* buildMatch();
    void load();
    void keep();
    void showTable();
    [[nodiscard]] std::vector<OwnedCell> cellsOfProject() const;
    void showForm();
    void edit(const std::function<void(OwnedCell&)>& change);
    void add();
    void remove();
    void work();
    void intoProject();

    Session& m_session;
    QBoxLayout* m_row;
    std::vector<OwnedCell> m_cells;
    std::vector<CellAssessment> m_verdicts;
    Library m_library;
    std::optional<CellMatch> m_match;
    bool m_loaded = false;
    bool m_readable = true; ///< the drawer's file; one that can't be read is never written over
    bool m_filling = false;
    QString m_word;
    QString m_says;
    CellBars* m_picture;
    QTableWidget* m_table;
    QWidget* m_form;
    QLineEdit* m_id;
    QLineEdit* m_size;
    QComboBox* m_chemistry;
    QuantityEdit* m_label;
    QuantityEdit* m_ah;
    QuantityEdit* m_ohm;
    std::array<QuantityEdit*, 2> m_rest;
    std::array<QLineEdit*, 2> m_restWhen;
    QCheckBox* m_warm;
    QLineEdit* m_note;
    QSpinBox* m_series;
    QSpinBox* m_parallel;
    MatchBars* m_bars;
    QLabel* m_cost;
    QPushButton* m_take;
};

} // namespace sipper::app
