// SPDX-License-Identifier: GPL-3.0-or-later
// The library: browse it, put a part into the line, keep parts of one's own.
#pragma once

#include "session/session.hpp"

#include "improve/swaps.hpp"

#include <QDialog>

class QCheckBox;
class QComboBox;
class QHBoxLayout;
class QLabel;
class QLineEdit;
class QPushButton;
class QTableView;

namespace sipper::app {

class LibraryFilter;
class LibraryModel;
class QuantityEdit;

class LibraryDialog : public QDialog {
    Q_OBJECT
  public:
    /// `stage`: the stage that a part would replace, its swaps solved beside the window; empty:
    /// browsing.
    LibraryDialog(Session& session, const QString& stage, QWidget* parent = nullptr);

    /// Waits for the swaps; for tests and pictures.
    bool waitForIdle() { return m_session.jobs().waitForIdle(kJob); }

    // Where people are asked; a test answers in their place.
    std::function<QString()> askWhatToImport;
    std::function<QString(const QString& name)> askWhereToExport;

  private:
    static constexpr const char* kJob = "swaps";
    void build();
    [[nodiscard]] QTableView* buildTable();
    [[nodiscard]] QHBoxLayout* buildFoot(const Stage* stage);
    QWidget* buildFilters();
    void reload();
    void solve();
    void showSwaps(std::vector<Swap> swaps);
    [[nodiscard]] std::string basisOf(const Stage& stage) const;
    void filter();
    void refresh();
    void use();
    void keep();
    void import();
    void exportPart();
    void removeOwn();
    void say(const QString& text);
    [[nodiscard]] int chosen() const; ///< row of the model; -1 for none
    QuantityEdit* limit(const char* name, const QString& label, Unit unit,
                        std::optional<double>* value);

    Session& m_session;
    std::string m_stage;
    LibraryModel* m_model;
    LibraryFilter* m_filter;
    QTableView* m_table;
    QLineEdit* m_words;
    QComboBox* m_trade;
    QCheckBox* m_fitting;
    QCheckBox* m_own;
    QLabel* m_state;
    QLabel* m_complaint;
    QPushButton* m_use;
    QPushButton* m_keep;
    QPushButton* m_export;
    QPushButton* m_remove;
    std::optional<double> m_leastVolts;
    std::optional<double> m_mostVolts;
    std::optional<double> m_leastAmps;
    std::optional<double> m_mostGrams;
    std::optional<double> m_mostPrice;
};

} // namespace sipper::app
