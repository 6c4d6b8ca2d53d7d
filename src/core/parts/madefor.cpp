// SPDX-License-Identifier: GPL-3.0-or-later
#include "parts/madefor.hpp"

#include "parts/chemistry.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kAdapterTolerance = 0.05;
constexpr double kUnloaded = 1.5; ///< an unregulated adapter's no-load voltage over its rating
constexpr double kSag = 0.9;      ///< and what is left of the rating on a weak line
constexpr double kRailTolerance = 0.10;
constexpr double kSurvives = 1.2; ///< over the highest voltage that it was made for
constexpr double kLogicSurvives = 1.15;

/// Volts are kept to a hundredth: a window is no finer than that.
Volts neat(double volts) {
    return Volts{std::round(volts * 100) / 100};
}

Window window(double min, double nominal, double max, double never) {
    Window w;
    w.min = neat(min);
    w.nominal = neat(nominal);
    w.max = neat(max);
    w.neverAbove = neat(never);
    return w;
}

std::string volts(double v) {
    return writeQuantity(v, Unit::volt);
}

} // namespace

Outcome<DerivedWindow> windowFor(const MadeForInput& asked) {
    const double v = asked.volts.value();
    const bool byVolts = asked.kind == MadeFor::regulatedAdapter ||
                         asked.kind == MadeFor::unregulatedAdapter || asked.kind == MadeFor::rail;
    if (byVolts && !(v >= 0.5 && v <= 400))
        return Error{"range", "", volts(v), "from 0.5 to 400 V", ""};
    switch (asked.kind) {
    case MadeFor::regulatedAdapter:
        return DerivedWindow{
            window(v * (1 - kAdapterTolerance), v, v * (1 + kAdapterTolerance), v * kSurvives),
            fmt::format("Assumed: a regulated {} adapter holds 5 %, and what was made for it "
                        "survives a fifth more. An older, unregulated one gives far more with "
                        "nothing drawn: measure it open.",
                        volts(v))};
    case MadeFor::unregulatedAdapter:
        return DerivedWindow{
            window(v * kSag, v, v * kUnloaded, v * kUnloaded * 1.1),
            fmt::format("Assumed: an unregulated {} adapter gives {} with nothing drawn, and what "
                        "was made for it takes that and a tenth more.",
                        volts(v), volts(v * kUnloaded))};
    case MadeFor::cells: {
        const ChemistryVolts& c = voltsOf(asked.chemistry);
        if (asked.count < 1 || asked.count > 100)
            return Error{"range", "", fmt::format("{} cells", asked.count), "1 to 100 cells", ""};
        if (c.fresh <= 0)
            return Error{"range", "", "cells of another chemistry",
                         "a chemistry whose voltages are known", ""};
        const double n = asked.count;
        return DerivedWindow{
            window(n * c.empty, n * c.nominal, n * c.fresh, n * c.fresh * kSurvives),
            fmt::format("Assumed: {} {} cell{} in series, {} each when fresh; such things work "
                        "down to {} a cell, and survive a fifth over fresh. Many give up earlier: "
                        "try it on the bench.",
                        asked.count, chemistryText(asked.chemistry), asked.count == 1 ? "" : "s",
                        volts(c.fresh), volts(c.empty))};
    }
    case MadeFor::socket:
        return DerivedWindow{window(4.75, 5, 5.25, 5.5),
                             "Assumed: a 5 V socket gives 4.75 to 5.25 V, and what plugs into one "
                             "is good for 5.5 V. Many take 4.4 V behind a long cable: the data "
                             "sheet says."};
    case MadeFor::vehicle:
        return DerivedWindow{window(9, 12, 16, 18),
                             "Assumed: a 12 V vehicle supply goes from 9 V while cranking to 16 V "
                             "while charging. Its spikes go far beyond that: fuse it, clamp it, "
                             "and leave fixed wiring to licensed people."};
    case MadeFor::rail:
        return DerivedWindow{
            window(v * (1 - kRailTolerance), v, v * (1 + kRailTolerance), v * kLogicSurvives),
            fmt::format("Assumed: what runs from a {} rail takes 10 % either way and is damaged "
                        "beyond {}. The data sheet is stricter for some parts.",
                        volts(v), volts(v * kLogicSurvives))};
    }
    return DerivedWindow{};
}

Outcome<DrawFromRun> drawFromRun(const KnownRun& run) {
    const double ah = run.capacity.value();
    const double v = run.volts.value();
    const double hours = run.lasted.value();
    if (!(ah > 0 && ah <= 1e5))
        return Error{"range", "capacity", writeQuantity(ah, Unit::ampereHour), "over 0 Ah", ""};
    if (!(v > 0 && v <= 1000))
        return Error{"range", "volts", volts(v), "over 0, up to 1000 V", ""};
    if (!(hours > 0 && hours <= 1e6))
        return Error{"range", "lasted", writeHours(hours), "more than no time", ""};
    DrawFromRun draw;
    draw.current = Amps{ah / hours};
    draw.power = Watts{ah * v / hours};
    draw.assumed = fmt::format(
        "Assumed: the battery gave what its label says, {} or {}, in {}: {} or {} on the average. "
        "An old battery gives less, and then the device draws less than this.",
        writeQuantity(ah, Unit::ampereHour), writeQuantity(ah * v, Unit::wattHour),
        writeHours(hours), writeQuantity(draw.current.value(), Unit::ampere),
        writeQuantity(draw.power.value(), Unit::watt));
    return draw;
}

Load withKnownRun(Load load, const std::string& mode, const DrawFromRun& known, bool byPower) {
    auto draw = std::find_if(load.draws.begin(), load.draws.end(),
                             [&](const Draw& d) { return d.mode == mode; });
    if (draw == load.draws.end()) {
        load.draws.emplace_back().mode = mode;
        draw = std::prev(load.draws.end());
    }
    draw->current.reset();
    draw->power.reset();
    draw->resistance.reset();
    draw->led.reset();
    draw->ledVolts.reset();
    if (byPower)
        draw->power = known.power;
    else
        draw->current = known.current;
    draw->basis = Basis::guess;
    draw->tolerance = kKnownRunTolerance;
    return load;
}

} // namespace sipper
