// SPDX-License-Identifier: GPL-3.0-or-later
// From one edit to the finished picture of the Supply line, offscreen, beside its parts.
#include "session/session.hpp"
#include "theme/theme.hpp"
#include "views/supplyline/supplylineview.hpp"

#include <QApplication>
#include <benchmark/benchmark.h>
#include <cstdio>

namespace {

using namespace sipper;
using namespace sipper::app;

const std::array<const char*, 2> kExamples{"nest-box-listener", "lake-parade-lantern"};

void editToPicture(benchmark::State& state) {
    Session session;
    if (const auto trouble = session.openExample(
            QString::fromLatin1(kExamples.at(static_cast<std::size_t>(state.range(0))))))
        state.SkipWithError(trouble->message().c_str());
    SupplyLineView view(session);
    view.resize(866, 700);
    view.show();
    QApplication::processEvents();
    const std::string id = session.project().stages[2].id; // the guard
    double cutoff = std::get<Guard>(session.project().stages[2].part).cutoff.value();
    double step = 0.001;
    for (auto _ : state) {
        Project after = session.project();
        std::get<Guard>(after.stage(id)->part).cutoff = Volts{cutoff += step};
        step = -step;
        session.apply(QStringLiteral("drag"), std::move(after), QStringLiteral("drag"));
        benchmark::DoNotOptimize(view.grab().width());
    }
    session.waitForIdle();
    state.SetLabel(kExamples.at(static_cast<std::size_t>(state.range(0))));
}

void computeAtOnceOnly(benchmark::State& state) {
    Session session;
    (void)session.openExample(
        QString::fromLatin1(kExamples.at(static_cast<std::size_t>(state.range(0)))));
    session.waitForIdle();
    for (auto _ : state)
        benchmark::DoNotOptimize(analyseQuick(session.project()).findings.size());
    state.SetLabel(kExamples.at(static_cast<std::size_t>(state.range(0))));
}

void pictureOnly(benchmark::State& state) {
    Session session;
    (void)session.openExample(
        QString::fromLatin1(kExamples.at(static_cast<std::size_t>(state.range(0)))));
    SupplyLineView view(session);
    view.resize(866, 700);
    view.show();
    session.waitForIdle();
    for (auto _ : state)
        benchmark::DoNotOptimize(view.grab().width());
    state.SetLabel(kExamples.at(static_cast<std::size_t>(state.range(0))));
}

BENCHMARK(editToPicture)->DenseRange(0, 1)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(computeAtOnceOnly)->DenseRange(0, 1)->Unit(benchmark::kMillisecond);
BENCHMARK(pictureOnly)->DenseRange(0, 1)->Unit(benchmark::kMillisecond);

} // namespace

int main(int argc, char** argv) {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    int qtArgc = 1;
    QApplication app(qtArgc, argv);
    loadFonts();
    Theme::use(false, 1.0);
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
    return 0;
}
