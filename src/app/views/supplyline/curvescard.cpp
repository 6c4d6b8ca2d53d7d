// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/supplyline/curvescard.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"

#include "parts/figures.hpp"
#include "views/supplyline/lossfitdialog.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/refresher.hpp"
#include "widgets/text.hpp"

#include <QHBoxLayout>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>
#include <qcustomplot.h>

namespace sipper::app {
namespace {

constexpr double kSharesLabel = 0.7; ///< decades of current within which two modes share a label

/// Texts of a plot that keep clear of each other; one set of them a plot.
PlotLabels& labelsOf(QCustomPlot& plot) {
    for (QObject* child : plot.children())
        if (auto* labels = dynamic_cast<PlotLabels*>(child))
            return *labels;
    return *new PlotLabels(plot);
}

void directLabel(QCustomPlot& plot, double x, double y, const QString& text, Role ink,
                 Qt::Alignment where = Qt::AlignRight | Qt::AlignVCenter) {
    QCPItemText* label =
        plotText(plot, ink, {.padding = {2, 0, 0, 0}, .ground = ink == Role::muted}, text);
    label->setPositionAlignment(where);
    label->position->setCoords(x, y);
    label->setClipToAxisRect(false);
    labelsOf(plot).add(*label);
}

void clear(QCustomPlot& plot) {
    plot.clearGraphs();
    plot.clearItems();
}

} // namespace

CurvesCard::CurvesCard(Session& session, QWidget* parent) : QFrame(parent), m_session(session) {
    makeCard(*this, QStringLiteral("curvesCard"), tr("Curves of the chosen regulator"));
    const Theme& t = Theme::now();
    auto* column = newColumn(this, 4, Margins{12, 8, 12, 8});
    auto* plots = newRow(nullptr, 10);
    const auto one = [&](const char* name, const QString& title, const QString& about) {
        auto* box = newColumn(nullptr, 0);
        auto* head = textLabel(this, title, {.size = 12, .bold = true});
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
    auto* foot = newRow(nullptr, 8);
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
    auto* fit =
        pushButton(this, "curves.fit", tr("Fit its losses…"),
                   tr("Find the loss terms from points of a data sheet or of your own readings"));
    connect(fit, &QPushButton::clicked, this, &CurvesCard::openFit);
    foot->addWidget(fit);
    column->addLayout(foot);
    m_means = mutedLabel({}, this, 12);
    m_means->setObjectName(QStringLiteral("curves.means"));
    m_means->setWordWrap(true);
    m_means->hide();
    column->addWidget(m_means);
    new Refresher(this, session,
                  {&Session::projectChanged, &Session::selectionChanged, &Session::momentChanged},
                  [this] { ask(); });
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
    return stage && isRegulator(stage->part);
}

/// RuleInput beside the window; what is drawn stays until the new curves are there.
void CurvesCard::ask() {
    const Project& p = m_session.project();
    const std::string id = m_session.selected().toStdString();
    if (!has(p, id)) {
        m_session.jobs().stop(kJob);
        for (QCustomPlot* each : {m_efficiency, m_heat, m_reach}) {
            clear(*each);
            each->replot();
        }
        m_split->setText(tr("Choose a regulator to see its curves."));
        return;
    }
    saySplit(id);
    readLabelText();
    CurvesAt at{
        m_session.results().sweep, m_session.results().externalLoads, {}, m_session.charge()};
    for (const QString& source : m_session.plugged())
        at.present.push_back(source.toStdString());
    m_session.jobs().runOnProject(
        kJob, Jobs::Priority::shown,
        [this, project = std::make_shared<const Project>(p), id,
         at = std::move(at)](const std::stop_token& stop, const Jobs::Progress&) -> Jobs::Deliver {
            auto found = regulatorCurves(*project, id, at, stop);
            if (!found)
                return {};
            return [this, curves = std::make_shared<const RegulatorCurves>(std::move(*found)), id] {
                draw(*curves, id);
            };
        },
        this);
}

void CurvesCard::draw(const RegulatorCurves& c, const std::string& id) {
    const Stage* stage = m_session.project().stage(id);
    if (!stage)
        return;
    for (QCustomPlot* each : {m_efficiency, m_heat, m_reach})
        clear(*each);
    drawEfficiency(c);
    drawWorking(c);
    drawHeat(c, *stage);
    drawReach(c);
    for (QCustomPlot* each : {m_efficiency, m_heat, m_reach})
        each->replot();
}

void CurvesCard::saySplit(const std::string& id) {
    const Project& p = m_session.project();
    const std::size_t index = stageIndex(p, id);
    if (m_session.moment().flows.stages.size() <= index)
        return;
    const Stage& stage = p.stages[index];
    const LossSplit s = lossSplit(stage, m_session.moment().flows.stages[index]);
    QStringList parts;
    const auto say = [&](double watts, const QString& what) {
        if (watts > kNoticedShare * s.total())
            parts << tr("%1 %2").arg(what, quantity(watts, Unit::watt));
    };
    const bool drops = kindFacts(stage.part).losses == LossRule::dropped;
    say(s.quiescent, tr("own use"));
    say(s.fixed, tr("fixed"));
    say(s.drop, drops ? tr("burnt") : tr("per amp"));
    say(s.resistance, tr("resistance"));
    m_split->setText(tr("Lost now: %1%2")
                         .arg(quantity(s.total(), Unit::watt),
                              parts.isEmpty()
                                  ? QString()
                                  : QStringLiteral(" = ") + parts.join(QStringLiteral(" + "))));
}

void CurvesCard::drawEfficiency(const RegulatorCurves& c) {
    QCustomPlot& plot = *m_efficiency;
    plot.xAxis->setScaleType(QCPAxis::stLogarithmic);
    double floor = 1;
    for (std::size_t k = 0; k < c.inputs.size(); ++k) {
        QVector<double> efficiency;
        for (const double share : c.efficiency[k].y) {
            efficiency << share * 100;
            floor = std::min(floor, share);
        }
        const QVector<double> amps(c.efficiency[k].x.begin(), c.efficiency[k].x.end());
        QCPGraph* graph = plot.addGraph();
        graph->setName(tr("efficiency in %% at %1").arg(quantity(c.inputs[k], Unit::volt)));
        QColor ink = colour(Role::copper);
        if (c.inputs.size() > 1)
            ink.setAlphaF(0.4F + 0.3F * static_cast<float>(k));
        graph->setPen(QPen(ink, Theme::now().px(1.6)));
        graph->setData(amps, efficiency, true);
        if (!amps.isEmpty())
            directLabel(plot, amps.back(), efficiency.back(), quantity(c.inputs[k], Unit::volt),
                        Role::muted, Qt::AlignRight | (k == 0 ? Qt::AlignTop : Qt::AlignBottom));
    }
    plot.xAxis->setRange(c.leastAmps, c.mostAmps);
    plot.setProperty("keys", tr("current out (A)"));
    auto ticker = QSharedPointer<QCPAxisTickerText>::create();
    for (double a = std::pow(10.0, std::ceil(std::log10(c.leastAmps))); a <= c.mostAmps; a *= 10)
        ticker->addTick(a, plainDecade(a));
    plot.xAxis->setTicker(ticker);
    plot.yAxis->setRange(std::max(0.0, std::floor(floor * 10) * 10 - 5), 102);
    plot.yAxis->setNumberFormat(QStringLiteral("f"));
    plot.yAxis->setNumberPrecision(0);
}

/// Where each mode works; modes at nearly the same point share one label.
void CurvesCard::drawWorking(const RegulatorCurves& c) {
    const Project& p = m_session.project();
    QCustomPlot& plot = *m_efficiency;
    std::vector<std::pair<RegulatorCurves::Working, QString>> labels;
    for (const auto& point : c.working) {
        const QString name = qs(nameOf(p.modes[point.mode]));
        QCPGraph* dot = plot.addGraph();
        dot->setName(name);
        dot->setLineStyle(QCPGraph::lsNone);
        dot->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, QPen(colour(Role::accepts)),
                                             QBrush(colour(Role::accepts)), Theme::now().px(6)));
        dot->addData(point.amps, point.efficiency * 100);
        const auto near = std::find_if(labels.begin(), labels.end(), [&](const auto& other) {
            return std::abs(std::log10(other.first.amps / point.amps)) < kSharesLabel &&
                   std::abs(other.first.efficiency - point.efficiency) < 0.06;
        });
        if (near == labels.end())
            labels.emplace_back(point, name);
        else
            near->second += QStringLiteral(", ") + name;
    }
    const double middle = std::sqrt(c.leastAmps * c.mostAmps);
    for (const auto& [point, text] : labels)
        directLabel(plot, point.amps, point.efficiency * 100 - 3, text, Role::accepts,
                    Qt::AlignTop | (point.amps < middle / 10   ? Qt::AlignLeft
                                    : point.amps > middle * 10 ? Qt::AlignRight
                                                               : Qt::AlignHCenter));
}

void CurvesCard::drawHeat(const RegulatorCurves& c, const Stage& stage) {
    QCustomPlot& plot = *m_heat;
    const double limit = maxPartOf(stage.part);
    const double air = m_session.project().brief.air().warmest().value();
    plot.xAxis->setRange(0, c.mostAmps);
    if (thetaOf(stage.part) <= 0) {
        directLabel(plot, c.mostAmps / 2, 0.5, tr("K/W of this part is not stated"), Role::muted,
                    Qt::AlignCenter);
        plot.yAxis->setRange(0, 1);
        return;
    }
    double top = limit > 0 ? limit : air + 10;
    for (std::size_t k = 0; k < c.heat.size(); ++k) {
        const double volts = k == 0 ? c.inputs.front() : c.inputs.back();
        const QVector<double> amps(c.heat[k].x.begin(), c.heat[k].x.end());
        const QVector<double> celsius(c.heat[k].y.begin(), c.heat[k].y.end());
        QCPGraph* graph = plot.addGraph();
        graph->setName(tr("part in °C at %1").arg(quantity(volts, Unit::volt)));
        graph->setPen(QPen(colour(Role::copper), Theme::now().px(1.6)));
        graph->setData(amps, celsius, true);
        if (!celsius.isEmpty())
            top = std::max(top, std::min(celsius.back(), 2 * std::max(limit, 60.0)));
        if (!amps.isEmpty() && celsius.back() < top * 1.1)
            directLabel(plot, amps.back(), celsius.back(), quantity(volts, Unit::volt), Role::muted,
                        Qt::AlignRight | Qt::AlignBottom);
        if (std::isfinite(c.coolUpTo[k]))
            directLabel(plot, c.coolUpTo[k], limit, quantity(c.coolUpTo[k], Unit::ampere),
                        Role::stop, Qt::AlignLeft | Qt::AlignTop);
    }
    if (limit > 0) {
        auto* line = new QCPItemStraightLine(&plot);
        line->setPen(QPen(colour(Role::stop), Theme::now().px(1), Qt::DashLine));
        line->point1->setCoords(0, limit);
        line->point2->setCoords(1, limit);
        directLabel(plot, 0, limit, tr("limit %1").arg(quantity(limit, Unit::celsius)), Role::stop,
                    Qt::AlignLeft | Qt::AlignBottom);
    }
    plot.yAxis->setRange(std::min(0.0, air), top * 1.12);
    plot.yAxis->setNumberFormat(QStringLiteral("f"));
    plot.yAxis->setNumberPrecision(0);
}

void CurvesCard::drawReach(const RegulatorCurves& c) {
    QCustomPlot& plot = *m_reach;
    if (c.reach.x.empty())
        return;
    QCPGraph* graph = plot.addGraph();
    graph->setName(tr("most output in A"));
    styleMainGraph(*graph);
    graph->setData(QVector<double>(c.reach.x.begin(), c.reach.x.end()),
                   QVector<double>(c.reach.y.begin(), c.reach.y.end()), true);
    double top = *std::max_element(c.reach.y.begin(), c.reach.y.end());
    if (c.worst) {
        auto* line = new QCPItemStraightLine(&plot);
        line->setPen(QPen(colour(Role::accepts), Theme::now().px(1), Qt::DashLine));
        line->point1->setCoords(0, *c.worst);
        line->point2->setCoords(1, *c.worst);
        directLabel(plot, c.reach.x.back(), *c.worst,
                    tr("worst draw %1").arg(quantity(*c.worst, Unit::ampere)), Role::accepts,
                    Qt::AlignRight | Qt::AlignBottom);
        top = std::max(top, *c.worst);
    }
    plot.xAxis->setRange(c.reach.x.front(), c.reach.x.back());
    plot.yAxis->setRange(0, std::max(0.01, top * 1.2));
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
    const VoltageRange in = inputsOf(m_session.results().sweep, m_session.results().externalLoads,
                                     stageIndex(p, stage->id));
    m_means->setText(
        qs(labelMeans(*stage, label.value(), in.valid ? in.low : orZero(setPointOf(stage->part)))));
}

void CurvesCard::openFit() {
    LossFitDialog(m_session, m_session.selected(), this).exec();
}

} // namespace sipper::app
