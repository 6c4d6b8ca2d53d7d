// SPDX-License-Identifier: GPL-3.0-or-later
// One charge, and all that the Charging view shows of it, beside a plain loop of one-second steps
// with the same limits.
#include "charge/choices.hpp"
#include "charge/commissioning.hpp"
#include "charge/context.hpp"
#include "project/file.hpp"
#include "project/library.hpp"

#include <benchmark/benchmark.h>

namespace {

using namespace sipper;

const std::array<const char*, 2> kExamples{"moth-counter", "hedge-lantern"};

Project example(const benchmark::State& state) {
    const char* name = kExamples.at(static_cast<std::size_t>(state.range(0)));
    return loadProject(dataFolder() / "examples" / (std::string(name) + ".sipper")).value().project;
}

void oneCharge(benchmark::State& state) {
    const Project p = example(state);
    const ChargeOptions ask = refillAsk(p);
    double hours = 0;
    for (auto _ : state)
        hours = *chargeOf(p, ask).value().hoursToFull;
    state.counters["hours"] = hours;
    state.SetLabel(kExamples.at(static_cast<std::size_t>(state.range(0))));
}

/// Explicit steps of a second from start to end: what a first attempt would do.
void plainLoop(benchmark::State& state) {
    const Project p = example(state);
    double hours = 0;
    for (auto _ : state) {
        const auto owner = chargeContextOf(p, refillAsk(p));
        const ChargeContext& b = *owner.value();
        const PackModel& m = b.model;
        Wells wells = m.level(0.1);
        double slow = 0;
        hours = 0;
        for (int second = 0; second < 400'000; ++second) {
            const double height = m.height(wells);
            const ChargerPoint now =
                b.limits.at(m.series * (m.openCircuitAt(height) - slow),
                            m.series * m.resistanceAt(height) / m.parallel + m.connection, false);
            if (now.limit == ChargeLimit::cv && now.chargerAmps <= b.settings.endCurrent)
                break;
            const double cell = -now.node.packAmps / m.parallel;
            wells = m.drained(wells, cell + m.selfAmps, 1.0 / 3600);
            slow += (cell * m.relaxation - slow) / m.tau;
            hours += 1.0 / 3600;
            if (m.charge(wells) >= 1)
                break;
        }
    }
    state.counters["hours"] = hours;
    state.SetLabel(kExamples.at(static_cast<std::size_t>(state.range(0))));
}

void wholeView(benchmark::State& state) {
    const Project p = example(state);
    const ChargeOptions ask = refillAsk(p);
    std::vector<Stage> sources;
    for (const LibraryPart& part : loadLibrary().parts)
        if (std::holds_alternative<Usb>(part.stage.part) ||
            std::holds_alternative<Adapter>(part.stage.part))
            sources.push_back(part.stage);
    for (auto _ : state) {
        const ChargeRun charge = chargeOf(p, ask).value();
        benchmark::DoNotOptimize(liftOf(p, ask, charge));
        benchmark::DoNotOptimize(laddersOf(p, ask, charge, 100).size());
        benchmark::DoNotOptimize(otherSources(p, ask, sources).size());
        benchmark::DoNotOptimize(rateAlternatives(p, ask).size());
        benchmark::DoNotOptimize(powerPaths(p, ask).size());
        benchmark::DoNotOptimize(setupSteps(p, ask.charger).size());
    }
    state.SetLabel(kExamples.at(static_cast<std::size_t>(state.range(0))));
}

BENCHMARK(oneCharge)->DenseRange(0, 1)->Unit(benchmark::kMillisecond);
BENCHMARK(plainLoop)->DenseRange(0, 1)->Unit(benchmark::kMillisecond);
BENCHMARK(wholeView)->DenseRange(0, 1)->Unit(benchmark::kMillisecond);

} // namespace

BENCHMARK_MAIN();
