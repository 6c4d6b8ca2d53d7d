// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/runtime/runpages.hpp"

#include "runtime/shelf.hpp"
#include "theme/theme.hpp"
#include "widgets/controls.hpp"
#include "widgets/panel.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/text.hpp"

#include <QHBoxLayout>
#include <QLabel>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kSocketVolts = 5;
constexpr double kVeryLong = 240;      ///< months
constexpr double kMostOfDevice = 1000; ///< Ah or V
constexpr const char* kTable = "<table cellspacing='0' cellpadding='1'>";

QString ruleText(const std::string& rule) {
    if (rule == "capacity_over_current")
        return QObject::tr("Capacity over current");
    if (rule == "energy_over_power")
        return QObject::tr("Watt-hours over the loads' watts");
    return QObject::tr("The same, times a flat 0.9");
}

QString monthsText(double months) {
    return !std::isfinite(months) || months > kVeryLong ? QObject::tr("over 20 years")
           : months >= 24 ? QObject::tr("%1 years").arg(months / 12, 0, 'f', 1)
           : months >= 2  ? QObject::tr("%1 months").arg(months, 0, 'f', 0)
                          : QObject::tr("%1 days").arg(months * kHoursPerMonth / 24, 0, 'f', 0);
}

/// The schools of the cut-off: what each runs, and how often the cells can be filled.
QString policyTable(const std::vector<PolicyLife>& schools) {
    QString text = QLatin1String(kTable);
    text += QStringLiteral("<tr><td></td><td>%1&nbsp;&nbsp;</td><td>%2&nbsp;&nbsp;</td><td>%3</td>"
                           "</tr>")
                .arg(QObject::tr("cut-off"), QObject::tr("runs"), QObject::tr("cycles"));
    for (const PolicyLife& school : schools)
        text += QStringLiteral("<tr><td><b>%1</b>&nbsp;&nbsp;</td><td>%2&nbsp;&nbsp;</td><td>%3"
                               "&nbsp;&nbsp;</td><td>%4</td></tr>")
                    .arg(qs(nameOf(school.policy)), quantity(school.cutoff, Unit::volt),
                         hours(school.hours), qs(writeCycles(school.life)));
    return text + QStringLiteral("</table>");
}

QString shelfText(const Project& p, const ShelfLife& s) {
    QString text =
        QObject::tr("<b>Unused</b>, all off that can be switched off: %1 flow and the cells lose "
                    "%2 by themselves. Full cells still start it after <b>%3</b>.")
            .arg(quantity(s.offAmps, Unit::ampere), quantity(s.selfAmps, Unit::ampere),
                 qs(lastsText(s.noStartMonths, p.pack()->cell.chemistry)));
    if (s.cutoffMonths)
        text += QObject::tr(" %1 opens after %2 and goes on drawing %3.")
                    .arg(qs(nameOf(*p.stage(s.guard))).toHtmlEscaped(), monthsText(*s.cutoffMonths),
                         quantity(s.openAmps, Unit::ampere));
    return text + (s.damageMonths
                       ? QObject::tr(" The cells are ruined after <b>%1</b>.")
                             .arg(qs(lastsText(*s.damageMonths, p.pack()->cell.chemistry)))
                       : QObject::tr(" These cells are used up, not ruined."));
}

} // namespace

QString signedHours(double value) {
    return (value >= 0 ? QStringLiteral("+") : QString()) + hours(value);
}

std::vector<PageText> handEstimatePage(const Results& r) {
    std::vector<PageText> page;
    for (const HandEstimate& e : r.handEstimate) {
        QString text = QStringLiteral("<b>%1: %2</b> = %3")
                           .arg(ruleText(e.rule), hours(e.hours), qs(e.formula).toHtmlEscaped());
        text += QLatin1String(kTable);
        for (const EnvelopeTerm& term : e.terms) {
            if (std::abs(term.hours) < 0.0005 * e.hours)
                continue;
            text += QStringLiteral("<tr><td align='right'>%1&nbsp;</td><td>%2</td></tr>")
                        .arg(signedHours(-term.hours), qs(term.words).toHtmlEscaped());
        }
        text += QStringLiteral("<tr><td align='right'><b>= %1</b>&nbsp;</td><td>this run</td></tr>"
                               "</table>")
                    .arg(hours(r.runtime.hours->value()));
        page.push_back({"envelope." + qs(e.rule), text});
    }
    return page;
}

/// Each uncertain thing moved to its two ends with everything else as usual.
std::vector<PageText> rangePage(const Session& session) {
    const RuntimeUncertainty* range = session.results().range();
    if (!range || !session.resultsCurrent())
        return {};
    QString text =
        QObject::tr("Of %1 builds one in ten stays under <b>%2</b>, one in two under <b>%3</b>, "
                    "nine in ten under <b>%4</b>. What that rests on, each by itself:")
            .arg(range->hours.size())
            .arg(hours(range->range.p10), hours(range->range.p50), hours(range->range.p90));
    text += QLatin1String(kTable);
    for (const Sensitivity& spread : range->sensitivities)
        if (spread.high - spread.low > 0.001 * range->range.p50)
            text += QStringLiteral("<tr><td align='right'><b>%1</b>&nbsp;</td><td>%2: %3 to %4"
                                   "</td></tr>")
                        .arg(hours(spread.high - spread.low), qs(spread.about).toHtmlEscaped(),
                             hours(spread.low), hours(spread.high));
    return {{QStringLiteral("range.causes"), text + QStringLiteral("</table>")}};
}

/// What the cells' label is worth at every load, at its own volts, and at one socket.
std::vector<PageText> unitsPage(const Project& p, const Results& r) {
    if (!r.equivalents)
        return {};
    const EnergyEquivalents& worth = *r.equivalents;
    QString text =
        QObject::tr("On the cells: <b>%1</b> at %2, %3. The loads get %4 of it, %5.")
            .arg(quantity(worth.ratedAh, Unit::ampereHour), quantity(worth.ratedVolts, Unit::volt),
                 quantity(worth.ratedWh, Unit::wattHour),
                 quantity(worth.deliveredWh, Unit::wattHour), qs(writeShare(worth.share())));
    text += QLatin1String(kTable);
    for (const EnergyEquivalents::AtLoad& load : worth.loads)
        text += QStringLiteral("<tr><td align='right'><b>%1</b>&nbsp;</td><td>%2</td></tr>")
                    .arg(quantity(load.ah, Unit::ampereHour),
                         QObject::tr("at %1 into %2, %3")
                             .arg(quantity(load.volts, Unit::volt),
                                  qs(nameOf(*p.load(load.id))).toHtmlEscaped(),
                                  quantity(load.wh, Unit::wattHour)));
    text += QStringLiteral("</table>");
    text += QObject::tr("All of it at one socket of 5 V would be <b>%1</b>: what a label in cell "
                        "milliamp-hours does not say.")
                .arg(quantity(worth.ahAt(kSocketVolts), Unit::ampereHour));
    return {{QStringLiteral("units.text"), text}};
}

/// Unused and used: how long full cells last on the shelf, and how often they can be filled.
std::vector<PageText> wearPage(const Session& session) {
    const Results& r = session.results();
    std::vector<PageText> page;
    if (!r.shelf && !r.cycles)
        return page;
    if (r.shelf)
        page.push_back({QStringLiteral("wear.shelf"), shelfText(session.project(), *r.shelf)});
    if (!r.cycles) {
        page.push_back({QStringLiteral("wear.cycles"),
                        canRecharge(session.project().pack()->cell)
                            ? QObject::tr("<b>In use</b>: how often they can be filled is not "
                                          "known.")
                            : QObject::tr("<b>In use</b>: these cells are used once.")});
        return page;
    }
    const CycleLife& life = *r.cycles;
    QString text =
        QObject::tr("<b>In use</b>, by rule of thumb: <b>%1 cycles</b> of %2 of the charge, "
                    "charged to %3 a cell at up to %4 C, until four fifths of the capacity are "
                    "left.")
            .arg(qs(writeCycles(life)), qs(writeShare(life.depth)),
                 quantity(life.topVolts, Unit::volt))
            .arg(life.rate, 0, 'g', 2);
    if (life.byAge)
        text += QObject::tr(" More runs do not fit into the years that such cells keep.");
    if (!r.cutoffPolicies().empty() && session.resultsCurrent())
        text += policyTable(r.cutoffPolicies());
    page.push_back({QStringLiteral("wear.cycles"), text});
    return page;
}

DeviceRow::DeviceRow(const EnergyEquivalents& worth, Device& device, QWidget* parent)
    : QWidget(parent) {
    const Theme& t = Theme::now();
    auto* line = newRow(this, 6, Margins{});
    auto* says = textLabel(this, {}, {.size = 12, .bold = true, .name = "units.refills"});
    const auto show = [&device, says, worth] {
        says->setText(tr("%1 refills").arg(worth.refills(device.ah, device.volts), 0, 'g', 2));
    };
    const auto field = [&](const char* key, const char* label, const char* help, Unit unit,
                           double* value) {
        FieldFacts facts;
        facts.key = key;
        facts.label = label;
        facts.help = help;
        facts.unit = unit;
        facts.limits = {0, kMostOfDevice, true};
        facts.required = true;
        auto* edit = quantityField(this, QStringLiteral("units.%1").arg(QLatin1String(key)), facts);
        edit->setValue(*value);
        edit->setFixedWidth(t.ipx(60));
        connect(edit, &QuantityEdit::committed, this, [value, show](std::optional<double> v) {
            if (v)
                *value = *v;
            show();
        });
        line->addWidget(edit);
    };
    line->addWidget(mutedLabel(tr("A device of"), this, 12));
    field("deviceAh", "Its battery", "Capacity of the other device's battery, ampere-hours.",
          Unit::ampereHour, &device.ah);
    line->addWidget(mutedLabel(tr("at"), this, 12));
    field("deviceV", "Its volts", "Nominal volts of the other device's battery.", Unit::volt,
          &device.volts);
    line->addWidget(says);
    line->addStretch();
    setToolTip(tr("By watt-hours that reach the loads; what the device loses while it charges "
                  "comes off too"));
    show();
}

} // namespace sipper::app
