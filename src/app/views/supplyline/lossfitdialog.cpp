// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/supplyline/lossfitdialog.hpp"

#include "parts/fields.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/plotstyle.hpp"
#include "widgets/text.hpp"

#include <QHBoxLayout>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QVBoxLayout>
#include <qcustomplot.h>

namespace sipper::app {

LossFitDialog::LossFitDialog(Session& session, const QString& stage, QWidget* parent)
    : QDialog(parent), m_session(session), m_stage(stage.toStdString()) {
    setObjectName(QStringLiteral("lossFit"));
    const Stage* part = session.project().stage(m_stage);
    setWindowTitle(tr("Fit losses"));
    const Theme& t = Theme::now();
    auto* column = newColumn(this, 8, Margins{16, 12, 16, 12});
    auto* title =
        textLabel(this, tr("Losses of %1 from points").arg(part ? qs(nameOf(*part)) : QString()),
                  {.size = 15, .bold = true});
    column->addWidget(title);
    auto* about = mutedLabel(tr("A row a point: volts in, volts out, amps out, then the efficiency "
                                "(0.88 or 88 %) or the amps in with their unit (470 mA). From a "
                                "data sheet's curve, or from your meter."),
                             this, 12);
    about->setWordWrap(true);
    column->addWidget(about);
    auto* row = newRow(nullptr, 10);
    m_points = new QPlainTextEdit(this);
    m_points->setObjectName(QStringLiteral("lossFit.points"));
    m_points->setAccessibleName(tr("Points"));
    m_points->setToolTip(tr("Volts in, volts out, amps out, efficiency or amps in; paste a table"));
    m_points->setPlaceholderText(tr("12, 5, 0.1, 84 %\n12, 5, 0.5, 91 %\n12, 5, 2, 88 %"));
    m_points->setTabChangesFocus(true);
    m_points->setFont(t.font(12));
    m_points->setStyleSheet(QStringLiteral("QPlainTextEdit { background: %1; border: 1px solid %2; "
                                           "border-radius: 4px; }")
                                .arg(colour(Role::field).name(), colour(Role::hairline).name()));
    row->addWidget(m_points, 2);
    m_plot = new QCustomPlot(this);
    m_plot->setObjectName(QStringLiteral("lossFit.plot"));
    m_plot->setAccessibleName(tr("Efficiency: points and fit"));
    stylePlot(*m_plot);
    row->addWidget(m_plot, 3);
    column->addLayout(row, 1);
    m_terms =
        textLabel(this, {}, {.size = 12, .bold = true, .wrap = true, .name = "lossFit.terms"});
    column->addWidget(m_terms);
    m_complaint = complaintLabel(QStringLiteral("lossFit.complaint"), this);
    column->addWidget(m_complaint);
    auto* foot = new QHBoxLayout;
    foot->addStretch();
    auto* leave = pushButton(this, "lossFit.leave", tr("Leave it"));
    leave->setAutoDefault(false);
    leave->setToolTip(tr("Keep the figures as they are"));
    connect(leave, &QPushButton::clicked, this, &QDialog::reject);
    m_use = pushButton(this, "lossFit.use", tr("Use these figures"));
    m_use->setProperty("accent", true);
    m_use->setToolTip(tr("Give the part these loss terms; one undo takes it back"));
    connect(m_use, &QPushButton::clicked, this, &LossFitDialog::use);
    foot->addWidget(leave);
    foot->addWidget(m_use);
    column->addLayout(foot);
    connect(m_points, &QPlainTextEdit::textChanged, this, &LossFitDialog::refresh);
    resize(t.ipx(720), t.ipx(440));
    refresh();
}

void LossFitDialog::refresh() {
    m_fit.reset();
    m_plot->clearGraphs();
    m_terms->clear();
    complain(*m_complaint, {});
    const Stage* stage = m_session.project().stage(m_stage);
    const auto* part = stage ? std::get_if<Switcher>(&stage->part) : nullptr;
    const std::string text = m_points->toPlainText().toStdString();
    if (!part) {
        complain(*m_complaint, tr("A linear regulator has no loss terms to fit: what it burns "
                                  "follows from its voltages."));
    } else if (text.find_first_not_of(" \n\t") != std::string::npos) {
        const auto points = readLossPoints(text);
        const auto fit =
            points ? fitLosses(part->topology, points.value()) : Outcome<LossFit>(points.error());
        if (!fit) {
            complain(*m_complaint, qs(fit.error().message()));
        } else {
            m_fit = fit.value();
            m_terms->setText(
                tr("Own use %1 · fixed %2 · %3 per amp · %4 · worst error %5 points of "
                   "efficiency, at row %6")
                    .arg(quantity(m_fit->quiescent, Unit::ampere),
                         quantity(m_fit->fixed, Unit::watt), quantity(m_fit->drop, Unit::volt),
                         quantity(m_fit->resistance, Unit::ohm))
                    .arg(m_fit->worst * 100, 0, 'g', 2)
                    .arg(m_fit->worstPoint + 1));
            QCPGraph* measured = m_plot->addGraph();
            measured->setName(tr("measured, %"));
            measured->setLineStyle(QCPGraph::lsNone);
            measured->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssCircle,
                                                      colour(Role::accepts), Theme::now().px(7)));
            QCPGraph* fitted = m_plot->addGraph();
            fitted->setName(tr("fit, %"));
            fitted->setLineStyle(QCPGraph::lsNone);
            fitted->setScatterStyle(
                QCPScatterStyle(QCPScatterStyle::ssDisc, colour(Role::copper), Theme::now().px(5)));
            double low = 1;
            double most = 0;
            for (std::size_t i = 0; i < points.value().size(); ++i) {
                const LossPoint& p = points.value()[i];
                measured->addData(p.iOut, p.efficiency() * 100);
                fitted->addData(p.iOut, m_fit->efficiency[i] * 100);
                low = std::min({low, p.efficiency(), m_fit->efficiency[i]});
                most = std::max(most, p.iOut);
            }
            m_plot->xAxis->setRange(0, most * 1.1);
            m_plot->yAxis->setRange(low * 100 - 4, 102);
        }
    }
    m_use->setEnabled(m_fit.has_value());
    m_plot->replot();
}

void LossFitDialog::use() {
    if (!m_fit)
        return;
    Project after = m_session.project();
    Stage* stage = after.stage(m_stage);
    if (!stage)
        return;
    // What is under a millionth is nothing, and reads as nothing.
    const auto tidy = [](double v) {
        return v < 1e-9 ? 0.0 : std::stod(QString::number(v, 'g', 4).toStdString());
    };
    auto& part = std::get<Switcher>(stage->part);
    part.quiescent = Amps{tidy(m_fit->quiescent)};
    part.fixed = Watts{tidy(m_fit->fixed)};
    part.drop = Volts{tidy(m_fit->drop)};
    part.resistance = Ohms{tidy(m_fit->resistance)};
    const QString name = tr("fit the losses of %1").arg(qs(nameOf(*stage)));
    if (const auto trouble = m_session.edit(name, std::move(after))) {
        complain(*m_complaint, qs(trouble->message()));
        return;
    }
    accept();
}

} // namespace sipper::app
