// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/sheet/drawingpainter.hpp"

#include "widgets/text.hpp"

#include <QFontMetricsF>

namespace sipper::app {

QColor inkOnPaper(Ink ink) {
    const std::string_view name = inkColour(ink);
    return QColor(QString::fromLatin1(name.data(), static_cast<qsizetype>(name.size())));
}

QFont paperFont(double size, bool bold) {
    QFont font(QStringLiteral("B612"));
    font.setPixelSize(std::max(1, qRound(size)));
    font.setBold(bold);
    return font;
}

void paintDrawing(QPainter& p, const Drawing& d, const QPointF& at, double scale) {
    const auto x = [&](double v) { return at.x() + v * scale; };
    const auto y = [&](double v) { return at.y() + v * scale; };
    p.save();
    for (const DrawnLine& line : d.lines) {
        QPen pen(inkOnPaper(line.ink), line.width * scale);
        pen.setJoinStyle(Qt::RoundJoin);
        if (line.dashed)
            pen.setDashPattern({3, 2});
        p.setPen(pen);
        QPolygonF points;
        for (const auto& [px, py] : line.points)
            points << QPointF(x(px), y(py));
        p.setBrush(Qt::NoBrush);
        p.drawPolyline(points);
    }
    for (const DrawnBox& b : d.boxes) {
        p.setPen(QPen(inkOnPaper(b.edge), b.width * scale));
        p.setBrush(inkOnPaper(b.fill));
        p.drawRoundedRect(QRectF(x(b.x), y(b.y), b.w * scale, b.h * scale), b.round * scale,
                          b.round * scale);
    }
    for (const DrawnText& t : d.texts) {
        const QFont font = paperFont(t.size * scale, t.bold);
        const QFontMetricsF metrics(font);
        QString text = qs(t.text);
        if (t.room > 0)
            text = metrics.elidedText(text, Qt::ElideRight, t.room * scale);
        p.setFont(font);
        p.setPen(inkOnPaper(t.ink));
        const double width = metrics.horizontalAdvance(text);
        p.drawText(QPointF(t.left ? x(t.x) : x(t.x) - width / 2, y(t.y)), text);
    }
    p.restore();
}

} // namespace sipper::app
