// SPDX-License-Identifier: GPL-3.0-or-later
#include "views/charging/sunpage.hpp"

#include "base/parallelfor.hpp"
#include "solar/map.hpp"
#include "solar/sensedivider.hpp"
#include "solar/simulation.hpp"
#include "solar/text.hpp"
#include "theme/theme.hpp"
#include "views/charging/suncard.hpp"
#include "views/charging/sunkneeplot.hpp"
#include "views/charging/sunyearplot.hpp"
#include "widgets/controls.hpp"
#include "widgets/flowlayout.hpp"
#include "widgets/panel.hpp"
#include "widgets/plaincombo.hpp"
#include "widgets/quantityedit.hpp"
#include "widgets/text.hpp"

#include <QFileDialog>
#include <QHBoxLayout>
#include <QPointer>
#include <QPushButton>
#include <QTimer>
#include <QVBoxLayout>
#include <cmath>

namespace sipper::app {
namespace {

constexpr double kSunSideBySide = 720;   ///< px that two cards need beside each other
constexpr std::size_t kMapsBetween = 12; ///< fields run between two pictures of the map
constexpr double kMostSeed = 1e9;
constexpr std::array<std::size_t, 4> kYearChoices{1, 3, 10, 20};

} // namespace

SunPage::SunPage(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
    setObjectName(QStringLiteral("sun"));
    auto* column = newColumn(this, 8, Margins{});
    buildControls();
    m_complaint = complaintLabel(QStringLiteral("sun.complaint"), this);
    column->addWidget(m_complaint);
    buildCards(*column);
    connect(m_yearPlot, &SunYearPlot::picked, this, [this](std::size_t hour, double charge) {
        m_session.setDisplayedPoint(charge, m_session.mode());
        if (m_answer && hour < m_answer->light.size())
            m_session.setLight(std::round(static_cast<double>(m_answer->light[hour])),
                               static_cast<double>(m_answer->air[hour]));
    });
    connect(m_card, &SunCard::refused, this,
            [this](const QString& says) { complain(*m_complaint, says); });
    connect(&session.jobs(), &Jobs::progressed, this,
            [this](const QString& name, std::size_t done, std::size_t all) {
                if (name == QLatin1String(kYear))
                    m_yearTitle->setText(tr("running %1 %").arg(all > 0 ? 100 * done / all : 0));
                else if (name == QLatin1String(kMap))
                    m_card->setState(tr("map %1 %").arg(all > 0 ? 100 * done / all : 0));
            });
    connect(&session.jobs(), &Jobs::busyChanged, this, [this](const QString& name, bool busy) {
        if (name != QLatin1String(kMap))
            return;
        m_stop->setVisible(busy);
        if (!busy)
            m_card->setState({});
    });
}

void SunPage::buildControls() {
    const Theme& t = Theme::now();
    m_controls = new QWidget(this);
    // Wrapped like words where the window is narrow.
    auto* row = new FlowLayout(m_controls, t.ipx(6), t.ipx(6));
    row->setContentsMargins(0, 0, 0, 0);
    const auto label = [&](const QString& text) {
        auto* word = mutedLabel(text, this, 12);
        word->setMinimumHeight(t.ipx(26)); // in the middle beside its field
        row->addWidget(word);
    };
    label(tr("at"));
    m_latitude =
        quantityField(this, "sun.latitude",
                      typedFacts("latitude", "Latitude", "Degrees north; under 0 in the south",
                                 Unit::degree, -90, 90),
                      66);
    connect(m_latitude, &QuantityEdit::committed, this, [this](std::optional<double> degrees) {
        Project p = m_session.project();
        p.brief.latitude = degrees ? std::optional(Degrees{*degrees}) : std::nullopt;
        m_session.apply(tr("set the latitude"), std::move(p));
    });
    row->addWidget(m_latitude);
    label(tr("climate"));
    m_climate = choiceField(this, "sun.climate", tr("Climate"),
                            tr("Invented weather of such a climate; no place on earth"));
    connect(m_climate, &QComboBox::activated, this, [this](int at) {
        m_file.reset();
        Project p = m_session.project();
        p.brief.climate = m_climate->itemData(at).toString().toStdString();
        if (p == m_session.project())
            return solve();
        m_session.apply(tr("set the climate"), std::move(p));
    });
    row->addWidget(m_climate);
    label(tr("weather of"));
    m_years = choiceField(this, "sun.years", tr("Years of weather"), tr("How many years are run"));
    for (const std::size_t years : kYearChoices)
        m_years->addItem(years == 1 ? tr("1 year") : tr("%1 years").arg(years),
                         static_cast<qulonglong>(years));
    connect(m_years, &QComboBox::activated, this, [this](int at) {
        m_yearCount = m_years->itemData(at).toULongLong();
        solve();
    });
    row->addWidget(m_years);
    label(tr("seed"));
    m_seed = quantityField(this, "sun.seed",
                           typedFacts("seed", "Seed",
                                      "Of the invented weather: the same seed, the same weather",
                                      Unit::none, 0, kMostSeed),
                           46);
    connect(m_seed, &QuantityEdit::committed, this, [this](std::optional<double> seed) {
        m_seedNumber = static_cast<std::uint64_t>(std::llround(seed.value_or(1)));
        m_file.reset();
        solve();
    });
    row->addWidget(m_seed);
    m_open = pushButton(this, "sun.open", tr("Open weather…"),
                        tr("A CSV of time, ghi_w_m2 and air_c by the hour, or an EPW file"));
    connect(m_open, &QPushButton::clicked, this, &SunPage::askForWeather);
    row->addWidget(m_open);
    m_weatherSays = mutedLabel({}, this, 11);
    m_weatherSays->setObjectName(QStringLiteral("sun.weather"));
}

void SunPage::buildCards(QBoxLayout& column) {
    const Theme& t = Theme::now();
    auto* frame = newCard(this, "sunYearCard", tr("The year, day by hour"));
    auto* inside = newColumn(frame, 2, Margins{12, 8, 12, 4});
    auto* head = new QHBoxLayout;
    m_yearTitle = textLabel(frame, {}, {.size = 12, .bold = true, .name = "sun.reading"});
    head->addWidget(m_yearTitle, 1);
    inside->addLayout(head);
    m_yearPlot = new SunYearPlot(frame);
    inside->addWidget(m_yearPlot, 1);
    m_rule = mutedLabel({}, frame, 11);
    m_rule->setObjectName(QStringLiteral("sun.rule"));
    m_rule->setWordWrap(true);
    inside->addWidget(m_rule);
    m_weatherSays->setWordWrap(true);
    inside->addWidget(m_weatherSays);
    column.addWidget(frame, 6);
    connect(m_yearPlot, &SunYearPlot::markedChanged, this, [this](const QString& reading) {
        m_yearTitle->setText(reading.isEmpty() ? m_yearSays : reading);
    });

    auto* kneeFrame = newCard(this, "sunKneeCard", tr("The panel's curve"));
    auto* knee = newColumn(kneeFrame, {}, Margins{12, 8, 8, 4});
    auto* row = newRow(nullptr, 6);
    m_mppTitle = textLabel(kneeFrame, tr("A bright day in"), {.size = 12, .bold = true});
    row->addWidget(m_mppTitle);
    m_month = choiceField(kneeFrame, "sun.month", tr("Month"),
                          tr("Nine days in ten of that month are duller"));
    for (std::size_t month = 0; month < 12; ++month)
        m_month->addItem(qs(monthName(month)));
    row->addWidget(m_month);
    m_hour = choiceField(kneeFrame, "sun.hour", tr("Hour"), tr("Hour of the clock"));
    for (std::size_t hour = 0; hour < kHours; ++hour)
        m_hour->addItem(QStringLiteral("%1:00").arg(hour + kFirstHour, 2, 10, QLatin1Char('0')));
    row->addWidget(m_hour);
    row->addStretch();
    knee->addLayout(row);
    m_setKnee = pushButton(kneeFrame, "sun.setKnee", {},
                           tr("Sets the charger to what the panel has at its knee at this moment"));
    connect(m_setKnee, &QPushButton::clicked, this, [this] {
        if (const MppSnapshot* shown = mppShown())
            m_session.apply(tr("set the charger to the panel's knee"),
                            withKneeCurrent(m_session.project(), m_charger, shown->ampsAtMpp));
    });
    m_mppPlot = new SunKneePlot(kneeFrame);
    knee->addWidget(m_mppPlot, 1);
    knee->addWidget(m_setKnee, 0, Qt::AlignLeft);
    for (QComboBox* combo : {m_month, m_hour})
        connect(combo, &QComboBox::activated, this, [this] {
            m_fresh = false;
            showKnee();
        });
    m_card = new SunCard(m_session, this);
    m_stop = pushButton(m_card, "sun.stop", tr("Stop"), tr("Leaves the map as far as it is"));
    m_stop->hide();
    connect(m_stop, &QPushButton::clicked, this, [this] { m_session.jobs().stop(kMap); });
    m_card->addToHead(m_stop);
    m_card->setMinimumHeight(t.ipx(230));
    kneeFrame->setMinimumHeight(t.ipx(230));
    m_beside = new QBoxLayout(QBoxLayout::LeftToRight);
    m_beside->setSpacing(t.ipx(8));
    m_beside->addWidget(kneeFrame, 1);
    m_beside->addWidget(m_card, 1);
    column.addLayout(m_beside, 5);
}

void SunPage::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    m_beside->setDirection(width() < Theme::now().ipx(kSunSideBySide) ? QBoxLayout::TopToBottom
                                                                      : QBoxLayout::LeftToRight);
}

bool SunPage::settle() {
    Jobs& jobs = m_session.jobs();
    return jobs.waitForIdle(kRead) && jobs.waitForIdle(kYear) && jobs.waitForIdle(kBeside) &&
           jobs.waitForIdle(kMap, 120000);
}

void SunPage::refreshControls() {
    const Project& p = m_session.project();
    m_latitude->setValue(p.brief.latitude ? std::optional(p.brief.latitude->value())
                                          : std::nullopt);
    if (m_climate->count() == 0) // from files: once, when it is first looked at
        if (const auto climates = loadClimates())
            for (const Climate& c : climates.value())
                m_climate->addItem(qs(c.label), qs(c.id));
    const std::pair wanted(p.brief.climate, p.brief.latitude ? p.brief.latitude->value() : 0.0);
    if (wanted != m_climateShown)
        if (const auto climate = climateOf(wanted.first, wanted.second)) {
            m_climate->setCurrentIndex(m_climate->findData(qs(climate.value().id)));
            m_climateShown = wanted;
        }
    m_years->setCurrentIndex(m_years->findData(static_cast<qulonglong>(m_yearCount)));
    m_seed->setValue(static_cast<double>(m_seedNumber));
    const bool standsIn = !m_file;
    m_seed->setEnabled(standsIn);
}

void SunPage::show(const std::string& charger) {
    m_charger = charger;
    refreshControls();
    solve();
}

void SunPage::solve() {
    refreshControls();
    m_session.jobs().runOnProject(
        kYear, Jobs::Priority::shown,
        [this, project = std::make_shared<const Project>(m_session.project()), charger = m_charger,
         years = m_yearCount, seed = m_seedNumber, file = m_file](
            const std::stop_token& stop, const Jobs::Progress& progress) -> Jobs::Deliver {
            const auto trouble = [this](const Error& error) -> Jobs::Deliver {
                return [this, error] {
                    m_answer.reset();
                    m_yearPlot->clearYear();
                    complain(*m_complaint, qs(error.message()));
                    emit answered(tr("Not run"), tr("The sun can't be run on this yet."), true);
                };
            };
            auto answer = std::make_shared<Answer>();
            if (file) {
                answer->weather = file;
            } else {
                auto weather = usualWeather(*project, seed, std::max(years, kSunYears));
                if (!weather)
                    return trouble(weather.error());
                answer->weather = std::make_shared<const Weather>(std::move(weather).value());
            }
            auto bench = SolarSimulation::of(*project, *answer->weather, charger);
            if (!bench)
                return trouble(bench.error());
            SolarOptions ask;
            ask.years = years;
            ask.progress = [&](double share) {
                progress(static_cast<std::size_t>(100 * share), 100);
            };
            auto year = bench.value()->run(ask, stop);
            if (!year)
                return {};
            answer->year = std::move(*year);
            answer->plan = planOf(*bench.value());
            answer->latitude = *latitudeOf(*project, *answer->weather);
            const SolarSimulation::Impl& b = bench.value()->impl();
            for (std::size_t hour = 0; hour < kHoursAYear; ++hour) {
                const std::size_t at = b.placeOf(answer->year.worstYear, hour);
                answer->light.push_back(b.light[at * kSlotsAnHour + kSlotsAnHour / 2]);
                answer->air.push_back(static_cast<float>(b.airAt(at)));
            }
            for (std::size_t month = 0; month < 12; ++month)
                for (std::size_t hour = 0; hour < kHours; ++hour)
                    answer->mppSnapshots.push_back(mppAt(*bench.value(), month, kFirstHour + hour));
            return [this, answer] {
                complain(*m_complaint, {});
                m_answer = answer;
                fill();
                solveMap(answer->weather);
                solveBeside(answer->weather);
            };
        },
        this);
}

void SunPage::solveMap(const std::shared_ptr<const Weather>& weather) {
    m_card->setState(tr("map …"));
    m_session.jobs().runOnProject(
        kMap, Jobs::Priority::idle,
        [this, project = std::make_shared<const Project>(m_session.project()), charger = m_charger,
         years = m_yearCount, weather, parallelFor = m_session.jobs().parallelFor()](
            const std::stop_token& stop, const Jobs::Progress& progress) -> Jobs::Deliver {
            SizingMapOptions ask;
            ask.years = 1; // the first year fills the map at once; the lines tell three and ten
            std::erase_if(ask.lines, [&](std::size_t line) { return line > years; });
            std::size_t heard = 0;
            const auto hear = [&](const SizingMap& map) {
                progress(static_cast<std::size_t>(100 * map.share), 100);
                if (++heard % kMapsBetween != 0)
                    return;
                auto snapshot = std::make_shared<const SizingMap>(map);
                QMetaObject::invokeMethod(
                    this, [this, snapshot] { m_card->showMap(snapshot); }, Qt::QueuedConnection);
            };
            auto map = sunMapOf(*project, *weather, charger, ask, parallelFor, hear, stop);
            if (!map || !map.value())
                return {};
            return [this, whole = std::shared_ptr<const SizingMap>(std::move(map).value())] {
                m_card->showMap(whole);
            };
        },
        this);
}

void SunPage::solveBeside(const std::shared_ptr<const Weather>& weather) {
    m_session.jobs().runOnProject(
        kBeside, Jobs::Priority::soon,
        [this, project = std::make_shared<const Project>(m_session.project()), charger = m_charger,
         years = m_yearCount, before = m_answer->year.all.lossOfLoadHours,
         weather](const std::stop_token& stop, const Jobs::Progress&) -> Jobs::Deliver {
            const Library library = loadLibrary(Session::partsFolder().toStdString());
            auto beside = std::make_shared<SunBeside>();
            beside->before = before;
            beside->years = years;
            beside->levers = solarImprovements(*project, *weather, charger, years, library, stop);
            beside->need = sunNeed(*project, *weather, charger, years, library, stop);
            beside->watch = watchOf(*project);
            if (stop.stop_requested())
                return {};
            return [this, beside] { m_card->showBeside(beside); };
        },
        this);
}

void SunPage::fill() {
    const SolarYear& y = m_answer->year;
    m_yearSays = y.years == 1 ? tr("The year, day by hour: charge in the pack")
                 : y.worstYearUnmet > 0
                     ? tr("The worst of %1 years, day by hour: charge in the pack").arg(y.years)
                     : tr("The last of %1 years, day by hour: charge in the pack").arg(y.years);
    m_yearPlot->show(y);
    m_rule->setText(qs(ruleText(y, m_answer->plan)));
    m_weatherSays->setText(m_answer->weather->syntheticWeather
                               ? tr("Invented weather of that climate, no place on earth.")
                               : qs(m_answer->weather->says));
    m_card->setPanel(y.panel, m_answer->latitude);
    if (m_fresh) {
        std::size_t month = y.worstMonth;
        m_month->setCurrentIndex(static_cast<int>(month));
        m_hour->setCurrentIndex(static_cast<int>(12 - kFirstHour));
    }
    showKnee();
    const bool misses = y.all.lossOfLoadHours > 0;
    emit answered(misses ? hours(y.all.lossOfLoadHours / static_cast<double>(y.years))
                         : tr("Nothing"),
                  misses ? tr("missed a year. %1").arg(qs(sunHeadline(y)))
                         : tr("missed. %1").arg(qs(sunHeadline(y))),
                  misses);
}

const MppSnapshot* SunPage::mppShown() const {
    const auto at = static_cast<std::size_t>(m_month->currentIndex()) * kHours +
                    static_cast<std::size_t>(m_hour->currentIndex());
    return m_answer && at < m_answer->mppSnapshots.size() ? &m_answer->mppSnapshots[at] : nullptr;
}

void SunPage::showKnee() {
    const MppSnapshot* knee = mppShown();
    const Stage* stage = m_session.project().stage(m_charger);
    if (!knee || !stage)
        return;
    m_mppPlot->show(*knee);
    const auto& charger = std::get<Charger>(stage->part);
    const KneeSetting set = mppSetting(charger, knee->ampsAtMpp);
    const bool sets = charger.topology == Topology::linear && set.amps > 0 &&
                      knee->stand.limit == SunLimit::source;
    m_setKnee->setVisible(sets);
    m_setKnee->setText(
        set.ohms ? tr("Set %1 (%2)")
                       .arg(quantity(set.amps, Unit::ampere), quantity(*set.ohms, Unit::ohm))
                 : tr("Set %1").arg(quantity(set.amps, Unit::ampere)));
}

void SunPage::askForWeather() {
    const QString path = QFileDialog::getOpenFileName(this, tr("Open weather"), {},
                                                      tr("Weather (*.csv *.epw);;All files (*)"));
    if (!path.isEmpty())
        openWeather(path);
}

void SunPage::openWeather(const QString& path) {
    m_session.jobs().run(
        kRead, Jobs::Priority::shown,
        [this, path](const std::stop_token&, const Jobs::Progress&) -> Jobs::Deliver {
            auto weather = loadWeather(path.toStdString());
            if (!weather)
                return [this, error = weather.error()] {
                    complain(*m_complaint, qs(error.message()));
                };
            return [this, read = std::make_shared<const Weather>(std::move(weather).value())] {
                m_file = read;
                solve();
            };
        },
        this);
}

} // namespace sipper::app
