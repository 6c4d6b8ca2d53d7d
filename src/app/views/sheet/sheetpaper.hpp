// SPDX-License-Identifier: GPL-3.0-or-later
// The build sheet laid out on pages: the same for the screen, the printer, PDF and pictures.
#pragma once

#include "sheet/drawing.hpp"

#include <QPainter>
#include <QRectF>
#include <QString>
#include <set>
#include <vector>

namespace sipper::app {

/// Tenths of a point: fine enough for letters, and whole numbers for fonts.
inline constexpr double kUnitsAPoint = 10;
inline constexpr int kUnitsAnInch = 720;

enum class PaperSize { a4, letter };
[[nodiscard]] QSizeF paperUnits(PaperSize size);

/// What is printed of a sheet, by section; `drawing` and `plugs` are the pictures.
using SheetParts = std::set<std::string>;
[[nodiscard]] SheetParts allSheetParts();

class SheetPaper {
  public:
    SheetPaper() = default;
    SheetPaper(const Project& project, Sheet sheet, PaperSize size, const SheetParts& parts);

    [[nodiscard]] int pages() const { return static_cast<int>(m_pages.size()); }
    [[nodiscard]] QSizeF size() const { return m_size; }
    [[nodiscard]] const Sheet& sheet() const { return m_sheet; }
    /// Paints a page (from 0) in units; `chosen`: the id whose rows are marked, on the screen.
    void paint(QPainter& painter, int page, const QString& chosen = {}) const;

    /// A row that can be chosen or ticked.
    struct Row {
        int page = 0;
        QRectF box;
        QRectF tick; ///< empty where there is nothing to keep
        QString id;
        QString key;
        QString text; ///< all of it, for those who hear it
        bool have = false;
    };
    [[nodiscard]] const std::vector<Row>& rows() const { return m_rows; }
    /// Everything that is written, a page after the other; for tests.
    [[nodiscard]] QStringList texts() const;

  private:
    struct Text {
        QRectF box;
        QString text;
        double size = 0; ///< points
        bool bold = false;
        bool right = false;
        Ink ink = Ink::ink;
    };
    struct Rule {
        QPointF from;
        QPointF to;
        Ink ink = Ink::hairline;
        double width = 5;
    };
    struct Tick {
        QRectF box;
        bool on = false;
    };
    struct Picture {
        QPointF at;
        double scale = 1;
        Drawing drawing;
    };
    struct Page {
        std::vector<Text> texts;
        std::vector<Rule> rules;
        std::vector<Tick> ticks;
        std::vector<Picture> pictures;
        std::vector<QRectF> frames;
    };

    void head();
    void drawing(const Project& project);
    void section(const SheetSection& section);
    void plugs();
    void foot();
    double row(const SheetSection& section, const SheetRow& row, double y, bool draw);
    void headings(const SheetSection& section);
    /// Begins a page unless `height` is left on this one.
    void need(double height);
    void newPage();
    double write(const QString& text, double x, double y, double width, double size, bool bold,
                 Ink ink, bool right = false, bool draw = true);
    [[nodiscard]] double left() const;
    [[nodiscard]] double right() const;

    Sheet m_sheet;
    SheetParts m_parts;
    QSizeF m_size;
    double m_y = 0;
    std::vector<Page> m_pages;
    std::vector<Row> m_rows;
};

} // namespace sipper::app
