// SPDX-License-Identifier: GPL-3.0-or-later
// The finder: how many candidates go through the filter in a second, and in all; what the bounds
// save against running everything.
#include "search/search.hpp"
#include "project/file.hpp"
#include "search/feasibility.hpp"

#include <benchmark/benchmark.h>
#include <filesystem>
#include <fstream>
#include <string>

namespace {

using namespace sipper;

const Library& shipped() {
    static const Library library = loadLibrary();
    return library;
}

Project example(const char* name) {
    return loadProject(std::filesystem::path(SIPPER_DATA_FILES) / "examples" /
                       (std::string(name) + ".sipper"))
        .value()
        .project;
}

/// MB that the process holds at its most; 0 where the system does not say.
double mostMegabytes() {
    std::ifstream status("/proc/self/status");
    for (std::string line; std::getline(status, line);)
        if (line.starts_with("VmHWM:"))
            return std::stod(line.substr(6)) / 1024;
    return 0;
}

/// Every candidate through the filter, with the front that a whole search ends with.
void filter(benchmark::State& state, const char* name) {
    const Project p = example(name);
    SearchOptions ask;
    ask.adviseWholeFront = false;
    const auto found = findSupplies(p, shipped(), ask);
    ParetoFront front;
    for (const std::size_t i : found.value().paretoFront) {
        const Candidate& c = found.value().feasible[i];
        front.add(c.hours, c.grams, c.price);
    }
    front.buildIndex();
    std::uint64_t tried = 0;
    for (auto _ : state) {
        const FeasibilityFilter all(p, shipped(), {});
        for (std::size_t i = 0; i < all.groups().size(); ++i)
            tried += all.group(i, FeasibilityFilter::Pass::bound, front, 0).counts.tried;
    }
    state.counters["candidates/s"] =
        benchmark::Counter(static_cast<double>(tried), benchmark::Counter::kIsRate);
}

void whole(benchmark::State& state, const char* name) {
    const Project p = example(name);
    SearchOptions ask;
    ask.adviseWholeFront = false;
    std::uint64_t tried = 0;
    std::uint64_t ran = 0;
    for (auto _ : state) {
        const auto found = findSupplies(p, shipped(), ask);
        tried += found.value().counts.tried;
        ran += found.value().counts.ran;
    }
    state.counters["candidates/s"] =
        benchmark::Counter(static_cast<double>(tried), benchmark::Counter::kIsRate);
    state.counters["ran"] =
        benchmark::Counter(static_cast<double>(ran), benchmark::Counter::kAvgIterations);
    state.counters["MB"] = mostMegabytes();
}

/// One cell, one rail: every candidate run, against bounds that spare runs.
void oneRail(benchmark::State& state, bool bounds) {
    Project p = example("nest-box-listener");
    p.loads.resize(1);
    SearchOptions ask;
    ask.adviseWholeFront = false;
    ask.runAll = bounds ? 0 : 1'000'000'000;
    ask.cells = {"nickel-cobalt-18650-3.0"};
    for (auto _ : state)
        benchmark::DoNotOptimize(findSupplies(p, shipped(), ask).value().counts.ran);
}

BENCHMARK_CAPTURE(filter, two rails, "stage-theremin")->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(filter, three rails, "nest-box-listener")->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(whole, two rails, "stage-theremin")->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK_CAPTURE(whole, three rails, "nest-box-listener")
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK_CAPTURE(oneRail, every one run, false)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(oneRail, with bounds, true)->Unit(benchmark::kMillisecond);

} // namespace

BENCHMARK_MAIN();
