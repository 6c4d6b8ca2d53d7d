// SPDX-License-Identifier: GPL-3.0-or-later
// A million rows: reading them against a plain stream, and a picture of them by columns against
// handing every point over, in one run.
#include "trace/segments.hpp"

#include "../tools/tracemaker.hpp"

#include <benchmark/benchmark.h>
#include <cstdlib>
#include <fmt/format.h>
#include <sstream>

namespace {

using namespace sipper;

constexpr double kRows = 1e6;
constexpr std::size_t kPixels = 800;

const std::string& millionRows() {
    static const std::string text = [] {
        tracemaker::Recipe r = tracemaker::listenerNight(0.05);
        r.step = r.span / kRows;
        std::string csv = "time (s),current (mA)\n";
        tracemaker::make(r, [&](double t, double amps) {
            fmt::format_to(std::back_inserter(csv), "{:.6f},{:.6g}\n", t, amps * 1e3);
        });
        return csv;
    }();
    return text;
}

const Trace& millionSamples() {
    static const Trace trace = [] {
        auto read = readTrace(millionRows());
        if (!read)
            std::abort();
        return std::move(read).value();
    }();
    return trace;
}

void readRows(benchmark::State& state) {
    const std::string& text = millionRows();
    for (auto _ : state)
        benchmark::DoNotOptimize(readTrace(text));
}

/// What a few lines with a string stream would do: no units, no remarks, no quotes.
void readByStream(benchmark::State& state) {
    const std::string& text = millionRows();
    for (auto _ : state) {
        std::istringstream in(text);
        std::string header;
        std::getline(in, header);
        double seconds = 0;
        double amps = 0;
        char comma = 0;
        double sum = 0;
        while (in >> seconds >> comma >> amps)
            sum += amps;
        benchmark::DoNotOptimize(sum);
    }
}

void cutIntoModes(benchmark::State& state) {
    const Trace& trace = millionSamples();
    for (auto _ : state)
        benchmark::DoNotOptimize(segmentTrace(trace));
}

/// What a level that is dragged costs.
void cutAtLevels(benchmark::State& state) {
    for (auto _ : state)
        benchmark::DoNotOptimize(segmentTrace(millionSamples(), {0.0004, 0.12, 0.24}));
}

void columnsOfAPicture(benchmark::State& state) {
    for (auto _ : state)
        benchmark::DoNotOptimize(
            traceColumns(millionSamples(), 0, millionSamples().span(), kPixels));
}

/// The same picture from every point: two copies of the samples, before anything is drawn.
void everyPoint(benchmark::State& state) {
    for (auto _ : state) {
        std::vector<std::pair<double, double>> points;
        for (std::size_t i = 0; i < millionSamples().seconds.size(); ++i)
            points.emplace_back(millionSamples().seconds[i], millionSamples().amps[i]);
        benchmark::DoNotOptimize(points);
    }
}

BENCHMARK(readRows)->Unit(benchmark::kMillisecond);
BENCHMARK(readByStream)->Unit(benchmark::kMillisecond);
BENCHMARK(cutIntoModes)->Unit(benchmark::kMillisecond);
BENCHMARK(cutAtLevels)->Unit(benchmark::kMillisecond);
BENCHMARK(columnsOfAPicture)->Unit(benchmark::kMillisecond);
BENCHMARK(everyPoint)->Unit(benchmark::kMillisecond);

} // namespace

BENCHMARK_MAIN();
