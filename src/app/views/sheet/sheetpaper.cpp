// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/sheet/sheetpaper.hpp"

#include "views/sheet/drawingpainter.hpp"
#include "widgets/text.hpp"

#include <QFontMetricsF>
#include <QObject>
#include <algorithm>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double pt(double points) {
    return points * kUnitsAPoint;
}

constexpr double kMargin = pt(40);
constexpr double kFootHeight = pt(22);
constexpr double kGap = pt(6);     ///< between columns
constexpr double kGutter = pt(15); ///< of the boxes to tick
constexpr double kBox = pt(8);     ///< a box to tick
constexpr double kText = 8.6;      ///< points
constexpr double kSmall = 7.6;
constexpr double kHeading = 10.5;
constexpr double kTitle = 16;
constexpr double kRowGap = pt(3);
constexpr double kDrawingTall = pt(360); ///< at most
constexpr double kMostScale = 1.0;       ///< points to one of a drawing's own units

QFont fontOf(double points, bool bold) {
    return paperFont(pt(points), bold);
}

/// Between words; only a word that is wider than its column is broken.
int wrapFlags(const QString& text, const QFontMetricsF& metrics, double width, bool toRight) {
    int flags = static_cast<int>(toRight ? Qt::AlignRight : Qt::AlignLeft) |
                static_cast<int>(Qt::AlignTop) | static_cast<int>(Qt::TextWordWrap);
    const QStringList words = text.split(QLatin1Char(' '), Qt::SkipEmptyParts);
    if (std::any_of(words.begin(), words.end(),
                    [&](const QString& word) { return metrics.horizontalAdvance(word) > width; }))
        flags |= Qt::TextWrapAnywhere;
    return flags;
}

} // namespace

QSizeF paperUnits(PaperSize size) {
    return size == PaperSize::a4 ? QSizeF(pt(595), pt(842)) : QSizeF(pt(612), pt(792));
}

SheetParts allSheetParts() {
    return {"drawing", "parts", "wiring", "plugs", "sets", "steps", "checks", "cautions", "open"};
}

SheetPaper::SheetPaper(const Project& project, Sheet sheet, PaperSize size, const SheetParts& parts)
    : m_sheet(std::move(sheet)), m_parts(parts), m_size(paperUnits(size)) {
    m_pages.emplace_back();
    m_y = kMargin;
    head();
    if (m_parts.contains("drawing"))
        drawing(project);
    for (const SheetSection& s : sectionsOf(m_sheet)) {
        if (m_parts.contains(s.name))
            section(s);
        if (s.name == "wiring" && m_parts.contains("plugs"))
            plugs();
    }
    foot();
}

double SheetPaper::left() const {
    return kMargin;
}
double SheetPaper::right() const {
    return m_size.width() - kMargin;
}

double SheetPaper::write(const QString& text, double x, double y, double width, double size,
                         bool bold, Ink ink, bool toRight, bool draw) {
    const QFontMetricsF metrics(fontOf(size, bold));
    const int flags = wrapFlags(text, metrics, width, toRight);
    const double room = m_size.height() - 2 * kMargin - kFootHeight;
    const double height =
        std::min(room, metrics.boundingRect(QRectF(0, 0, width, 1e6), flags, text).height());
    if (draw)
        m_pages.back().texts.push_back(
            {QRectF(x, y, width, height), text, size, bold, toRight, ink});
    return height;
}

void SheetPaper::newPage() {
    m_pages.emplace_back();
    m_y = kMargin;
    m_y +=
        write(qs(m_sheet.title), left(), m_y, (right() - left()) * 0.7, kSmall, true, Ink::muted);
    m_y += pt(4);
}

void SheetPaper::need(double height) {
    if (m_y + height > m_size.height() - kMargin - kFootHeight)
        newPage();
}

void SheetPaper::head() {
    const double width = right() - left();
    const QString meta =
        QObject::tr("variant %1%2 · %3")
            .arg(qs(m_sheet.variant), m_sheet.date.empty() ? QString() : " · " + qs(m_sheet.date),
                 qs(m_sheet.code));
    write(meta, left() + width * 0.6, m_y + pt(6), width * 0.4, kSmall, false, Ink::muted, true);
    m_y += write(qs(m_sheet.title), left(), m_y, width * 0.6, kTitle, true, Ink::ink) + pt(2);
    m_y += write(qs(m_sheet.summary) + ".", left(), m_y, width, kText, false, Ink::ink) + pt(1);
    m_y += write(qs(m_sheet.said), left(), m_y, width, kText, false, Ink::ink) + pt(1);
    if (!m_sheet.notes.empty())
        m_y += write(qs(m_sheet.notes), left(), m_y, width, kSmall, false, Ink::muted);
    m_y += pt(7);
}

void SheetPaper::drawing(const Project& project) {
    Drawing d = lineDrawing(project, m_sheet);
    if (d.boxes.empty())
        return;
    const double pad = pt(8);
    const double width = right() - left() - 2 * pad;
    const double scale =
        std::min({pt(kMostScale), width / d.width, (kDrawingTall - 2 * pad) / d.height});
    const double height = d.height * scale + 2 * pad;
    need(height);
    m_pages.back().frames.emplace_back(left(), m_y, right() - left(), height);
    const QPointF at(left() + pad + (width - d.width * scale) / 2, m_y + pad);
    const int page = pages() - 1;
    for (const auto& [id, box] : d.places)
        m_rows.push_back(
            {page,
             QRectF(at.x() + box.x * scale, at.y() + box.y * scale, box.w * scale, box.h * scale),
             {},
             qs(id),
             {},
             QObject::tr("on the drawing: %1").arg(qs(id)),
             false});
    m_pages.back().pictures.push_back({at, scale, std::move(d)});
    m_y += height + pt(4);
}

double SheetPaper::row(const SheetSection& s, const SheetRow& r, double y, bool draw) {
    const bool boxes = s.mark != SheetSection::Mark::none;
    const double from = left() + (boxes ? kGutter : 0);
    const double blank = s.blank ? (right() - from) * 0.15 : 0;
    const double width = right() - from - blank;
    double x = from;
    double height = 0;
    for (std::size_t i = 0; i < r.cells.size(); ++i) {
        const double share = i < s.widths.size() ? s.widths[i] : 0.1;
        const double cell = width * share - kGap;
        const bool toRight = i < s.right.size() && s.right[i];
        const bool bold = r.sum || (i < s.bold.size() && s.bold[i]);
        // A remark goes on over the columns behind it.
        const double span = r.quiet && i == 1 ? right() - x : cell;
        if (!r.cells[i].empty())
            height = std::max(height, write(qs(r.cells[i]), x, y, span, r.quiet ? kSmall : kText,
                                            bold, r.quiet ? Ink::muted : Ink::ink, toRight, draw));
        x += width * share;
    }
    if (draw && s.blank)
        m_pages.back().rules.push_back({QPointF(right() - blank + kGap, y + height),
                                        QPointF(right(), y + height), Ink::muted, pt(0.6)});
    return height;
}

void SheetPaper::headings(const SheetSection& s) {
    if (s.headings.empty())
        return;
    SheetRow words;
    words.cells = s.headings;
    words.quiet = true;
    SheetSection plain = s;
    plain.bold.clear();
    plain.blank = false;
    // Headings keep to their columns: none of them is a remark.
    const double width = right() - left() - (s.mark == SheetSection::Mark::none ? 0 : kGutter);
    double x = right() - width;
    double height = 0;
    for (std::size_t i = 0; i < s.headings.size(); ++i) {
        const double cell = width * s.widths[i] - kGap;
        height = std::max(height, write(qs(s.headings[i]), x, m_y, cell, kSmall, false, Ink::muted,
                                        i < s.right.size() && s.right[i]));
        x += width * s.widths[i];
    }
    m_y += height + pt(2);
}

void SheetPaper::section(const SheetSection& s) {
    const double head = pt(kHeading * 1.5) + (s.headings.empty() ? 0 : pt(kSmall * 1.6));
    const double first = row(s, s.rows.front(), 0, false);
    m_y += pt(6);
    need(head + first + kRowGap);
    m_y += write(qs(s.title), left(), m_y, right() - left(), kHeading, true, Ink::ink) + pt(3);
    headings(s);
    for (const SheetRow& r : s.rows) {
        const double height = row(s, r, 0, false);
        const int before = pages();
        need(height + kRowGap);
        if (pages() > before) {
            m_y += write(qs(s.title) + QObject::tr(", continued"), left(), m_y, right() - left(),
                         kText, true, Ink::muted) +
                   pt(3);
            headings(s);
        }
        row(s, r, m_y, true);
        const auto part =
            std::find_if(m_sheet.parts.begin(), m_sheet.parts.end(),
                         [&](const SheetPart& p) { return !r.key.empty() && p.key == r.key; });
        const bool have = part != m_sheet.parts.end() && part->have;
        const bool boxed = s.mark == SheetSection::Mark::box ||
                           (s.mark == SheetSection::Mark::have && !r.key.empty());
        const QRectF tick(left(), m_y + pt(1), kBox, kBox);
        if (boxed)
            m_pages.back().ticks.push_back({tick, have});
        QStringList words;
        for (const std::string& cell : r.cells)
            if (!cell.empty())
                words << qs(cell);
        if (!r.id.empty() || !r.key.empty())
            m_rows.push_back({pages() - 1,
                              QRectF(left(), m_y - pt(1), right() - left(), height + pt(2)),
                              s.mark == SheetSection::Mark::have && boxed ? tick : QRectF(),
                              qs(r.id), qs(r.key), words.join(QStringLiteral(", ")), have});
        m_y += height + kRowGap;
    }
    if (!s.note.empty()) {
        need(pt(kSmall * 2));
        m_y += write(qs(s.note), left(), m_y, right() - left(), kSmall, false, Ink::muted) + pt(2);
    }
}

void SheetPaper::plugs() {
    if (m_sheet.plugs.empty())
        return;
    const double tall = pt(64 * 0.8);
    double x = left();
    m_y += pt(4);
    need(tall + pt(14));
    for (const SheetPlug& plug : m_sheet.plugs) {
        Drawing d = plugDrawing(plug);
        const double scale = pt(0.8);
        const double width = std::max(d.width * scale, pt(110));
        if (x > left() && x + width > right()) {
            x = left();
            m_y += tall + pt(16);
            need(tall + pt(14));
        }
        m_pages.back().pictures.push_back({QPointF(x, m_y), scale, std::move(d)});
        write(qs(plug.name), x, m_y + tall, width, kSmall, false, Ink::muted);
        m_rows.push_back(
            {pages() - 1, QRectF(x, m_y, width, tall), {}, qs(plug.id), {}, qs(plug.name), false});
        x += width + pt(14);
    }
    m_y += tall + pt(16);
}

void SheetPaper::foot() {
    const int count = pages();
    for (int i = 0; i < count; ++i) {
        Page& page = m_pages[static_cast<std::size_t>(i)];
        const double y = m_size.height() - kMargin - pt(4);
        const QString text =
            QObject::tr("%1 · page %2 of %3").arg(qs(m_sheet.code)).arg(i + 1).arg(count);
        page.texts.push_back(
            {QRectF(left(), y, right() - left(), pt(12)), text, kSmall, false, true, Ink::muted});
        page.texts.push_back({QRectF(left(), y, right() - left(), pt(12)),
                              QObject::tr("read by: ____________    on: ____________"), kSmall,
                              false, false, Ink::muted});
    }
}

void SheetPaper::paint(QPainter& p, int number, const QString& chosen) const {
    const Page& page = m_pages[static_cast<std::size_t>(number)];
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    if (!chosen.isEmpty()) {
        QColor mark = inkOnPaper(Ink::copper);
        mark.setAlphaF(0.14F);
        for (const Row& r : m_rows)
            if (r.page == number && r.id == chosen)
                p.fillRect(r.box.adjusted(-pt(3), -pt(1), pt(3), pt(1)), mark);
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(inkOnPaper(Ink::hairline), pt(0.8)));
    for (const QRectF& frame : page.frames)
        p.drawRoundedRect(frame, pt(3), pt(3));
    for (const Picture& picture : page.pictures)
        paintDrawing(p, picture.drawing, picture.at, picture.scale);
    for (const Rule& rule : page.rules) {
        p.setPen(QPen(inkOnPaper(rule.ink), rule.width));
        p.drawLine(rule.from, rule.to);
    }
    for (const Tick& tick : page.ticks) {
        p.setPen(QPen(inkOnPaper(Ink::ink), pt(0.8)));
        p.setBrush(Qt::NoBrush);
        p.drawRoundedRect(tick.box, pt(1.5), pt(1.5));
        if (!tick.on)
            continue;
        p.setPen(QPen(inkOnPaper(Ink::copper), pt(1.6)));
        p.drawPolyline(QPolygonF{tick.box.topLeft() + QPointF(pt(1.6), pt(4)),
                                 tick.box.topLeft() + QPointF(pt(3.4), pt(6)),
                                 tick.box.topLeft() + QPointF(pt(7), pt(1.6))});
    }
    for (const Text& text : page.texts) {
        p.setFont(fontOf(text.size, text.bold));
        p.setPen(inkOnPaper(text.ink));
        p.drawText(text.box,
                   wrapFlags(text.text, QFontMetricsF(fontOf(text.size, text.bold)),
                             text.box.width(), text.right),
                   text.text);
    }
    p.restore();
}

QStringList SheetPaper::texts() const {
    QStringList all;
    for (const Page& page : m_pages)
        for (const Text& text : page.texts)
            all << text.text;
    return all;
}

} // namespace sipper::app
