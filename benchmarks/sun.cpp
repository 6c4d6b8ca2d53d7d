// SPDX-License-Identifier: GPL-3.0-or-later
// A year of sun, its map, and a plain loop of one-minute steps with the same charger on the same
// curve.
#include "parts/figures.hpp"
#include "project/file.hpp"
#include "solar/map.hpp"
#include "solar/plan.hpp"
#include "solar/simulation.hpp"

#include <benchmark/benchmark.h>

namespace {

using namespace sipper;

const std::array<const char*, 2> kCases{"toad-tunnel", "tram-clock"};
const std::array<const char*, 2> kWeather{"toad-lane", "tram-line"};

struct Case {
    Project project;
    Weather weather;
    explicit Case(const benchmark::State& state)
        : project(loadProject(folder() + kCases.at(which(state)) + ".sipper").value().project),
          weather(loadWeather(folder() + kWeather.at(which(state)) + ".weather.csv").value()) {}
    static std::size_t which(const benchmark::State& state) {
        return static_cast<std::size_t>(state.range(0));
    }
    static std::string folder() { return std::string(SIPPER_TEST_FILES) + "/reference/"; }
};

/// From a project to its year, nothing kept from the run before.
void aYear(benchmark::State& state) {
    const Case c(state);
    double wh = 0;
    for (auto _ : state)
        wh = sunYear(c.project, c.weather).value().all.panelWh;
    state.counters["Wh"] = wh;
    state.SetLabel(kCases.at(Case::which(state)));
}

/// A further year on the same bench, as the map runs them.
void yetAYear(benchmark::State& state) {
    const Case c(state);
    auto bench = SolarSimulation::of(c.project, c.weather).value().release();
    SolarOptions ask;
    ask.details = false;
    for (auto _ : state)
        benchmark::DoNotOptimize(bench->run(ask)->all.panelWh);
    delete bench;
    state.SetLabel(kCases.at(Case::which(state)));
}

/// Explicit minutes: the line solved anew in each, the charger by the same rules.
void plainMinutes(benchmark::State& state) {
    const Case c(state);
    double wh = 0;
    for (auto _ : state) {
        auto owner = SolarSimulation::of(c.project, c.weather);
        SolarSimulation::Impl& b = owner.value()->impl();
        const PackOverAir pack(b.pack, 1);
        const PackModel& m = pack.model();
        const PanelCharger charger(b.charger, b.way, orZero(b.pack.cell.maxCharge) * m.parallel);
        Line& line = b.charts.line();
        LineSolution moment;
        double missing = 0;
        double lag = 0;
        wh = 0;
        constexpr double kStep = 1.0 / 60;
        for (std::size_t minute = 0; minute < kHoursAYear * 60; ++minute) {
            const std::size_t hour = (b.firstHour() + minute / 60) % kHoursAYear;
            const double air = b.airAt(hour);
            const double g = static_cast<double>(b.light[hour * kSlotsAnHour + minute % 60 / 10]);
            const PackAt at = pack.at(air);
            const double height = 1 - (missing + lag / m.availableFraction) / at.ampHours;
            const double r = m.series / m.parallel * (at.r0 + at.r1) + m.connection;
            const double e = m.series * m.openCircuitAt(std::max(0.0, height));
            const auto setting = line.schedule().at(static_cast<double>(minute % 1440)).setting;
            line.solveAtNodeVolts(setting, e / m.series, at.r0, at.r1, moment);
            const double taken = moment.collapsed || height <= 0 ? 0 : moment.meanAmps;
            PanelPoint stand;
            if (g >= 1) {
                SunNode node;
                node.e = e - taken * r;
                node.r = r;
                ChargerDemand ask = charger.asks(node);
                const double hold = (b.charger.chargeVoltage->value() - e) / r + taken;
                if (hold < ask.amps)
                    ask = {std::max(0.0, hold), SunLimit::cv};
                const double full = taken + pack.selfShare() * at.ampHours;
                if (missing <= 0 && full < ask.amps)
                    ask = {full, SunLimit::full};
                stand = charger.stand(b.way.curve(g, air), air, node, ask);
            }
            wh += stand.panelVolts * stand.panelAmps * kStep;
            const double stored = stand.amps - taken - pack.selfShare() * at.ampHours;
            const double gone = -std::expm1(-m.wellRate * kStep);
            missing = std::max(0.0, missing - stored * kStep);
            lag = lag * (1 - gone) - (1 - m.availableFraction) * stored * gone / m.wellRate;
        }
    }
    state.counters["Wh"] = wh;
    state.SetLabel(kCases.at(Case::which(state)));
}

void aMap(benchmark::State& state) {
    const Case c(state);
    SizingMapOptions ask;
    ask.years = static_cast<std::size_t>(state.range(1));
    ask.lines = {ask.years};
    double solved = 0;
    for (auto _ : state) {
        const auto map = sunMapOf(c.project, c.weather, "", ask).value();
        solved = static_cast<double>(std::count_if(map->fields.begin(), map->fields.end(),
                                                   [](const auto& f) { return f.solved; }));
    }
    state.counters["run"] = solved;
    state.SetLabel(kCases.at(Case::which(state)));
}

BENCHMARK(aYear)->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond);
BENCHMARK(yetAYear)->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond);
BENCHMARK(plainMinutes)->Arg(0)->Arg(1)->Unit(benchmark::kMillisecond);
BENCHMARK(aMap)
    ->Args({0, 1})
    ->Args({1, 1})
    ->Args({0, 10})
    ->Args({1, 10})
    ->Unit(benchmark::kSecond)
    ->Iterations(1)
    ->UseRealTime();

} // namespace

BENCHMARK_MAIN();
