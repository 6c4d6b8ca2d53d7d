// SPDX-License-Identifier: GPL-3.0-or-later
// One operating point, one full runtime with ledger, a range and the swaps of a stage. (The runtime
// against its peers: runtime.cpp.)
#include "explain/sweep.hpp"
#include "improve/swaps.hpp"
#include "project/file.hpp"
#include "runtime/operatingsweep.hpp"
#include "runtime/uncertainty.hpp"

#include <benchmark/benchmark.h>
#include <cstdio>
#include <cstdlib>

namespace {

using namespace sipper;

const std::array<const char*, 3> kCases{SIPPER_TEST_FILES "/reference/stall-lantern.sipper",
                                        SIPPER_TEST_FILES "/reference/street-choir.sipper",
                                        SIPPER_DATA_FILES "/examples/nest-box-listener.sipper"};

Project projectAt(std::int64_t i) {
    auto read = loadProject(kCases.at(static_cast<std::size_t>(i)));
    if (!read) {
        std::fprintf(stderr, "%s\n", read.error().message().c_str());
        std::exit(2);
    }
    return std::move(read).value().project;
}

void operatingPoint(benchmark::State& state) {
    const Project p = projectAt(state.range(0));
    const Line line(p, typicalConditions(p));
    const std::size_t setting = line.schedule().settings.size() - 1;
    LineSolution moment;
    double charge = 1;
    for (auto _ : state) {
        line.solve(setting, line.pack().level(charge), moment);
        benchmark::DoNotOptimize(moment.meanAmps);
        charge = charge < 0.5 ? 1 : charge - 0.001;
    }
    state.SetLabel(p.name);
}

void runtimeWithLedger(benchmark::State& state) {
    const Project p = projectAt(state.range(0));
    double hours = 0;
    for (auto _ : state)
        hours = predictRuntime(p).hours->value();
    state.counters["hours"] = hours;
    state.SetLabel(p.name);
}

constexpr const char* kSwept = "/loads/eye/draws/lamp/current_a";
constexpr double kSweptFrom = 0.1;
constexpr double kSweptTo = 0.5;

/// 41 points of one figure with their breaks to a ten-thousandth of the span ...
void sweepWithBreaks(benchmark::State& state) {
    const Project p = projectAt(2);
    SweepOptions ask;
    ask.from = kSweptFrom;
    ask.to = kSweptTo;
    ask.keys = {SweepKey::runtimeHours};
    std::size_t breaks = 0;
    for (auto _ : state)
        breaks = sweepOf(p, kSwept, ask).value().breaks.size();
    state.counters["breaks"] = static_cast<double>(breaks);
}

/// ... beside a plain loop of 4 100 runs, whose resolution is still the coarser.
void sweepByPlainLoop(benchmark::State& state) {
    constexpr std::size_t kRuns = 4100;
    const Project p = projectAt(2);
    const FieldEdit edit(p, fieldAt(p, kSwept).value());
    for (auto _ : state)
        twoThreadFor(kRuns, [&](std::size_t i) {
            const double share = static_cast<double>(i) / (kRuns - 1);
            const auto at = edit.with(kSweptFrom + (kSweptTo - kSweptFrom) * share);
            benchmark::DoNotOptimize(predictRuntime(at.value()).hours);
        });
}

void surveyOfACharge(benchmark::State& state) {
    const Project p = projectAt(state.range(0));
    for (auto _ : state)
        benchmark::DoNotOptimize(sweepOperation(p, typicalConditions(p)).stopCharge);
    state.SetLabel(p.name);
}

void rangeOf400Builds(benchmark::State& state) {
    const Project p = projectAt(state.range(0));
    const Runtime r = predictRuntime(p);
    for (auto _ : state)
        benchmark::DoNotOptimize(predictRange(p, r)->range.p10);
    state.SetLabel(p.name);
}

/// The library's parts in a stage's place, each solved: as the window does it, and with the full
/// steps of a headline.
void swapsAsShown(benchmark::State& state) {
    const Project p = projectAt(2);
    const Library library = loadLibrary();
    const char* stage = state.range(0) == 0 ? "logic33" : "cells";
    std::size_t count = 0;
    for (auto _ : state)
        count = suggestSwaps(p, library, stage).size();
    state.counters["parts"] = static_cast<double>(count);
}
void swapsInFullSteps(benchmark::State& state) {
    const Project p = projectAt(2);
    const Library library = loadLibrary();
    const char* stage = state.range(0) == 0 ? "logic33" : "cells";
    for (auto _ : state)
        for (const LibraryPart& part : library.parts)
            if (interchangeable(p.stage(stage)->part, part.stage.part))
                benchmark::DoNotOptimize(predictRuntime(withSwap(p, stage, part)));
}

BENCHMARK(swapsAsShown)->DenseRange(0, 1)->Unit(benchmark::kMillisecond);
BENCHMARK(swapsInFullSteps)->DenseRange(0, 1)->Unit(benchmark::kMillisecond);
BENCHMARK(operatingPoint)->DenseRange(0, 2)->Unit(benchmark::kMicrosecond);
BENCHMARK(surveyOfACharge)->DenseRange(0, 2)->Unit(benchmark::kMillisecond);
BENCHMARK(runtimeWithLedger)->DenseRange(0, 2)->Unit(benchmark::kMillisecond);
BENCHMARK(sweepWithBreaks)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(sweepByPlainLoop)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(rangeOf400Builds)->DenseRange(0, 2)->Unit(benchmark::kMillisecond)->UseRealTime();

} // namespace

BENCHMARK_MAIN();
