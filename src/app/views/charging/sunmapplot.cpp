// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/charging/sunmapplot.hpp"

#include "widgets/plotstyle.hpp"
#include "widgets/text.hpp"

#include <algorithm>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kSide = SizingMap::kSide;
constexpr double kNameRow = kSide / 8; ///< from the name of a line to the next
constexpr double kNameWidth = 62;      ///< px beside the map for them
constexpr double kMuch = 720;          ///< h missed a year that are as red as it gets

/// Shade of missed hours a year, 0 to 1; few hours show already.
double shadeOf(double hours) {
    return hours <= 0 ? -1 : std::min(1.0, std::sqrt(hours / kMuch));
}

} // namespace

SunMapPlot::SunMapPlot(QWidget* parent) : QCustomPlot(parent) {
    setObjectName(QStringLiteral("sun.map"));
    setAccessibleName(tr("Panel against pack: what is missed"));
    setToolTip(
        tr("Hover, or use the arrow keys, to read a pair; click or press Enter to open it as "
           "another variant"));
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setMinimumHeight(Theme::now().ipx(170));
    stylePlot(*this);
    xAxis->setRange(-0.5, kSide - 0.5);
    yAxis->setRange(-0.5, kSide - 0.5);
    axisRect()->setMinimumMargins(QMargins(0, 0, Theme::now().ipx(kNameWidth), 0));
    xAxis->setLabel(tr("W of panel"));
    yAxis->setLabel(tr("Wh of pack"));
    for (QCPAxis* axis : {xAxis, yAxis}) {
        axis->grid()->setVisible(false);
        axis->setTickLabelFont(Theme::now().font(11));
    }
    m_missed = new QCPColorMap(xAxis, yAxis);
    m_missed->data()->setSize(static_cast<int>(SizingMap::kSide),
                              static_cast<int>(SizingMap::kSide));
    m_missed->data()->setRange(QCPRange(0, kSide - 1), QCPRange(0, kSide - 1));
    m_missed->setInterpolate(false);
    QCPColorGradient g;
    g.clearColorStops();
    g.setColorInterpolation(QCPColorGradient::ciRGB);
    g.setColorStopAt(0, onCard(Role::fine, 0.16));
    g.setColorStopAt(0.499, onCard(Role::fine, 0.16));
    g.setColorStopAt(0.5, onCard(Role::stop, 0.12));
    g.setColorStopAt(1, onCard(Role::stop, 0.6));
    g.setNanHandling(QCPColorGradient::nhTransparent);
    m_missed->setGradient(g);
    m_missed->setDataRange(QCPRange(-1, 1));
    m_missed->data()->fill(std::nan(""));
    m_cursor = new QCPItemRect(this);
    m_cursor->setPen(QPen(colour(Role::ink), Theme::now().px(1.5)));
    m_cursor->setVisible(false);
    m_own = new QCPItemTracer(this);
    m_own->setStyle(QCPItemTracer::tsCircle);
    m_own->setSize(Theme::now().px(10));
    m_own->setPen(QPen(colour(Role::ink), Theme::now().px(1.5)));
    m_own->setBrush(colour(Role::copper));
    m_own->position->setCoords(SizingMap::kOwn, SizingMap::kOwn);
    m_ownText = plotText(*this, Role::copper, {.bold = true, .padding = {6, 2, 6, 2}});
    m_ownText->setText(tr("yours"));
    m_ownText->position->setCoords(SizingMap::kOwn, SizingMap::kOwn);
    m_ownText->setPositionAlignment(Qt::AlignLeft | Qt::AlignBottom);
    QColor ground = colour(Role::card);
    ground.setAlphaF(0.75F);
    m_ownText->setBrush(ground);
    m_fineText = plotText(*this, Role::fine, {.bold = true, .padding = {6, 2, 6, 2}});
    m_fineText->setText(tr("nothing missed"));
    m_fineText->position->setCoords(kSide - 1, kSide - 2);
    m_fineText->setPositionAlignment(Qt::AlignRight | Qt::AlignVCenter);
    m_fineText->setVisible(false);
}

void SunMapPlot::show(const SizingMap& map) {
    m_map = map;
    m_any = true;
    bool fine = false;
    for (std::size_t panel = 0; panel < SizingMap::kSide; ++panel)
        for (std::size_t pack = 0; pack < SizingMap::kSide; ++pack) {
            const SizingMap::Field& f = map.at(panel, pack);
            m_missed->data()->setCell(
                static_cast<int>(panel), static_cast<int>(pack),
                f.known ? shadeOf(f.lossOfLoadHours / static_cast<double>(map.years))
                        : std::nan(""));
            fine = fine || (f.known && f.lossOfLoadHours == 0 && panel > 16 && pack > 16);
        }
    m_fineText->setVisible(fine);
    const auto ticks = [](const std::array<double, SizingMap::kSide>& values, Unit unit) {
        auto ticker = QSharedPointer<QCPAxisTickerText>::create();
        for (std::size_t k = 0; k < SizingMap::kSide; k += 6)
            ticker->addTick(static_cast<double>(k), quantity(values[k], unit));
        return ticker;
    };
    xAxis->setTicker(ticks(map.panelW, Unit::watt));
    yAxis->setTicker(ticks(map.packWh, Unit::wattHour));
    showLines(map);
    mark(m_marked);
    replot();
}

/// A stair for each: the lower edge of the least pack over each panel's own column. Lines that run
/// together are named together, where they end.
void SunMapPlot::showLines(const SizingMap& map) {
    const std::array<std::optional<std::size_t>, SizingMap::kSide>* before = nullptr;
    QString together;
    double nameAt = -kNameRow;
    for (auto& [years, name] : m_names)
        name->setVisible(false);
    for (const auto& [years, line] : map.least) {
        QCPCurve*& curve = m_lines[years];
        QCPItemText*& name = m_names[years];
        if (!curve) {
            curve = new QCPCurve(xAxis, yAxis);
            curve->setPen(QPen(colour(Role::fine), Theme::now().px(years >= 10 ? 2.2 : 1.2),
                               years >= 10 ? Qt::SolidLine : Qt::DashLine));
            name = plotText(*this, Role::fine, {.bold = true, .padding = {4, 1, 4, 1}});
        }
        QVector<double> x;
        QVector<double> y;
        for (std::size_t panel = 0; panel < SizingMap::kSide; ++panel)
            if (line[panel]) {
                const double edge = static_cast<double>(*line[panel]) - 0.5;
                if (x.isEmpty()) {
                    x << static_cast<double>(panel) - 0.5;
                    y << kSide - 0.5;
                }
                x << static_cast<double>(panel) - 0.5 << static_cast<double>(panel) + 0.5;
                y << edge << edge;
            }
        curve->setData(x, y);
        if (x.isEmpty())
            continue;
        const bool same = before && *before == line;
        together = same ? tr("%1 and %2").arg(together).arg(years) : QString::number(years);
        if (same)
            m_names[lineBefore(map, years)]->setVisible(false);
        before = &line;
        name->setVisible(true);
        name->setText(together == QLatin1String("1") ? tr("1 year") : tr("%1 years").arg(together));
        // Beside the line's foot, outside the map, the lines from the least pack up.
        nameAt = std::max(y.last(), nameAt + kNameRow);
        name->position->setCoords(x.last(), nameAt);
        name->setPositionAlignment(Qt::AlignLeft | Qt::AlignVCenter);
        name->setClipToAxisRect(false);
    }
}

std::size_t SunMapPlot::lineBefore(const SizingMap& map, std::size_t years) {
    const auto at = map.least.find(years);
    return at == map.least.begin() ? years : std::prev(at)->first;
}

QString SunMapPlot::reading() const {
    if (!m_any || !m_marked)
        return {};
    const SizingMap::Field& f = m_map.at(m_marked->first, m_marked->second);
    const QString pair = tr("%1 and %2")
                             .arg(quantity(m_map.panelW[m_marked->first], Unit::watt),
                                  quantity(m_map.packWh[m_marked->second], Unit::wattHour));
    if (!f.known)
        return tr("%1: not run yet").arg(pair);
    return f.lossOfLoadHours > 0
               ? tr("%1: %2 missed a year")
                     .arg(pair, hours(f.lossOfLoadHours / static_cast<double>(m_map.years)))
               : tr("%1: nothing missed").arg(pair);
}

std::optional<SunMapPlot::Field> SunMapPlot::fieldAt(const QPointF& at) const {
    if (!m_any || !axisRect()->rect().contains(at.toPoint()))
        return std::nullopt;
    const double panel = std::round(xAxis->pixelToCoord(at.x()));
    const double pack = std::round(yAxis->pixelToCoord(at.y()));
    if (panel < 0 || pack < 0 || panel >= kSide || pack >= kSide)
        return std::nullopt;
    return Field{static_cast<std::size_t>(panel), static_cast<std::size_t>(pack)};
}

void SunMapPlot::mark(std::optional<Field> field) {
    m_marked = field;
    m_cursor->setVisible(field.has_value());
    if (field) {
        const auto x = static_cast<double>(field->first);
        const auto y = static_cast<double>(field->second);
        m_cursor->topLeft->setCoords(x - 0.5, y + 0.5);
        m_cursor->bottomRight->setCoords(x + 0.5, y - 0.5);
    }
    emit readingChanged(reading());
    replot(QCustomPlot::rpQueuedReplot);
}

void SunMapPlot::mouseMoveEvent(QMouseEvent* event) {
    mark(fieldAt(event->position()));
}

void SunMapPlot::leaveEvent(QEvent* event) {
    QCustomPlot::leaveEvent(event);
    if (!hasFocus())
        mark(std::nullopt);
}

void SunMapPlot::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton)
        return QCustomPlot::mousePressEvent(event);
    if (const auto field = fieldAt(event->position()))
        emit picked(field->first, field->second);
}

void SunMapPlot::keyPressEvent(QKeyEvent* event) {
    if (!m_any)
        return QCustomPlot::keyPressEvent(event);
    Field field = m_marked.value_or(Field{SizingMap::kOwn, SizingMap::kOwn});
    const auto step = [](std::size_t& k, int by) {
        k = static_cast<std::size_t>(
            std::clamp(static_cast<int>(k) + by, 0, static_cast<int>(SizingMap::kSide) - 1));
    };
    switch (event->key()) {
    case Qt::Key_Right:
        step(field.first, 1);
        break;
    case Qt::Key_Left:
        step(field.first, -1);
        break;
    case Qt::Key_Up:
        step(field.second, 1);
        break;
    case Qt::Key_Down:
        step(field.second, -1);
        break;
    case Qt::Key_Return:
        emit picked(field.first, field.second);
        return;
    default:
        return QCustomPlot::keyPressEvent(event);
    }
    mark(field);
}

} // namespace sipper::app
