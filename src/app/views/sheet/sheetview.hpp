// SPDX-License-Identifier: GPL-3.0-or-later
// What to buy, wire, set and check: the paper itself, and every way out of it.
#pragma once

#include "session/session.hpp"
#include "views/sheet/sheetpaper.hpp"

#include <QWidget>
#include <functional>

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QPrinter;
class QPushButton;
class QScrollArea;

namespace sipper::app {

class SheetCanvas;

class SheetView : public QWidget {
    Q_OBJECT
  public:
    explicit SheetView(Session& session, QWidget* parent = nullptr);

    [[nodiscard]] bool settle() { return m_session.jobs().waitForIdle(kJob); }
    [[nodiscard]] const SheetPaper& paper() const;
    [[nodiscard]] PaperSize paperSize() const;

    /// Where a file goes; empty: nowhere. Tests answer in its place.
    std::function<QString(const QString& suggested, const QString& filter)> askWhere;
    /// Shows a preview of what would be printed, which prints when it is told to.
    std::function<void(const std::function<void(QPrinter*)>& paint)> preview;
    /// The user's own colours of leads; false: as they were.
    std::function<bool(LeadColours& colours)> askColours;

  private:
    static inline const QString kJob = QStringLiteral("sheet");
    QLayout* buildButtons();
    QLayout* buildOptions();
    QLayout* buildPlugs();
    void refresh();
    void lay();
    void write(const QString& ending, const QString& filter);
    void print();
    void colours();
    void showPlug();
    void setPlug();
    void tick(const QString& key, bool have);

    Session& m_session;
    QLabel* m_word;
    QLabel* m_says;
    QLabel* m_complaint;
    QComboBox* m_size;
    QList<QCheckBox*> m_parts;
    QComboBox* m_plugOf;
    QLineEdit* m_plugKind;
    QComboBox* m_plugCentre;
    QScrollArea* m_scroll;
    SheetCanvas* m_canvas;
    std::optional<Sheet> m_sheet;
};

} // namespace sipper::app
