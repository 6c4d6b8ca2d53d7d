#include "views/runtime/leverscard.hpp"

#include "runtime/envelope.hpp"
#include "widgets/panel.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/text.hpp"

#include <QHBoxLayout>
#include <QPushButton>
#include <QScrollArea>
#include <QStyle>
#include <QVBoxLayout>

namespace sipper::app {
namespace {

constexpr double kSocketVolts = 5;
constexpr double kVeryLong = 240;      ///< months
constexpr double kMostOfDevice = 1000; ///< Ah or V

QString signedHours(double value) {
    return (value >= 0 ? QStringLiteral("+") : QString()) + hours(value);
}

QString ruleText(const std::string& rule) {
    if (rule == "capacity_over_current")
        return QObject::tr("Capacity over current");
    if (rule == "energy_over_power")
        return QObject::tr("Watt-hours over the loads' watts");
    return QObject::tr("The same, times a flat 0.9");
}

} // namespace

LeversCard::LeversCard(Session& session, QWidget* parent) : QFrame(parent), m_session(session) {
    makeCard(*this, QStringLiteral("leversCard"), tr("What would lengthen it"));
    const Theme& t = Theme::now();
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(t.ipx(12), t.ipx(8), t.ipx(8), t.ipx(8));
    column->setSpacing(t.ipx(6));
    auto* head = new QHBoxLayout;
    head->setSpacing(t.ipx(6));
    const auto page = [&](const QString& text, const char* name, const QString& help, Page which) {
        auto* b = new QPushButton(text, this);
        b->setObjectName(QLatin1String(name));
        b->setCheckable(true);
        b->setToolTip(help);
        connect(b, &QPushButton::clicked, this, [this, which] { choose(which); });
        head->addWidget(b);
        m_pages << b;
    };
    page(tr("Levers"), "levers.show", tr("Every adjustable thing moved by one step, each solved"),
         Page::levers);
    page(tr("Envelope"), "envelope.show",
         tr("What people reckon, and why it differs, term by term"), Page::envelope);
    page(tr("Range"), "range.show", tr("What the range rests on, the widest first"), Page::range);
    page(tr("Units"), "units.show", tr("The same charge at the cells and at every load"),
         Page::units);
    page(tr("Wear"), "wear.show", tr("How long the cells last on the shelf, and how many cycles"),
         Page::wear);
    head->addStretch();
    m_state = mutedLabel({}, this);
    m_state->setObjectName(QStringLiteral("levers.state"));
    head->addWidget(m_state);
    column->addLayout(head);
    m_scroll = new QScrollArea(this);
    m_scroll->setWidgetResizable(true);
    m_scroll->setFrameShape(QFrame::NoFrame);
    m_scroll->setFocusPolicy(Qt::NoFocus);
    m_scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    m_scroll->setStyleSheet(
        QStringLiteral("QScrollArea, #leversBody { background: transparent; }"));
    m_body = new QWidget;
    m_body->setObjectName(QStringLiteral("leversBody"));
    m_rows = new QVBoxLayout(m_body);
    m_rows->setContentsMargins(0, 0, t.ipx(4), 0);
    m_rows->setSpacing(t.ipx(2));
    m_scroll->setWidget(m_body);
    column->addWidget(m_scroll, 1);
    connect(&session, &Session::projectChanged, this, [this] {
        if (isVisible())
            solve();
    });
    connect(&session, &Session::resultsSettled, this, [this] {
        if (m_page == Page::range || m_page == Page::wear)
            showPage();
    });
    choose(Page::levers);
}

void LeversCard::showEvent(QShowEvent* event) {
    QFrame::showEvent(event);
    solve();
}

void LeversCard::choose(Page page) {
    m_page = page;
    for (qsizetype i = 0; i < m_pages.size(); ++i) {
        const bool on = i == static_cast<qsizetype>(page);
        m_pages[i]->setChecked(on);
        m_pages[i]->setProperty("accent", on);
        m_pages[i]->style()->unpolish(m_pages[i]);
        m_pages[i]->style()->polish(m_pages[i]);
    }
    showPage();
}

void LeversCard::showPage() {
    clearLayout(*m_rows);
    m_body->setEnabled(m_page != Page::levers || m_of == m_session.project());
    switch (m_page) {
    case Page::levers:
        showLevers();
        break;
    case Page::envelope:
        showEnvelope();
        break;
    case Page::range:
        showRange();
        break;
    case Page::units:
        showUnits();
        break;
    case Page::wear:
        showWear();
        break;
    }
    m_rows->addStretch();
}

QLabel* LeversCard::addText(const QString& name, const QString& richText) {
    auto* label = new QLabel(richText, m_body);
    label->setObjectName(name);
    label->setTextFormat(Qt::RichText);
    label->setFont(Theme::now().font(12));
    label->setWordWrap(true);
    label->setTextInteractionFlags(Qt::TextSelectableByMouse);
    m_rows->addWidget(label);
    m_rows->addSpacing(Theme::now().ipx(6));
    return label;
}

/// Beside the window; the old list stays until the new one is there.
void LeversCard::solve() {
    if (m_page != Page::levers)
        showPage();
    if (m_of == m_session.project() && !m_levers.empty())
        return;
    m_state->setText(tr("solving …"));
    // Steps of an older project are still read, but taking one would undo what was edited since.
    m_body->setEnabled(m_page != Page::levers);
    m_background.run([this, project = m_session.project()](
                         const std::stop_token& stop) -> std::function<void()> {
        const Library library = loadLibrary(Session::partsFolder().toStdString());
        auto levers = std::make_shared<std::vector<Lever>>(leversOf(project, library, stop));
        if (stop.stop_requested())
            return {};
        auto pairs = leverPairs(project, *levers);
        levers->insert(levers->end(), std::make_move_iterator(pairs.begin()),
                       std::make_move_iterator(pairs.end()));
        return [this, levers, project] {
            m_levers = std::move(*levers);
            m_of = project;
            m_state->setText({});
            m_body->setEnabled(true);
            if (m_page == Page::levers)
                showPage();
        };
    });
}

void LeversCard::addLever(const Lever& lever, std::size_t number) {
    const Theme& t = Theme::now();
    auto* row = new QWidget(m_body);
    row->setObjectName(QStringLiteral("lever.%1").arg(number));
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(t.ipx(8));
    auto* gain = new QLabel(signedHours(lever.gainHours), row);
    gain->setObjectName(QStringLiteral("lever.%1.gain").arg(number));
    gain->setFont(t.font(12, true));
    gain->setStyleSheet(inkOf(Role::fine));
    gain->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    gain->setFixedWidth(t.ipx(62));
    auto* name = new QLabel(qs(lever.name), row);
    name->setFont(t.font(12));
    name->setWordWrap(true);
    QStringList costs;
    if (std::abs(lever.gramsMore) > 0.05)
        costs << QStringLiteral("%1%2").arg(lever.gramsMore > 0 ? "+" : "",
                                            quantity(lever.gramsMore, Unit::gram));
    if (std::abs(lever.priceMore) > 0.005)
        costs << QStringLiteral("%1%2")
                     .arg(lever.priceMore > 0 ? "+" : "")
                     .arg(lever.priceMore, 0, 'f', 2);
    auto* cost = mutedLabel(costs.join(QStringLiteral(" · ")), row);
    auto* use = new QPushButton(tr("Do it"), row);
    use->setObjectName(QStringLiteral("lever.%1.use").arg(number));
    use->setAccessibleName(tr("Do it: %1").arg(qs(lever.name)));
    use->setToolTip(tr("Take this step; one undo takes it back"));
    connect(use, &QPushButton::clicked, this, [this, number] {
        if (number < m_levers.size()) {
            const Lever chosen = m_levers[number];
            if (const auto trouble = m_session.edit(qs(chosen.name), chosen.project))
                m_state->setText(qs(trouble->message()));
        }
    });
    auto* what = new QVBoxLayout;
    what->setSpacing(0);
    what->addWidget(name);
    auto* attempt = new QPushButton(tr("Try"), row);
    attempt->setObjectName(QStringLiteral("lever.%1.try").arg(number));
    attempt->setAccessibleName(tr("Try as a variant: %1").arg(qs(lever.name)));
    attempt->setToolTip(tr("Take this step in a new variant; this one stays as it is"));
    connect(attempt, &QPushButton::clicked, this, [this, number] {
        if (number >= m_levers.size())
            return;
        const Lever chosen = m_levers[number];
        if (const auto trouble =
                m_session.addVariant(tr("try %1").arg(qs(chosen.name)), chosen.project))
            m_state->setText(qs(trouble->message()));
    });
    if (costs.isEmpty())
        cost->hide();
    else
        what->addWidget(cost);
    line->addWidget(gain);
    line->addLayout(what, 1);
    line->addWidget(use);
    line->addWidget(attempt);
    m_rows->addWidget(row);
}

void LeversCard::showLevers() {
    for (std::size_t i = 0; i < m_levers.size(); ++i)
        addLever(m_levers[i], i);
    if (m_levers.empty())
        m_rows->addWidget(mutedLabel(m_background.busy() ? tr("solving each step …")
                                                         : tr("No single step lengthens it."),
                                     m_body, 12));
}

void LeversCard::showEnvelope() {
    const Results& r = m_session.results();
    const auto list = envelopes(m_session.project(), r.runtime, r.budget);
    for (const Envelope& e : list) {
        QString text = QStringLiteral("<b>%1: %2</b> = %3")
                           .arg(ruleText(e.rule), hours(e.hours), qs(e.formula).toHtmlEscaped());
        text += QStringLiteral("<table cellspacing='0' cellpadding='1'>");
        for (const EnvelopeTerm& term : e.terms) {
            if (std::abs(term.hours) < 0.0005 * e.hours)
                continue;
            text += QStringLiteral("<tr><td align='right'>%1&nbsp;</td><td>%2</td></tr>")
                        .arg(signedHours(-term.hours), qs(term.words).toHtmlEscaped());
        }
        text += QStringLiteral("<tr><td align='right'><b>= %1</b>&nbsp;</td><td>this run</td></tr>"
                               "</table>")
                    .arg(hours(r.runtime.hours->value()));
        addText("envelope." + qs(e.rule), text);
    }
    if (list.empty())
        m_rows->addWidget(mutedLabel(tr("There is no run to reckon."), m_body, 12));
}

/// Each uncertain thing moved to its two ends with everything else as usual.
void LeversCard::showRange() {
    const auto& range = m_session.results().range;
    if (!range || !m_session.settled()) {
        m_rows->addWidget(mutedLabel(m_session.results().runtime.hours
                                         ? tr("being computed …")
                                         : tr("There is no run to have a range."),
                                     m_body, 12));
        return;
    }
    QString text =
        tr("Of %1 builds one in ten stays under <b>%2</b>, one in two under <b>%3</b>, "
           "nine in ten under <b>%4</b>. What that rests on, each by itself:")
            .arg(range->hours.size())
            .arg(hours(range->range.p10), hours(range->range.p50), hours(range->range.p90));
    text += QStringLiteral("<table cellspacing='0' cellpadding='1'>");
    for (const Spread& spread : range->spreads)
        if (spread.high - spread.low > 0.001 * range->range.p50)
            text += QStringLiteral("<tr><td align='right'><b>%1</b>&nbsp;</td><td>%2: %3 to %4"
                                   "</td></tr>")
                        .arg(hours(spread.high - spread.low), qs(spread.about).toHtmlEscaped(),
                             hours(spread.low), hours(spread.high));
    text += QStringLiteral("</table>");
    addText(QStringLiteral("range.causes"), text);
}

/// What the cells' label is worth at every load, at its own volts, and in another device.
void LeversCard::showUnits() {
    const Project& p = m_session.project();
    const auto worth = worthOf(p, m_session.results().runtime);
    if (!worth) {
        m_rows->addWidget(mutedLabel(tr("There is no run to measure."), m_body, 12));
        return;
    }
    QString text =
        tr("On the cells: <b>%1</b> at %2, %3. The loads get %4 of it, %5.")
            .arg(quantity(worth->ratedAh, Unit::ampereHour),
                 quantity(worth->ratedVolts, Unit::volt), quantity(worth->ratedWh, Unit::wattHour),
                 quantity(worth->deliveredWh, Unit::wattHour), qs(writeShare(worth->share())));
    text += QStringLiteral("<table cellspacing='0' cellpadding='1'>");
    for (const Worth::AtLoad& load : worth->loads)
        text += QStringLiteral("<tr><td align='right'><b>%1</b>&nbsp;</td><td>%2</td></tr>")
                    .arg(quantity(load.ah, Unit::ampereHour),
                         tr("at %1 into %2, %3")
                             .arg(quantity(load.volts, Unit::volt),
                                  qs(nameOf(*p.load(load.id))).toHtmlEscaped(),
                                  quantity(load.wh, Unit::wattHour)));
    text += QStringLiteral("</table>");
    text += tr("All of it at one socket of 5 V would be <b>%1</b>: what a label in cell "
               "milliamp-hours does not say.")
                .arg(quantity(worth->ahAt(kSocketVolts), Unit::ampereHour));
    addText(QStringLiteral("units.text"), text);
    m_rows->addWidget(deviceRow(*worth));
}

QWidget* LeversCard::deviceRow(const Worth& worth) {
    const Theme& t = Theme::now();
    auto* row = new QWidget(m_body);
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(t.ipx(6));
    auto* says = new QLabel(row);
    says->setObjectName(QStringLiteral("units.refills"));
    says->setFont(t.font(12, true));
    const auto show = [this, says, worth] {
        says->setText(tr("%1 refills").arg(worth.refills(m_deviceAh, m_deviceVolts), 0, 'g', 2));
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
        auto* edit = new QuantityEdit(facts, row);
        edit->setObjectName(QStringLiteral("units.%1").arg(QLatin1String(key)));
        edit->setValue(*value);
        edit->setFixedWidth(t.ipx(60));
        connect(edit, &QuantityEdit::committed, this, [value, show](std::optional<double> v) {
            if (v)
                *value = *v;
            show();
        });
        line->addWidget(edit);
    };
    line->addWidget(mutedLabel(tr("A device of"), row, 12));
    field("deviceAh", "Its battery", "Capacity of the other device's battery, ampere-hours.",
          Unit::ampereHour, &m_deviceAh);
    line->addWidget(mutedLabel(tr("at"), row, 12));
    field("deviceV", "Its volts", "Nominal volts of the other device's battery.", Unit::volt,
          &m_deviceVolts);
    line->addWidget(says);
    line->addStretch();
    row->setToolTip(tr("By watt-hours that reach the loads; what the device loses while it charges "
                       "comes off too"));
    show();
    return row;
}

namespace {

QString monthsText(double months) {
    return !std::isfinite(months) || months > kVeryLong ? QObject::tr("over 20 years")
           : months >= 24 ? QObject::tr("%1 years").arg(months / 12, 0, 'f', 1)
           : months >= 2  ? QObject::tr("%1 months").arg(months, 0, 'f', 0)
                          : QObject::tr("%1 days").arg(months * kHoursPerMonth / 24, 0, 'f', 0);
}

} // namespace

/// Unused and used: how long full cells last on the shelf, and how often they can be filled.
void LeversCard::showWear() {
    const Results& r = m_session.results();
    const Project& p = m_session.project();
    if (!r.shelf && !r.cycles) {
        m_rows->addWidget(mutedLabel(tr("There are no cells to age."), m_body, 12));
        return;
    }
    if (r.shelf) {
        const Shelf& s = *r.shelf;
        QString text =
            tr("<b>Unused</b>, all off that can be switched off: %1 flow and the cells lose %2 by "
               "themselves. Full cells still start it after <b>%3</b>.")
                .arg(quantity(s.offAmps, Unit::ampere), quantity(s.selfAmps, Unit::ampere),
                     monthsText(s.startsFor));
        if (s.opens)
            text += tr(" %1 opens after %2 and goes on drawing %3.")
                        .arg(qs(nameOf(*p.stage(s.guard))).toHtmlEscaped(), monthsText(*s.opens),
                             quantity(s.openAmps, Unit::ampere));
        text += s.ruin ? tr(" The cells are ruined after <b>%1</b>.").arg(monthsText(*s.ruin))
                       : tr(" These cells are used up, not ruined.");
        addText(QStringLiteral("wear.shelf"), text);
    }
    if (!r.cycles) {
        addText(QStringLiteral("wear.cycles"), tr("<b>In use</b>: these cells are used once."));
        return;
    }
    const CycleLife& life = *r.cycles;
    QString text = tr("<b>In use</b>, by rule of thumb: <b>%1 cycles</b> of %2 of the charge, "
                      "charged to %3 a cell at up to %4 C, until four fifths of the capacity are "
                      "left.")
                       .arg(qs(writeCycles(life)), qs(writeShare(life.depth)),
                            quantity(life.topVolts, Unit::volt))
                       .arg(life.rate, 0, 'g', 2);
    if (!r.schools.empty() && m_session.settled()) {
        text += QStringLiteral("<table cellspacing='0' cellpadding='1'><tr><td></td><td>%1&nbsp;"
                               "&nbsp;</td><td>%2&nbsp;&nbsp;</td><td>%3</td></tr>")
                    .arg(tr("cut-off"), tr("runs"), tr("cycles"));
        for (const SchoolLife& school : r.schools)
            text += QStringLiteral("<tr><td><b>%1</b>&nbsp;&nbsp;</td><td>%2&nbsp;&nbsp;</td><td>%3"
                                   "&nbsp;&nbsp;</td><td>%4</td></tr>")
                        .arg(qs(nameOf(school.school)), quantity(school.cutoff, Unit::volt),
                             hours(school.hours), qs(writeCycles(school.life)));
        text += QStringLiteral("</table>");
    }
    addText(QStringLiteral("wear.cycles"), text);
}

} // namespace sipper::app
