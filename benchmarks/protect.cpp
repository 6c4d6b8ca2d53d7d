// SPDX-License-Identifier: GPL-3.0-or-later
// What an edit computes at once, with and without its share of protection.
#include "analysis/analysis.hpp"
#include "project/file.hpp"

#include <benchmark/benchmark.h>

namespace {

using namespace sipper;

const std::array<const char*, 4> kCases{"nest-box-listener", "stage-theremin", "hedge-lantern",
                                        "lake-parade-lantern"};

Project projectOf(const benchmark::State& state) {
    return loadProject(std::string(SIPPER_DATA_FILES) + "/examples/" +
                       kCases.at(static_cast<std::size_t>(state.range(0))) + ".sipper")
        .value()
        .project;
}

/// All of an edit: run, survey, charge, protection, advice.
void anEdit(benchmark::State& state) {
    const Project p = projectOf(state);
    for (auto _ : state)
        benchmark::DoNotOptimize(analyseQuick(p).findings.size());
    state.SetLabel(kCases.at(static_cast<std::size_t>(state.range(0))));
}

/// Protection alone: rebound in four cases, proof, faults, currents.
void protection(benchmark::State& state) {
    const Project p = projectOf(state);
    const QuickAnalysis q = analyseQuick(p);
    for (auto _ : state)
        benchmark::DoNotOptimize(
            analyseProtection(p, q.runtime,
                              {q.sweep ? &*q.sweep : nullptr, q.externalLoads, q.charges})
                ->guards.size());
    state.SetLabel(kCases.at(static_cast<std::size_t>(state.range(0))));
}

void faults(benchmark::State& state) {
    const Project p = projectOf(state);
    for (auto _ : state)
        benchmark::DoNotOptimize(faultsOf(p).parts.size());
    state.SetLabel(kCases.at(static_cast<std::size_t>(state.range(0))));
}

BENCHMARK(anEdit)->DenseRange(0, 3)->Unit(benchmark::kMillisecond);
BENCHMARK(protection)->DenseRange(0, 3)->Unit(benchmark::kMillisecond);
BENCHMARK(faults)->DenseRange(0, 3)->Unit(benchmark::kMillisecond);

} // namespace

BENCHMARK_MAIN();
