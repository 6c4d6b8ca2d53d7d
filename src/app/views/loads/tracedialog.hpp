// SPDX-License-Identifier: GPL-3.0-or-later
// How a CSV is to be read: what was found is said, what can't be told is asked.
#pragma once

#include "trace/tracefile.hpp"

#include <QDialog>

class QCheckBox;
class QComboBox;
class QLabel;
class QPushButton;
class QTableWidget;

namespace sipper::app {

class TraceDialog : public QDialog {
    Q_OBJECT
  public:
    /// `text` is the file, or as much of its start as shows its format.
    TraceDialog(const QString& fileName, std::string text, QWidget* parent = nullptr);

    /// What was found and told so far.
    [[nodiscard]] const TraceFormat& format() const { return m_format; }
    /// What still has to be told; nothing when the file can be read.
    [[nodiscard]] std::optional<std::string> missing() const { return unknownOf(m_format); }

  private:
    void guess(); ///< anew, from what was told
    void refresh();
    void fillTable();
    QComboBox* choice(const char* name, const QString& about);

    std::string m_text;
    TraceFormat m_told;
    TraceFormat m_format;
    QTableWidget* m_table;
    QLabel* m_found;
    QLabel* m_missing;
    QComboBox* m_separator;
    QComboBox* m_decimal;
    QCheckBox* m_header;
    QComboBox* m_time;
    QComboBox* m_timeUnit;
    QComboBox* m_current;
    QComboBox* m_currentUnit;
    QComboBox* m_voltage;
    QComboBox* m_voltageUnit;
    QPushButton* m_more;
    QPushButton* m_read;
    QList<std::pair<QWidget*, std::function<bool()>>> m_asked; ///< shown where not found
    bool m_all = false;
};

} // namespace sipper::app
