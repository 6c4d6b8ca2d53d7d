// SPDX-License-Identifier: GPL-3.0-or-later
#include "charge/commissioning.hpp"

#include "charge/context.hpp"
#include "parts/figures.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kHandWarm = 60; ///< degC from which a fan is worth it
constexpr double kSettled = 20;  ///< minutes until a part is as warm as it gets
constexpr double kNearlyFlat = 0.05;

std::string volts(double v) {
    return writeQuantity(v, Unit::volt);
}
std::string amps(double a) {
    return writeQuantity(a, Unit::ampere);
}

struct Card {
    const ChargeContext& b;
    const std::optional<ChargeRun>& charge;
    std::vector<SetupStep> steps;

    void source() {
        const SourceModel& s = b.feed.source();
        const double most = orZero(b.part.inputNeverAbove);
        steps.push_back(
            {"Source alone: volts and polarity",
             s.low < s.high ? fmt::format("{} to {}", volts(s.low), volts(s.high)) : volts(s.volts),
             "at the leads that go to the charger, nothing connected",
             most > 0 ? fmt::format("reversed, or over {}, it is the charger's end", volts(most))
                      : "reversed it is the charger's end"});
    }
    void ends() {
        const ActivePart& a = b.part;
        const double top = orZero(a.setMax) > 0 ? orZero(a.setMax) : orZero(a.adjustMax);
        steps.push_back({"Turn the voltage all the way down, then up",
                         top > 0 ? "up to " + volts(top) : "note both ends",
                         "at its output, nothing connected",
                         "twenty turns of a trimmer look alike: know where you are before cells "
                         "hang on it"});
    }
    void voltage() {
        if (b.settings.volts <= 0)
            return;
        steps.push_back({"Set the end voltage", volts(b.settings.volts),
                         "at its output, nothing connected",
                         "with the pack on it you would read the pack"});
    }
    void currentDown() {
        steps.push_back({"Turn the current to its least", "0 A", "the other trimmer, to its end",
                         "the first moment with cells on it is then a gentle one"});
    }
    void resistor() {
        const double k = b.part.programK.value_or(0);
        if (k <= 0 || b.settings.current <= 0)
            return;
        const double ohms =
            orZero(b.part.programOhm) > 0 ? orZero(b.part.programOhm) : k / b.settings.current;
        steps.push_back(
            {"Check the programming resistor", writeQuantity(ohms, Unit::ohm),
             "across it, nothing powered",
             fmt::format("it sets {}: current is {:g} over the ohms", amps(k / ohms), k)});
    }
    void waits() {
        steps.push_back({"Power it with no pack", "0 V or a blink is right", "at its output",
                         "such a charger gives nothing until it senses a pack"});
    }
    void connect() {
        const double low = b.restVolts(kNearlyFlat);
        const double full = b.restVolts(1);
        steps.push_back({"Connect the pack, plus to plus",
                         fmt::format("{} to {}", volts(low), volts(full)),
                         "at the pack's own terminals, before joining",
                         "less than that has been drained too far: it belongs on a slow recovery, "
                         "or away"});
    }
    void raise() {
        if (b.settings.current <= 0)
            return;
        steps.push_back(
            {"Raise the current", amps(b.settings.current), "a meter in the pack's lead",
             b.settings.inputHold > 0
                 ? fmt::format("stop where the input falls to {}", volts(b.settings.inputHold))
                 : "stop where the source's volts begin to fall"});
    }
    void heat() {
        if (!charge || charge->curve.empty())
            return;
        const double theta = b.limits.converter().theta;
        std::string why = "a part that you can't touch for three seconds is over 60 °C";
        if (theta > 0 && charge->peakPart > kHandWarm)
            why = fmt::format("blow air over it: it burns {} and gets too warm to touch",
                              writeQuantity(charge->peakLoss, Unit::watt));
        steps.push_back({fmt::format("Feel the heat after {:.0f} minutes", kSettled),
                         fmt::format("about {:.0f} °C", charge->peakPart), "its warmest part",
                         std::move(why)});
    }
    void end() {
        if (!charge || !charge->hoursToFull)
            return;
        steps.push_back({"Be there when it ends",
                         fmt::format("after {}", writeHours(*charge->hoursToFull)),
                         "volts at the pack, amps into it",
                         b.settings.volts > 0
                             ? fmt::format("it should hold {} and fall to {}",
                                           volts(b.settings.volts), amps(b.settings.endCurrent))
                             : "nothing but the clock ends this one"});
    }
};

bool isAdjustable(const Charger& c) {
    return c.adjustable.value_or(false);
}

} // namespace

std::vector<SetupStep> setupSteps(const Project& project, const std::string& charger) {
    ChargeOptions ask = refillAsk(project);
    if (ask.charger != charger)
        ask = {};
    ask.charger = charger;
    const auto bench = chargeContextOf(project, ask);
    if (!bench)
        return {};
    ask.ledger = false;
    std::optional<ChargeRun> charge;
    if (auto known = chargeOf(project, ask))
        charge = std::move(known).value();
    Card card{*bench.value(), charge, {}};
    card.source();
    if (isAdjustable(card.b.part)) {
        card.ends();
        card.voltage();
        card.currentDown();
        card.connect();
        card.raise();
    } else {
        card.resistor();
        if (card.b.limits.converter().topology != Topology::direct)
            card.waits();
        card.connect();
    }
    card.heat();
    card.end();
    return std::move(card.steps);
}

TheveninPack benchPackOf(const Project& project, const std::string& charger) {
    ChargeOptions ask;
    ask.charger = charger;
    const auto bench = chargeContextOf(project, ask);
    if (!bench)
        return {};
    const PackModel& m = bench.value()->model;
    return {bench.value()->restVolts(0.5), std::max(1e-3, m.ohms(0.5)),
            bench.value()->settings.cellAmps,
            m.series * m.parallel * m.rated * m.openCircuit.integral(0, 1)};
}

std::string converterCaution(const Project& project, const std::string& charger) {
    const Stage* stage = project.stage(charger);
    const auto* part = stage ? std::get_if<Charger>(&stage->part) : nullptr;
    if (!part || !isAdjustable(*part))
        return "";
    const Stage* pack = project.stage(part->charges);
    const bool several = pack && std::get<Pack>(pack->part).series > 1;
    return std::string("A converter is no safety device: it knows neither full nor hot, and a "
                       "trimmer can wander.") +
           (several ? " Cells in series need their own monitoring." : "");
}

} // namespace sipper
