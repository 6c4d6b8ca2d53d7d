// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/sheet/sheetout.hpp"

#include "project/file.hpp"
#include "views/sheet/drawingpainter.hpp"
#include "widgets/text.hpp"

#include <QBuffer>
#include <QDate>
#include <QImage>
#include <QPageSize>
#include <QPdfWriter>
#include <QPrinter>
#include <QSettings>

namespace sipper::app {
namespace {

constexpr double kPictureScale = 3; ///< pixels to a unit of the drawing

/// Through the core's writer: the old file is whole until the new one is.
std::optional<Error> writeBytes(const QString& path, const QByteArray& bytes) {
    return writeFile(path.toStdString(),
                     std::string_view(bytes.constData(), static_cast<std::size_t>(bytes.size())));
}

QByteArray pdfBytes(const SheetPaper& paper, PaperSize size) {
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    {
        QPdfWriter writer(&buffer);
        writer.setResolution(kUnitsAnInch);
        writer.setPageSize(QPageSize(size == PaperSize::a4 ? QPageSize::A4 : QPageSize::Letter));
        writer.setPageMargins(QMarginsF(0, 0, 0, 0));
        writer.setTitle(qs(paper.sheet().title));
        writer.setCreator(QStringLiteral("sipper"));
        QPainter painter(&writer);
        for (int page = 0; page < paper.pages(); ++page) {
            if (page > 0)
                writer.newPage();
            paper.paint(painter, page);
        }
    }
    return bytes;
}

QByteArray pictureBytes(const Project& project, const Sheet& sheet) {
    const Drawing d = lineDrawing(project, sheet);
    QImage image(qMax(1, qRound(d.width * kPictureScale)),
                 qMax(1, qRound(d.height * kPictureScale)), QImage::Format_RGB32);
    image.fill(Qt::white);
    QPainter painter(&image);
    painter.setRenderHint(QPainter::Antialiasing);
    paintDrawing(painter, d, QPointF(0, 0), kPictureScale);
    painter.end();
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    image.save(&buffer, "PNG");
    return bytes;
}

} // namespace

std::optional<Error> writeReport(const QString& path, const Project& project,
                                 const SheetPaper& paper, PaperSize size) {
    const auto kind = reportKindOf(path.toStdString());
    if (!kind)
        return Error{"report", path.toStdString(), "another ending",
                     ".pdf, .html, .csv, .svg, .png or .json", ""};
    if (*kind == ReportKind::pdf)
        return writeBytes(path, pdfBytes(paper, size));
    if (*kind == ReportKind::png)
        return writeBytes(path, pictureBytes(project, paper.sheet()));
    return writeFile(path.toStdString(), reportText(*kind, project, paper.sheet()));
}

void printPaper(QPrinter& printer, const SheetPaper& paper) {
    QPainter painter(&printer);
    const double scale = static_cast<double>(printer.resolution()) / kUnitsAnInch;
    for (int page = 0; page < paper.pages(); ++page) {
        if (page > 0)
            printer.newPage();
        painter.save();
        painter.scale(scale, scale);
        paper.paint(painter, page);
        painter.restore();
    }
}

SheetOptions sheetAsk() {
    const QSettings settings;
    SheetOptions ask;
    ask.date = QDate::currentDate().toString(Qt::ISODate).toStdString();
    const auto colour = [&](const char* key, std::string& into) {
        const QString text = settings.value(QLatin1String(key)).toString().trimmed();
        if (!text.isEmpty())
            into = text.toStdString();
    };
    colour("leads/plus", ask.colours.plus);
    colour("leads/minus", ask.colours.minus);
    colour("leads/switched", ask.colours.switched);
    colour("leads/charge", ask.colours.charge);
    return ask;
}

} // namespace sipper::app
