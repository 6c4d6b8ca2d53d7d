#include "views/supplyline/curvescard.hpp"

#include "parts/fields.hpp"
#include "views/supplyline/lossfitdialog.hpp"
#include "widgets/panel.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/text.hpp"

#include <QHBoxLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>
#include <qcustomplot.h>

namespace sipper::app {
namespace {

constexpr int kPoints = 60;          ///< of a curve
constexpr double kLeastAmps = 1e-4;  ///< where the current axis may start
constexpr double kSharesLabel = 0.7; ///< decades of current within which two modes share a label
constexpr double kBeyond = 1.15;     ///< of the most that it gives, to the right

bool regulates(const Stage& stage) {
    return std::holds_alternative<Linear>(stage.part) ||
           std::holds_alternative<Switcher>(stage.part);
}

/// The input voltages that occur at a stage, from the cells and from every other source.
Band inputs(const Results& r, std::size_t i) {
    Band b;
    const auto take = [&](const Survey& s) {
        if (!s.stageIn[i].seen)
            return;
        b.include(s.stageIn[i].low);
        b.include(s.stageIn[i].high);
    };
    if (r.survey)
        take(*r.survey);
    for (const Tether& t : r.tethers)
        take(t.seen);
    return b;
}

void directLabel(QCustomPlot& plot, double x, double y, const QString& text, const QColor& ink,
                 Qt::Alignment where = Qt::AlignRight | Qt::AlignVCenter) {
    auto* label = new QCPItemText(&plot);
    label->setFont(Theme::now().font(11));
    label->setColor(ink);
    label->setText(text);
    label->setPositionAlignment(where);
    label->position->setCoords(x, y);
    label->setClipToAxisRect(false);
}

void clear(QCustomPlot& plot) {
    plot.clearGraphs();
    plot.clearItems();
}

} // namespace

CurvesCard::CurvesCard(Session& session, QWidget* parent) : QFrame(parent), m_session(session) {
    makeCard(*this, QStringLiteral("curvesCard"), tr("Curves of the chosen regulator"));
    const Theme& t = Theme::now();
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(t.ipx(12), t.ipx(8), t.ipx(12), t.ipx(8));
    column->setSpacing(t.ipx(4));
    auto* plots = new QHBoxLayout;
    plots->setSpacing(t.ipx(10));
    const auto one = [&](const char* name, const QString& title, const QString& about) {
        auto* box = new QVBoxLayout;
        box->setSpacing(0);
        auto* head = new QLabel(title, this);
        head->setFont(t.font(12, true));
        box->addWidget(head);
        auto* made = plot(name, title, about);
        box->addWidget(made, 1);
        plots->addLayout(box, 1);
        return made;
    };
    m_efficiency = one("curves.efficiency", tr("Efficiency, %, over amps out"),
                       tr("At the lowest, middle and highest input, with each mode on it"));
    m_heat = one("curves.heat", tr("Part, °C, over amps out"),
                 tr("Temperature in the warmest air over output current, with the part's limit"));
    m_reach = one("curves.reach", tr("Most amps out, over volts in"),
                  tr("Output current within its limits, over the input that occurs"));
    column->addLayout(plots, 1);
    auto* foot = new QHBoxLayout;
    foot->setSpacing(t.ipx(8));
    m_split = mutedLabel({}, this, 12);
    m_split->setObjectName(QStringLiteral("curves.split"));
    m_split->setWordWrap(true);
    foot->addWidget(m_split, 1);
    foot->addWidget(mutedLabel(tr("Its label says"), this, 12));
    m_label = new QLineEdit(this);
    m_label->setObjectName(QStringLiteral("curves.label"));
    m_label->setAccessibleName(tr("What the module's label says"));
    m_label->setPlaceholderText(tr("5 A, 40 W, 95 %"));
    m_label->setToolTip(tr("What is printed on the module: amps, watts, per cent"));
    m_label->setFixedWidth(t.ipx(130));
    connect(m_label, &QLineEdit::textChanged, this, &CurvesCard::readLabelText);
    foot->addWidget(m_label);
    auto* fit = new QPushButton(tr("Fit its losses…"), this);
    fit->setObjectName(QStringLiteral("curves.fit"));
    fit->setToolTip(tr("Find the loss terms from points of a data sheet or of your own readings"));
    connect(fit, &QPushButton::clicked, this, &CurvesCard::openFit);
    foot->addWidget(fit);
    column->addLayout(foot);
    m_means = mutedLabel({}, this, 12);
    m_means->setObjectName(QStringLiteral("curves.means"));
    m_means->setWordWrap(true);
    m_means->hide();
    column->addWidget(m_means);
    for (auto signal : {&Session::projectChanged, &Session::selectionChanged,
                        &Session::momentChanged, &Session::resultsSettled})
        connect(&session, signal, this, [this] {
            if (isVisible())
                refresh();
        });
}

QCustomPlot* CurvesCard::plot(const char* name, const QString& title, const QString& about) {
    auto* made = new QCustomPlot(this);
    made->setObjectName(QLatin1String(name));
    made->setAccessibleName(title);
    made->setToolTip(about);
    stylePlot(*made);
    return made;
}

bool CurvesCard::has(const Project& project, const std::string& id) {
    const Stage* stage = project.stage(id);
    return stage && regulates(*stage);
}

void CurvesCard::showEvent(QShowEvent* event) {
    QFrame::showEvent(event);
    refresh();
}

void CurvesCard::refresh() {
    const Project& p = m_session.project();
    const Stage* stage = p.stage(m_session.selected().toStdString());
    for (QCustomPlot* each : {m_efficiency, m_heat, m_reach})
        clear(*each);
    if (!stage || !regulates(*stage)) {
        m_split->setText(tr("Choose a regulator to see its curves."));
        for (QCustomPlot* each : {m_efficiency, m_heat, m_reach})
            each->replot();
        return;
    }
    const auto index = static_cast<std::size_t>(stage - p.stages.data());
    const Band in = inputs(m_session.results(), index);
    const double low = in.seen ? std::max(0.1, in.low) : figureOf(stage->part, "set_v");
    const double high = in.seen ? std::max(low, in.high) : low;
    std::vector<double> at{low};
    if (high > low * 1.02)
        at = {low, (low + high) / 2, high};
    double worst = 0;
    const auto take = [&](const Survey& s) {
        if (s.mostOut[index].seen)
            worst = std::max(worst, s.mostOut[index].value);
    };
    if (m_session.results().survey)
        take(*m_session.results().survey);
    for (const Tether& t : m_session.results().tethers)
        take(t.seen);
    const double most =
        std::max(kLeastAmps * 100,
                 kBeyond * std::max(worst, mostOutput(*stage, high, std::max(1.0, worst * 20))));
    drawEfficiency(*stage, at, most);
    drawHeat(*stage, at, most);
    drawReach(*stage, low, high);
    if (m_session.moment().flows.stages.size() > index) {
        const StageFlow& now = m_session.moment().flows.stages[index];
        const LossSplit s = lossSplit(*stage, now);
        QStringList parts;
        const auto say = [&](double watts, const QString& what) {
            if (watts > 0)
                parts << tr("%1 %2").arg(what, quantity(watts, Unit::watt));
        };
        say(s.quiescent, tr("own use"));
        say(s.fixed, tr("fixed"));
        say(s.drop, std::holds_alternative<Linear>(stage->part) ? tr("burnt") : tr("per amp"));
        say(s.resistance, tr("resistance"));
        m_split->setText(tr("Lost now: %1%2")
                             .arg(quantity(s.total(), Unit::watt),
                                  parts.isEmpty()
                                      ? QString()
                                      : QStringLiteral(" = ") + parts.join(QStringLiteral(" + "))));
    }
    readLabelText();
}

void CurvesCard::drawEfficiency(const Stage& stage, const std::vector<double>& at, double most) {
    const Project& p = m_session.project();
    QCustomPlot& plot = *m_efficiency;
    plot.xAxis->setScaleType(QCPAxis::stLogarithmic);
    double least = most / 1000;
    const auto index = static_cast<std::size_t>(&stage - p.stages.data());
    // Where every mode works, as far as the line has an answer.
    struct Point {
        double amps;
        double efficiency;
        std::size_t mode;
    };
    std::vector<Point> points;
    for (std::size_t m = 0; m < p.modes.size(); ++m) {
        Conditions conditions = typicalConditions(p);
        for (const QString& id : m_session.plugged())
            conditions.present.push_back(id.toStdString());
        const OperatingPoint point = operate(p, conditions, m_session.charge(), m);
        if (point.collapse || point.flows.stages.size() <= index)
            continue;
        const StageFlow& f = point.flows.stages[index];
        if (f.iOut > 0 && f.vIn * f.iIn > 0)
            points.push_back({f.iOut, f.vOut * f.iOut / (f.vIn * f.iIn), m});
    }
    for (const Point& point : points)
        least = std::min(least, point.amps / 2);
    least = std::max(kLeastAmps / 100, least);
    double floor = 1;
    for (std::size_t k = 0; k < at.size(); ++k) {
        QVector<double> amps;
        QVector<double> efficiency;
        for (int i = 0; i <= kPoints; ++i) {
            const double a = least * std::pow(most / least, static_cast<double>(i) / kPoints);
            const PartPoint point = partAt(stage, at[k], a);
            if (!point.works || point.flow.vOut <= 0)
                continue;
            amps << a;
            efficiency << point.efficiency() * 100;
            floor = std::min(floor, point.efficiency());
        }
        QCPGraph* graph = plot.addGraph();
        graph->setName(tr("efficiency in %% at %1").arg(quantity(at[k], Unit::volt)));
        QColor ink = colour(Role::copper);
        if (at.size() > 1)
            ink.setAlphaF(0.4F + 0.3F * static_cast<float>(k));
        graph->setPen(QPen(ink, Theme::now().px(1.6)));
        graph->setData(amps, efficiency, true);
        if (!amps.isEmpty())
            directLabel(plot, amps.back(), efficiency.back(), quantity(at[k], Unit::volt),
                        colour(Role::muted),
                        Qt::AlignRight | (k == 0 ? Qt::AlignTop : Qt::AlignBottom));
    }
    plot.xAxis->setRange(least, most);
    plot.setProperty("keys", tr("current out (A)"));
    auto ticker = QSharedPointer<QCPAxisTickerText>::create();
    for (double a = std::pow(10.0, std::ceil(std::log10(least))); a <= most; a *= 10)
        ticker->addTick(a, plainDecade(a));
    plot.xAxis->setTicker(ticker);
    plot.yAxis->setRange(std::max(0.0, std::floor(floor * 10) * 10 - 5), 102);
    plot.yAxis->setNumberFormat(QStringLiteral("f"));
    plot.yAxis->setNumberPrecision(0);
    // Modes that work at nearly the same point share one label.
    std::vector<std::pair<Point, QString>> labels;
    for (const Point& point : points) {
        QCPGraph* dot = plot.addGraph();
        dot->setName(qs(nameOf(p.modes[point.mode])));
        dot->setLineStyle(QCPGraph::lsNone);
        dot->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, QPen(colour(Role::accepts)),
                                             QBrush(colour(Role::accepts)), Theme::now().px(6)));
        dot->addData(point.amps, point.efficiency * 100);
        const auto near = std::find_if(labels.begin(), labels.end(), [&](const auto& other) {
            return std::abs(std::log10(other.first.amps / point.amps)) < kSharesLabel &&
                   std::abs(other.first.efficiency - point.efficiency) < 0.06;
        });
        if (near == labels.end())
            labels.emplace_back(point, qs(nameOf(p.modes[point.mode])));
        else
            near->second += QStringLiteral(", ") + qs(nameOf(p.modes[point.mode]));
    }
    for (const auto& [point, text] : labels) {
        const double middle = std::sqrt(least * most);
        directLabel(plot, point.amps, point.efficiency * 100 - 3, text, colour(Role::accepts),
                    Qt::AlignTop | (point.amps < middle / 10   ? Qt::AlignLeft
                                    : point.amps > middle * 10 ? Qt::AlignRight
                                                               : Qt::AlignHCenter));
    }
    plot.replot();
}

void CurvesCard::drawHeat(const Stage& stage, const std::vector<double>& at, double most) {
    QCustomPlot& plot = *m_heat;
    const double theta = thetaOf(stage.part);
    const double limit = figureOf(stage.part, "max_part_c");
    const double air = m_session.project().brief.air().warmest().value();
    plot.xAxis->setRange(0, most);
    if (theta <= 0) {
        directLabel(plot, most / 2, 0.5, tr("K/W of this part is not stated"), colour(Role::muted),
                    Qt::AlignCenter);
        plot.yAxis->setRange(0, 1);
        plot.replot();
        return;
    }
    double top = limit > 0 ? limit : air + 10;
    const std::vector<double> ends = at.size() > 1 ? std::vector{at.front(), at.back()} : at;
    for (const double volts : ends) {
        QVector<double> amps;
        QVector<double> celsius;
        for (int i = 0; i <= kPoints; ++i) {
            const double a = most * i / kPoints;
            const PartPoint point = partAt(stage, volts, a);
            if (!point.works)
                continue;
            amps << a;
            celsius << partTemperature(stage.part, point.flow.loss(), air);
        }
        QCPGraph* graph = plot.addGraph();
        graph->setName(tr("part in °C at %1").arg(quantity(volts, Unit::volt)));
        graph->setPen(QPen(colour(Role::copper), Theme::now().px(1.6)));
        graph->setData(amps, celsius, true);
        if (!celsius.isEmpty())
            top = std::max(top, std::min(celsius.back(), 2 * std::max(limit, 60.0)));
        if (!amps.isEmpty() && celsius.back() < top * 1.1)
            directLabel(plot, amps.back(), celsius.back(), quantity(volts, Unit::volt),
                        colour(Role::muted), Qt::AlignRight | Qt::AlignBottom);
        if (const double cool = coolUpTo(stage, volts, Celsius{air}, most); std::isfinite(cool))
            directLabel(plot, cool, limit, quantity(cool, Unit::ampere), colour(Role::stop),
                        Qt::AlignLeft | Qt::AlignTop);
    }
    if (limit > 0) {
        auto* line = new QCPItemStraightLine(&plot);
        line->setPen(QPen(colour(Role::stop), Theme::now().px(1), Qt::DashLine));
        line->point1->setCoords(0, limit);
        line->point2->setCoords(1, limit);
        directLabel(plot, 0, limit, tr("limit %1").arg(quantity(limit, Unit::celsius)),
                    colour(Role::stop), Qt::AlignLeft | Qt::AlignBottom);
    }
    plot.yAxis->setRange(std::min(0.0, air), top * 1.12);
    plot.yAxis->setNumberFormat(QStringLiteral("f"));
    plot.yAxis->setNumberPrecision(0);
    plot.replot();
}

void CurvesCard::drawReach(const Stage& stage, double low, double high) {
    QCustomPlot& plot = *m_reach;
    // A little beyond what occurs, so that the edge is seen.
    const double from = low * 0.85;
    const double to = high * 1.1 + 0.05;
    QVector<double> volts;
    QVector<double> amps;
    double top = 0;
    for (int i = 0; i <= kPoints / 2; ++i) {
        const double v = from + (to - from) * i / (kPoints / 2);
        const double a = mostOutput(stage, v, 50);
        volts << v;
        amps << a;
        top = std::max(top, a);
    }
    QCPGraph* graph = plot.addGraph();
    graph->setName(tr("most output in A"));
    styleMainGraph(*graph);
    graph->setData(volts, amps, true);
    const auto index = static_cast<std::size_t>(&stage - m_session.project().stages.data());
    const auto worst = [&](const Survey& s) {
        const Sighting& most = s.mostOut[index];
        if (!most.seen)
            return;
        auto* line = new QCPItemStraightLine(&plot);
        line->setPen(QPen(colour(Role::accepts), Theme::now().px(1), Qt::DashLine));
        line->point1->setCoords(0, most.value);
        line->point2->setCoords(1, most.value);
        directLabel(plot, to, most.value,
                    tr("worst draw %1").arg(quantity(most.value, Unit::ampere)),
                    colour(Role::accepts), Qt::AlignRight | Qt::AlignBottom);
        top = std::max(top, most.value);
    };
    if (m_session.results().survey && m_session.results().survey->mostOut[index].seen)
        worst(*m_session.results().survey);
    else if (!m_session.results().tethers.empty())
        worst(m_session.results().tethers.front().seen);
    plot.xAxis->setRange(from, to);
    plot.yAxis->setRange(0, std::max(0.01, top * 1.2));
    plot.replot();
}

void CurvesCard::readLabelText() {
    const Project& p = m_session.project();
    const Stage* stage = p.stage(m_session.selected().toStdString());
    const QString typed = m_label->text().trimmed();
    m_means->setVisible(!typed.isEmpty() && stage);
    if (typed.isEmpty() || !stage)
        return;
    const auto label = readLabel(typed.toStdString());
    m_means->setStyleSheet(inkOf(label ? Role::ink : Role::stop));
    if (!label) {
        m_means->setText(qs(label.error().message()));
        return;
    }
    const Band in = inputs(m_session.results(), static_cast<std::size_t>(stage - p.stages.data()));
    m_means->setText(
        qs(labelMeans(*stage, label.value(), in.seen ? in.low : figureOf(stage->part, "set_v"))));
}

void CurvesCard::openFit() {
    LossFitDialog(m_session, m_session.selected(), this).exec();
}

} // namespace sipper::app
