// SPDX-License-Identifier: GPL-3.0-or-later
#include "parts/figures.hpp"
#include "solar/solarrun.hpp"

#include <algorithm>

namespace sipper {
namespace {

constexpr std::size_t kStopEvery = 512; ///< hours between two looks at the stop token

} // namespace

std::optional<SolarYear> SolarSimulationRun::run(const std::stop_token& stop) {
    begin();
    const std::size_t hours = m_ask.years * kHoursAYear;
    const std::size_t first = m_bench.firstHour();
    const std::size_t all = m_bench.weather.ghi.size();
    for (std::size_t k = 0; k < hours && !m_done; ++k) {
        if (k % kStopEvery == 0) {
            if (stop.stop_requested())
                return std::nullopt;
            if (m_ask.progress)
                m_ask.progress(static_cast<double>(k) / static_cast<double>(hours));
        }
        hour((first + k) % all);
        if ((k + 1) % kHoursAYear == 0)
            closeYear(k / kHoursAYear);
    }
    finish();
    return std::move(m_out);
}

std::optional<double> SolarSimulationRun::lasts(double most) {
    begin();
    m_dischargedAh = 0;
    m_lag = 0;
    m_air = m_bench.typicalAir;
    warm();
    while (m_hours < most && !m_out.firstLossOfLoad)
        for (const SunSegment& s : m_bench.day[static_cast<std::size_t>(m_hours + 1e-6) % 24])
            segment(s.hours, s.setting, PanelCurve());
    return m_out.firstLossOfLoad;
}

void SolarSimulationRun::begin() {
    m_out.charger = m_bench.project.stages[m_bench.chargerAt].id;
    m_out.panel = m_bench.project.stages[m_bench.panelAt].id;
    m_out.pack = m_bench.project.stages[m_bench.packAt].id;
    m_out.years = m_ask.years;
    m_air = m_bench.airAt(m_bench.firstHour());
    warm();
    m_dischargedAh = (1 - m_bench.pack.charge.value_or(1.0)) * m_at.ampHours;
    if (m_ask.details) {
        m_out.charge.assign(kHoursAYear, 1);
        m_out.missed.assign(kHoursAYear, 0);
    }
}

void SolarSimulationRun::closeYear(std::size_t number) {
    if (m_ask.details && m_yearUnmet >= m_out.worstYearUnmet) {
        m_out.worstYearUnmet = m_yearUnmet;
        m_out.worstYear = number;
        m_out.worstCharge = m_out.charge;
        m_out.worstMissed = m_out.missed;
    }
    m_yearUnmet = 0;
}

void SolarSimulationRun::lose(double wattHours, SunLimit limit, SolarSums& sums) {
    switch (limit) {
    case SunLimit::cv:
    case SunLimit::full:
        sums.lostFull += wattHours;
        break;
    case SunLimit::source:
    case SunLimit::night:
        sums.lostOffMpp += wattHours;
        break;
    case SunLimit::cold:
    case SunLimit::hot:
        sums.lostTemperature += wattHours;
        break;
    default:
        sums.lostLimit += wattHours;
    }
}

void SolarSimulationRun::add(SolarSums& to, const SolarSums& s) {
    to.panelWh += s.panelWh;
    to.availableWh += s.availableWh;
    to.chargedWh += s.chargedWh;
    to.loadWh += s.loadWh;
    to.lossOfLoadHours += s.lossOfLoadHours;
    to.forbidden += s.forbidden;
    to.full += s.full;
    to.lostFull += s.lostFull;
    to.lostOffMpp += s.lostOffMpp;
    to.lostTemperature += s.lostTemperature;
    to.lostLimit += s.lostLimit;
    to.leastCharge = std::min(to.leastCharge, s.leastCharge);
}

void SolarSimulationRun::bookLedger(double step, const Flow& f, double volts) {
    SunLedger& l = m_out.ledger;
    const double input = f.stand.inputVolts * f.stand.panelAmps;
    l.feed += (f.stand.panelVolts * f.stand.panelAmps - input) * step;
    l.charger += (input - volts * f.stand.amps) * step;
    l.dark += volts * f.dark * step;
    const double rest = m_model.restVolts(chargeNow());
    const double self = storedOf(0); // negative
    l.selfDischarge -= rest * self * step;
    l.gained += rest * f.stored * step;
    const double line = f.line ? f.line->watts() : 0;
    l.packLoss += (volts * (f.stand.amps - f.dark) - line - rest * (f.stored - self)) * step;
    if (f.line)
        f.line->spend(step);
}

void SolarSimulationRun::finish() {
    m_out.longestUnmet = m_unmetRun.longest();
    m_out.longestDark = m_darkRun.longest();
    const auto worse = [&](std::size_t a, std::size_t b) {
        const SolarSums& x = m_out.months[a];
        const SolarSums& y = m_out.months[b];
        if (x.lossOfLoadHours != y.lossOfLoadHours)
            return x.lossOfLoadHours > y.lossOfLoadHours;
        if (x.leastCharge != y.leastCharge)
            return x.leastCharge < y.leastCharge;
        return x.panelWh < y.panelWh;
    };
    for (std::size_t month = 1; month < m_out.months.size(); ++month)
        if (worse(month, m_out.worstMonth))
            m_out.worstMonth = month;
    if (!m_ask.details)
        return;
    std::vector<double> stages;
    std::vector<double> loads;
    m_bench.charts.take(stages, loads);
    for (std::size_t i = 0; i < stages.size(); ++i)
        if (m_bench.charts.line().network().reachesStage(i))
            m_out.ledger.stages[m_bench.project.stages[i].id] = stages[i];
    for (std::size_t i = 0; i < loads.size(); ++i)
        if (m_bench.charts.line().network().reachesLoad(i))
            m_out.ledger.loads[m_bench.project.loads[i].id] = loads[i];
}
double SunLedger::imbalance(double panelWh) const {
    double sum = feed + charger + dark + packLoss + selfDischarge + gained;
    for (const auto& [id, wh] : stages)
        sum += wh;
    for (const auto& [id, wh] : loads)
        sum += wh;
    return panelWh != 0 ? (panelWh - sum) / panelWh : 0;
}

std::optional<SolarYear> SolarSimulation::run(const SolarOptions& ask,
                                              const std::stop_token& stop) {
    return SolarSimulationRun(*m_impl, ask).run(stop);
}

std::optional<double> autonomyHours(SolarSimulation& bench, double most) {
    const SolarOptions ask;
    SolarOptions quick = ask;
    quick.details = false;
    return SolarSimulationRun(bench.impl(), quick).lasts(most);
}

Outcome<SolarYear> sunYear(const Project& project, const Weather& weather,
                           const SolarOptions& ask) {
    auto bench = SolarSimulation::of(project, weather, ask.charger);
    if (!bench)
        return bench.error();
    return *bench.value()->run(ask);
}

} // namespace sipper
