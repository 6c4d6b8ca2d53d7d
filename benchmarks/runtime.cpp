// SPDX-License-Identifier: GPL-3.0-or-later
// Three shipped examples, each run to its end by our steps, by a plain loop of one-second steps and
// by SUNDIALS CVODE with root finding, over the same line and with the same endings, in one run;
// `hours` says what each came to. Then what a run costs by modes, stages and length.
#include "runtime/runtime.hpp"
#include "project/edits.hpp"
#include "project/file.hpp"

#include <benchmark/benchmark.h>
#include <cmath>
#include <cstdio>
#include <cstdlib>
#include <fmt/format.h>

#ifdef SIPPER_CVODE
#include <cvode/cvode.h>
#include <nvector/nvector_serial.h>
#include <sunlinsol/sunlinsol_dense.h>
#include <sunmatrix/sunmatrix_dense.h>
#endif

namespace {

using namespace sipper;

const std::array<const char*, 3> kExamples{"lake-parade-lantern", "nest-box-listener",
                                           "greenhouse-vent-opener"};

Project exampleAt(std::int64_t i) {
    auto read = loadProject(std::string(SIPPER_DATA_FILES "/examples/") +
                            kExamples.at(static_cast<std::size_t>(i)) + ".sipper");
    if (!read) {
        std::fprintf(stderr, "%s\n", read.error().message().c_str());
        std::exit(2);
    }
    return std::move(read).value().project;
}

void ours(benchmark::State& state) {
    const Project p = exampleAt(state.range(0));
    StepControl plain;
    plain.record = false;
    double hours = 0;
    for (auto _ : state)
        hours = predictRuntime(p, typicalConditions(p), plain).hours->value();
    state.counters["hours"] = hours;
    state.SetLabel(p.name);
}

/// One-second steps, every mode solved at each, until something ends it.
void oneSecondLoop(benchmark::State& state) {
    const Project p = exampleAt(state.range(0));
    double hours = 0;
    for (auto _ : state) {
        const Line line(p, typicalConditions(p));
        Wells wells = line.pack().level(1);
        LineSolution moment;
        const double start = p.brief.startMinutes();
        for (std::int64_t second = 0;; ++second) {
            const double minute = std::fmod(start + static_cast<double>(second) / 60, 1440.0);
            line.solve(line.schedule().at(minute).setting, wells, moment);
            hours = static_cast<double>(second) / 3600;
            if (endingOf(p, line, moment, wells))
                break;
            wells = line.pack().drained(
                wells, moment.meanAmps / line.pack().parallel + line.pack().selfAmps, 1.0 / 3600);
        }
    }
    state.counters["hours"] = hours;
    state.SetLabel(p.name);
}

#ifdef SIPPER_CVODE

/// The two wells as an initial value problem, hours and ampere-hours.
class Peer {
  public:
    explicit Peer(const Project& p) : m_project(p), m_line(p, typicalConditions(p)) {
        SUNContext_Create(nullptr, &m_context);
        m_y = N_VNew_Serial(2, m_context);
        m_matrix = SUNDenseMatrix(2, 2, m_context);
        m_solver = SUNLinSol_Dense(m_y, m_matrix, m_context);
        m_memory = CVodeCreate(CV_BDF, m_context);
    }
    ~Peer() {
        CVodeFree(&m_memory);
        SUNLinSolFree(m_solver);
        SUNMatDestroy(m_matrix);
        N_VDestroy(m_y);
        SUNContext_Free(&m_context);
    }
    Peer(const Peer&) = delete;
    Peer& operator=(const Peer&) = delete;

    double hours() {
        const Wells full = m_line.pack().level(1);
        NV_Ith_S(m_y, 0) = full.available;
        NV_Ith_S(m_y, 1) = full.bound;
        CVodeInit(m_memory, slope, 0, m_y);
        CVodeSStolerances(m_memory, kRelative, kAbsolute * m_line.pack().usable);
        CVodeSetUserData(m_memory, this);
        CVodeSetLinearSolver(m_memory, m_solver, m_matrix);
        CVodeRootInit(m_memory, 1, margin);
        CVodeSetMaxNumSteps(m_memory, 1'000'000);
        const double start = m_project.brief.startMinutes();
        double now = 0;
        for (int stretch = 0; stretch < 100'000; ++stretch) {
            const auto at = m_line.schedule().at(std::fmod(std::round(start + now * 60), 1440.0));
            m_setting = at.setting;
            double begins = 0;
            margin(now, m_y, &begins, this);
            if (begins < 0)
                return now;
            if (stretch > 0)
                CVodeReInit(m_memory, now, m_y); // the draw jumps: no step may reach over it
            const double until = std::isfinite(at.minutesLeft) ? now + at.minutesLeft / 60 : 1e6;
            CVodeSetStopTime(m_memory, until);
            const int how = CVode(m_memory, until, m_y, &now, CV_NORMAL);
            if (how == CV_ROOT_RETURN || how < 0)
                return now;
        }
        return now;
    }

  private:
    static constexpr double kRelative = 1e-6;
    static constexpr double kAbsolute = 1e-7;

    static Wells wellsOf(N_Vector y) { return {NV_Ith_S(y, 0), NV_Ith_S(y, 1)}; }

    static int slope(double, N_Vector y, N_Vector dy, void* self) {
        auto& peer = *static_cast<Peer*>(self);
        const PackModel& pack = peer.m_line.pack();
        const Wells w = wellsOf(y);
        peer.m_line.solve(peer.m_setting, w, peer.m_moment);
        if (peer.m_moment.collapsed)
            return 1; // a smaller step, please
        const double amps = peer.m_moment.meanAmps / pack.parallel + pack.selfAmps;
        const double c = pack.available;
        const double flow =
            c < 1 ? pack.wellRate * c * (1 - c) * (w.bound / (1 - c) - w.available / c) : 0;
        NV_Ith_S(dy, 0) = flow - amps;
        NV_Ith_S(dy, 1) = -flow;
        return 0;
    }

    /// Volts to the nearest ending by a window or a cut-off; under 0 where anything has ended it.
    static int margin(double, N_Vector y, double* g, void* self) {
        auto& peer = *static_cast<Peer*>(self);
        const Project& p = peer.m_project;
        const Wells w = wellsOf(y);
        peer.m_line.solve(peer.m_setting, w, peer.m_moment);
        double least = 1e3 * peer.m_line.pack().height(w);
        if (!peer.m_moment.collapsed)
            for (const ModeSolution& m : peer.m_moment.modes)
                for (const Flows* f : {&m.plain, m.hasBurst ? &m.burst : &m.plain}) {
                    for (std::size_t i = 0; i < p.loads.size(); ++i)
                        if (p.loads[i].isCritical() && peer.m_line.network().reachesLoad(i))
                            least = std::min(least, f->loads[i].v - p.loads[i].window.min.value());
                    for (const std::size_t i : peer.m_line.network().order())
                        if (const auto* guard = std::get_if<Guard>(&p.stages[i].part))
                            least = std::min(least, f->stages[i].vIn - guard->cutoff.value());
                }
        const bool ended = endingOf(p, peer.m_line, peer.m_moment, w).has_value();
        *g = ended ? std::min(least, -1e-6) : std::max(least, 1e-6);
        return 0;
    }

    Project m_project;
    Line m_line;
    std::size_t m_setting = 0;
    LineSolution m_moment;
    SUNContext m_context = nullptr;
    N_Vector m_y = nullptr;
    SUNMatrix m_matrix = nullptr;
    SUNLinearSolver m_solver = nullptr;
    void* m_memory = nullptr;
};

void cvode(benchmark::State& state) {
    const Project p = exampleAt(state.range(0));
    double hours = 0;
    for (auto _ : state)
        hours = Peer(p).hours();
    state.counters["hours"] = hours;
    state.SetLabel(p.name);
}

BENCHMARK(cvode)->DenseRange(0, 2)->Unit(benchmark::kMillisecond);

#endif

/// The nest box with so many repeating modes.
void byModes(benchmark::State& state) {
    Project p = exampleAt(1);
    const auto wanted = static_cast<std::size_t>(state.range(0));
    while (p.modes.size() < wanted) {
        Mode mode;
        mode.id = fmt::format("extra{}", p.modes.size());
        mode.duration = Seconds{0.2};
        mode.every = Seconds{600};
        p.modes.push_back(mode);
    }
    for (auto _ : state)
        benchmark::DoNotOptimize(predictRuntime(p).hours);
    state.SetComplexityN(state.range(0));
}

/// The nest box with so many leads one behind the other before its recorder.
void byStages(benchmark::State& state) {
    Project p = exampleAt(1);
    Load& load = *p.load("recorder");
    for (std::int64_t i = 0; i < state.range(0); ++i) {
        Stage lead;
        lead.id = fmt::format("extra{}", i);
        lead.fedBy = {load.fedBy};
        Wire wire;
        wire.length = Metres{0.001};
        wire.area = SquareMillimetres{10};
        lead.part = wire;
        load.fedBy = lead.id;
        p.stages.push_back(lead);
    }
    for (auto _ : state)
        benchmark::DoNotOptimize(predictRuntime(p).hours);
    state.SetComplexityN(state.range(0));
}

/// The nest box with its recorder's draw shared among so many loads.
void byLoads(benchmark::State& state) {
    Project p = exampleAt(1);
    Load load = *p.load("recorder");
    const auto count = static_cast<double>(state.range(0));
    for (Draw& d : load.draws) {
        if (d.current)
            d.current = *d.current / count;
        if (d.power)
            d.power = *d.power / count;
        if (d.burst)
            d.burst = *d.burst / count;
    }
    *p.load("recorder") = load;
    for (std::int64_t i = 1; i < state.range(0); ++i) {
        load.id = fmt::format("extra{}", i);
        for (Draw& d : load.draws)
            d.burstsPerSecond.reset(); // for energy each burst is solved by itself
        p.loads.push_back(load);
    }
    for (auto _ : state)
        benchmark::DoNotOptimize(predictRuntime(p).hours);
    state.SetComplexityN(state.range(0));
}

/// The nest box with so many times its cells: as many times the nights.
void byLength(benchmark::State& state) {
    Project p = exampleAt(1);
    std::get<Pack>(p.stage("cells")->part).parallel = static_cast<double>(3 * state.range(0));
    double hours = 0;
    for (auto _ : state)
        hours = predictRuntime(p).hours->value();
    state.counters["hours"] = hours;
    state.SetComplexityN(state.range(0));
}

BENCHMARK(ours)->DenseRange(0, 2)->Unit(benchmark::kMillisecond);
BENCHMARK(oneSecondLoop)->DenseRange(0, 2)->Unit(benchmark::kMillisecond);
BENCHMARK(byModes)->RangeMultiplier(2)->Range(4, 64)->Unit(benchmark::kMillisecond)->Complexity();
BENCHMARK(byLoads)->RangeMultiplier(2)->Range(8, 256)->Unit(benchmark::kMillisecond)->Complexity();
BENCHMARK(byStages)->RangeMultiplier(2)->Range(4, 64)->Unit(benchmark::kMillisecond)->Complexity();
BENCHMARK(byLength)->RangeMultiplier(2)->Range(1, 64)->Unit(benchmark::kMillisecond)->Complexity();

} // namespace

BENCHMARK_MAIN();
