// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/charging/suncard.hpp"

#include "parts/figures.hpp"

#include "solar/simulation.hpp"
#include "solar/text.hpp"
#include "views/charging/choicescard.hpp"
#include "views/charging/sunmapplot.hpp"
#include "widgets/controls.hpp"
#include "widgets/flowlayout.hpp"
#include "widgets/panel.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/text.hpp"

#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kMostReading = 1000; ///< A or W

QString missed(double hoursOfAll, std::size_t years) {
    return hoursOfAll > 0
               ? SunCard::tr("%1 a year").arg(hours(hoursOfAll / static_cast<double>(years)))
               : SunCard::tr("nothing missed");
}

} // namespace

SunCard::SunCard(Session& session, QWidget* parent)
    : PagedCard(QStringLiteral("sunCard"), tr("Beside the panel's year"), QStringLiteral("beside"),
                parent),
      m_session(session) {
    addPage(tr("Map"), "beside.map.show", tr("Panel against pack: what each pair misses"));
    addPage(tr("Levers"), "beside.levers.show", tr("What would change the year, each really run"));
    addPage(tr("Need"), "beside.need.show", tr("How much panel and pack it takes"));
    addPage(tr("Reading"), "beside.reading.show", tr("Measure the panel at noon"));
    addPage(tr("Watch"), "beside.watch.show", tr("Watching the battery, and when to slow down"));
    choose(static_cast<int>(Page::map));
}

void SunCard::setState(const QString& text) {
    state().setText(text);
}

void SunCard::setPanel(const std::string& stage, double latitude) {
    m_panel = stage;
    m_latitude = latitude;
}

void SunCard::showMap(const std::shared_ptr<const SizingMap>& map) {
    m_map = map;
    if (m_plot && m_map)
        m_plot->show(*m_map);
    else if (static_cast<Page>(page()) == Page::map)
        showPage();
}

void SunCard::showBeside(std::shared_ptr<const SunBeside> beside) {
    m_beside = std::move(beside);
    if (static_cast<Page>(page()) != Page::map)
        showPage();
}

void SunCard::fillPage() {
    m_plot = nullptr;
    switch (static_cast<Page>(page())) {
    case Page::map:
        return addMap();
    case Page::levers:
        return addImprovements();
    case Page::need:
        return addNeed();
    case Page::reading:
        return addReading();
    case Page::watch:
        return addWatch();
    }
}

void SunCard::addNote(const QString& text) {
    auto* label = mutedLabel(text, body(), 11);
    label->setWordWrap(true);
    rows().addSpacing(Theme::now().ipx(4));
    rows().addWidget(label);
}

QLabel* SunCard::addSentence(const char* name, const QString& text) {
    auto* label = textLabel(body(), text, {.size = 12, .wrap = true, .name = QLatin1String(name)});
    label->setTextFormat(Qt::RichText);
    rows().addWidget(label);
    return label;
}

void SunCard::addMap() {
    m_plot = new SunMapPlot(body());
    rows().addWidget(m_plot, 1);
    auto* reading =
        mutedLabel(tr("Hover to read a pair; click to open it as a variant."), body(), 11);
    reading->setObjectName(QStringLiteral("beside.mapReading"));
    rows().addWidget(reading);
    connect(m_plot, &SunMapPlot::readingChanged, reading, [reading](const QString& says) {
        reading->setText(says.isEmpty() ? tr("Hover to read a pair; click to open it as a variant.")
                                        : says);
    });
    connect(m_plot, &SunMapPlot::picked, this, &SunCard::tryPair);
    if (m_map)
        m_plot->show(*m_map);
}

void SunCard::tryPair(std::size_t panel, std::size_t pack) {
    Project p = m_session.project();
    p.variants.clear();
    Stage* stage = p.stage(m_panel);
    const Stage* packStage = p.packStage();
    if (!stage || !packStage || !m_map)
        return;
    auto& source = std::get<sipper::Panel>(stage->part);
    const double wanted = source.countParallel.value_or(1) * SizingMap::scaleOf(panel);
    // Panels and cells come whole.
    source.countParallel = std::max(1.0, std::round(wanted));
    const double watts = m_map->panelW[panel] * *source.countParallel / wanted;
    auto& cells = std::get<Pack>(p.stage(packStage->id)->part);
    countCells(cells, cells.series,
               std::max(1.0, std::round(cells.parallel * SizingMap::scaleOf(pack))));
    tryOut(tr("%1 of panel, %2 in parallel").arg(quantity(watts, Unit::watt)).arg(cells.parallel),
           p);
}

void SunCard::addImprovements() {
    if (!m_beside)
        return addNote(tr("running …"));
    addNote(tr("As it is: %1. Each of these was run over %2 years.")
                .arg(missed(m_beside->before, m_beside->years))
                .arg(m_beside->years));
    double most = m_beside->before;
    for (const SolarImprovement& lever : m_beside->levers)
        most = std::max(most, lever.lossOfLoadHours);
    for (std::size_t i = 0; i < m_beside->levers.size(); ++i) {
        const SolarImprovement& lever = m_beside->levers[i];
        ChoiceRow::Look look;
        look.name = qs(lever.says);
        look.figure = missed(lever.lossOfLoadHours, m_beside->years);
        look.note = tr("least charge %1").arg(qs(writeShare(lever.least)));
        if (lever.priceMore > 0)
            look.note += tr(" · +%1").arg(lever.priceMore, 0, 'f', 2);
        auto* row = new ChoiceRow(look, 0, body());
        row->setObjectName(QStringLiteral("sun.lever.%1").arg(i));
        connect(row, &QAbstractButton::clicked, this,
                [this, held = m_beside, &lever] { tryOut(qs(lever.says), lever.project); });
        rows().addWidget(row);
    }
    addNote(tr("Click one to open it as another variant."));
}

void SunCard::addNeed() {
    if (!m_beside)
        return addNote(tr("running …"));
    const MinimumSizing& need = m_beside->need;
    const auto years = m_beside->years;
    addSentence("need.panel",
                need.panelW
                    ? tr("With this pack the least panel that misses nothing in %1 years has "
                         "<b>%2</b>.")
                          .arg(years)
                          .arg(quantity(*need.panelW, Unit::watt))
                    : tr("With this pack no panel of up to eight times as much is enough: "
                         "more pack is needed."));
    addSentence("need.pack",
                need.packWh
                    ? tr("With this panel the least pack has <b>%1</b>.")
                          .arg(quantity(*need.packWh, Unit::wattHour))
                    : tr("With this panel no pack of up to eight times as much is enough: more "
                         "panel is needed."));
    if (need.cheapest) {
        const MinimumSizing::Pair& pair = *need.cheapest;
        addSentence(
            "need.cheapest",
            tr("The cheapest pair of the library: <b>%1</b> and %2 in parallel, %3%4 against "
               "what is there.")
                .arg(qs(pair.panel).toHtmlEscaped())
                .arg(pair.parallel)
                .arg(pair.price < 0 ? QStringLiteral("−") : QStringLiteral("+"))
                .arg(std::abs(pair.price), 0, 'f', 2));
        auto* take = pushButton(body(), "need.take", tr("Open it as a variant"),
                                tr("The project with that panel and that many cells"));
        connect(take, &QPushButton::clicked, this, [this, held = m_beside] {
            tryOut(tr("least sun pair"), held->need.cheapest->project);
        });
        rows().addWidget(take, 0, Qt::AlignLeft);
    } else {
        addNote(tr("No pair of the library's panels of these volts and up to six cells in parallel "
                   "misses nothing."));
    }
}

std::optional<double> SunCard::factor() const {
    const Stage* stage = m_session.project().stage(m_panel);
    const auto* panel = stage ? std::get_if<sipper::Panel>(&stage->part) : nullptr;
    if (!panel)
        return std::nullopt;
    const auto day = static_cast<int>(std::lround(m_readDay));
    const double air = m_session.project().brief.air().usual().value();
    return m_readAmps > 0
               ? fieldFactorFrom(*panel, m_latitude, day, m_readHour, m_readAmps)
               : fieldFactorFromWatts(*panel, m_latitude, day, m_readHour, air, m_readWatts);
}

void SunCard::sayFactor(QLabel& answer) const {
    const auto found = factor();
    if (m_readAmps <= 0 && m_readWatts <= 0)
        answer.setText(tr("Short the panel through the meter at noon under a clear sky, as it will "
                          "stand, and type what it says."));
    else if (!found)
        answer.setText(tr("The sun is down then, or the label lacks a figure."));
    else
        answer.setText(tr("That is <b>%1</b> of the label under a clear sky%2.")
                           .arg(qs(writeShare(*found)),
                                *found > 1.1 ? tr(": more than any panel gives; look at the meter")
                                             : QString()));
}

void SunCard::addReading() {
    const Theme& t = Theme::now();
    addNote(tr(
        "Labels are laboratory figures; three quarters is usual. A reading replaces the guess."));
    auto* row = new QWidget(body());
    auto* line = new FlowLayout(row, t.ipx(6), t.ipx(4));
    line->setContentsMargins(0, t.ipx(4), 0, t.ipx(4));
    const auto word = [&](const QString& text) {
        auto* label = mutedLabel(text, row, 12);
        label->setMinimumHeight(t.ipx(26));
        line->addWidget(label);
    };
    auto* answer = textLabel(body(), {}, {.size = 12, .wrap = true, .name = "reading.answer"});
    auto* take = pushButton(body(), "reading.take", tr("Set the field factor"));
    const auto refresh = [this, answer, take] {
        sayFactor(*answer);
        take->setEnabled(factor().has_value());
    };
    const auto field = [&](const char* name, const char* label, const char* help, Unit unit,
                           double low, double high, int wide, double* value) {
        auto* edit =
            quantityField(row, QLatin1String(name), typedFacts(name, label, help, unit, low, high));
        edit->setFixedWidth(t.ipx(wide));
        if (*value > 0)
            edit->setValue(*value);
        connect(edit, &QuantityEdit::committed, this, [value, refresh](std::optional<double> v) {
            *value = v.value_or(0);
            refresh();
        });
        line->addWidget(edit);
    };
    word(tr("It gave"));
    field("reading.amps", "Short-circuit amps", "What the meter said, amps", Unit::ampere, 0,
          kMostReading, 66, &m_readAmps);
    word(tr("or"));
    field("reading.watts", "Watts",
          "What it gave at its best point, watts; the amps count where both "
          "are typed",
          Unit::watt, 0, kMostReading, 66, &m_readWatts);
    word(tr("on day"));
    field("reading.day", "Day of the year", "1 is the first of January, 172 midsummer", Unit::none,
          1, 365, 52, &m_readDay);
    word(tr("at"));
    field("reading.hour", "Hour", "Solar time: 12 is when the sun stands highest", Unit::none, 0,
          24, 46, &m_readHour);
    rows().addWidget(row);
    rows().addWidget(answer);
    rows().addWidget(take, 0, Qt::AlignLeft);
    connect(take, &QPushButton::clicked, this, [this] {
        Project p = m_session.project();
        Stage* stage = p.stage(m_panel);
        const auto found = factor();
        if (!stage || !found)
            return;
        std::get<sipper::Panel>(stage->part).fieldFactor = *found;
        if (const auto trouble = m_session.edit(tr("set the field factor"), std::move(p)))
            emit refused(qs(trouble->message()));
    });
    refresh();
}

void SunCard::addWatch() {
    if (!m_beside || !m_beside->watch)
        return addNote(m_beside ? tr("There is no pack to watch.") : tr("running …"));
    const SenseDivider& w = *m_beside->watch;
    addSentence(
        "watch.divider",
        w.upper > 0
            ? tr("<b>%1</b> from the pack, <b>%2</b> to ground, the input between them, with "
                 "10 nF: it draws %3 day and night, %4 a day.")
                  .arg(quantity(w.upper, Unit::ohm), quantity(w.lower, Unit::ohm),
                       quantity(w.amps, Unit::ampere), quantity(w.wattHoursADay, Unit::wattHour))
            : tr("The pack's volts fit the input as they are: no divider."));
    addSentence("watch.counts", tr("Of 4095 counts at 2.5 V it reads <b>%1</b> full and <b>%2</b> "
                                   "empty.")
                                    .arg(w.countsFull)
                                    .arg(w.countsEmpty));
    if (!w.mode.empty()) {
        const Mode* mode = m_session.project().mode(w.mode);
        addSentence("watch.slow",
                    tr("At <b>%1</b> (%2 counts, three tenths of the charge) let “%3” come every "
                       "<b>%4</b>: that saves %5 a day.")
                        .arg(quantity(w.slowVolts, Unit::volt))
                        .arg(w.slowCounts)
                        .arg(mode ? qs(nameOf(*mode)) : qs(w.mode))
                        .arg(hours(w.every / 3600), quantity(w.savesWhDay, Unit::wattHour)));
        auto* take = pushButton(body(), "watch.take", tr("Try it always so slow"));
        connect(take, &QPushButton::clicked, this,
                [this, held = m_beside] { tryOut(tr("slower"), held->watch->slow); });
        rows().addWidget(take, 0, Qt::AlignLeft);
    }
    addNote(tr("Slowing down by the reading itself is not run over the year; the variant that is "
               "always slow shows the most that it can save."));
}

void SunCard::tryOut(const QString& name, const Project& project) {
    if (const auto trouble = m_session.addVariant(name, project))
        emit refused(qs(trouble->message()));
}

} // namespace sipper::app
