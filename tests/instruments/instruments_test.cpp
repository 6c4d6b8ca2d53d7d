// SPDX-License-Identifier: GPL-3.0-or-later
// The simulated bench and the lines that its instruments answer.
#include "instruments/instruments.hpp"
#include "line/sources.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "runtime/runtime.hpp"
#include "support.hpp"

using namespace sipper;

namespace {

/// Three sessions on one bench.
struct Desk {
    explicit Desk(const Project& p, const SimulatedOptions& ask = {}, double noise = 0,
                  std::uint64_t seed = 1)
        : bench(std::move(SimulatedBench::make(p, ask)).value()), set(*bench, noise, seed),
          meter(set.commands(Instrument::meter), identityOf(Instrument::meter)),
          load(set.commands(Instrument::load), identityOf(Instrument::load)),
          supply(set.commands(Instrument::supply), identityOf(Instrument::supply)) {
        load.reset = [this] { set.reset(Instrument::load); };
    }
    std::unique_ptr<SimulatedBench> bench;
    InstrumentSet set;
    ScpiSession meter;
    ScpiSession load;
    ScpiSession supply;
};

double figure(ScpiSession& session, const std::string& query) {
    const auto text = session.line(query);
    REQUIRE(text);
    return std::stod(*text);
}

std::string error(ScpiSession& session) {
    return *session.line("SYST:ERR?");
}

} // namespace

TEST_CASE("headers fit in short and long form, in any case, with nodes left out", "[instruments]") {
    CHECK(scpiFits("[SOURce:]VOLTage", {"volt"}));
    CHECK(scpiFits("[SOURce:]VOLTage", {"SOUR", "VOLTAGE"}));
    CHECK_FALSE(scpiFits("[SOURce:]VOLTage", {"VOLTA"}));
    CHECK(scpiFits("MEASure[:VOLTage][:DC]", {"meas"}));
    CHECK(scpiFits("MEASure[:VOLTage][:DC]", {"MEAS", "DC"}));
    CHECK(scpiFits("MEASure[:VOLTage][:DC]", {"MEASure", "VOLT", "dc"}));
    CHECK_FALSE(scpiFits("MEASure[:VOLTage][:DC]", {"MEAS", "CURR"}));
    CHECK(scpiNumber("1.5 A", {"A", 0, 30, 0}).value == 1.5);
    CHECK(scpiNumber("150mA", {"A", 0, 30, 0}).value == Approx(0.15));
    CHECK(scpiNumber("2MOHM", {"OHM", 0, 1e7, 0}).value == Approx(2e6));
    CHECK(scpiNumber("MAX", {"A", 0, 30, 0}).value == 30);
    CHECK(scpiNumber("31", {"A", 0, 30, 0}).error == -222);
    CHECK(scpiNumber("2 V", {"A", 0, 30, 0}).error == -104);
    CHECK(scpiNumber("two", {"A", 0, 30, 0}).error == -104);
    CHECK(scpiNumber("nan", {"A", 0, 30, 0}).error == -104);
}

TEST_CASE("lines are answered, joined, relative to the last header; errors queue up",
          "[instruments]") {
    Desk d(test::reference("paper-bellows"));
    CHECK(*d.load.line("*IDN?") == "Sipper,simulated load,0,1.0");
    CHECK(*d.load.line("FUNC POW;:POW 12;:FUNC?;:POW?") == "POW;" + scpiText(12));
    CHECK(*d.load.line("inp:cut 6;CUT?;STAT?\r") == scpiText(6) + ";0");
    CHECK(*d.load.line("SYST:VERS?;ERR?") == "1999.0;0,\"No error\"");
    CHECK_FALSE(d.load.line("POW 400"));
    CHECK(error(d.load) == "-222,\"Data out of range\"");
    CHECK(figure(d.load, "POW?") == 12); // the old value stays
    const std::vector<std::pair<const char*, const char*>> wrong{
        {"NONS 1", "-113"},       {"POW", "-109"},     {"POW 1,2", "-108"}, {"POW x", "-104"},
        {"FUNC NONS", "-224"},    {"::", "-102"},      {"POW 1,", "-102"},  {"INP 2", "-224"},
        {"MEAS:VOLT? 1", "-108"}, {"\x01\xff", "-102"}};
    for (const auto& [line, code] : wrong) {
        INFO(line);
        CHECK_FALSE(d.load.line(line));
        CHECK_THAT(error(d.load), Catch::StartsWith(code));
    }
    CHECK(error(d.load) == "0,\"No error\"");
    for (int i = 0; i < 30; ++i)
        static_cast<void>(d.load.line("NONS"));
    for (int i = 0; i < 19; ++i)
        CHECK_THAT(error(d.load), Catch::StartsWith("-113"));
    CHECK_THAT(error(d.load), Catch::StartsWith("-350"));
    CHECK(error(d.load) == "0,\"No error\"");
    static_cast<void>(d.load.line("*CLS"));
    CHECK(*d.load.line("*ESR?;*STB?") == "0;0");
    static_cast<void>(d.load.line("*ESE 32;*SRE 32;NONS"));
    CHECK(*d.load.line("*STB?") == "100"); // error queue, event, service
    CHECK(*d.load.line("*ESR?") == "32");
    d.load.tooLong();
    static_cast<void>(d.load.line("*CLS;*OPC"));
    CHECK(*d.load.line("*ESR?;*OPC?;*TST?") == "1;1;0");
}

TEST_CASE("a discharge at constant power gives what the pack holds, and ends at the cut",
          "[instruments]") {
    const Project p = test::reference("paper-bellows");
    Desk d(p);
    const double open = figure(d.meter, "MEAS?");
    CHECK(open == Approx(8.38));
    CHECK_FALSE(d.load.line("*RST;:FUNC POW;:POW 12;:INP:CUT 6.0;:INP:CLE"));
    static_cast<void>(d.load.line("INP ON"));
    CHECK(figure(d.load, "MEAS:POW?") == Approx(12));
    CHECK(figure(d.meter, "MEAS:CURR?") == Approx(12 / figure(d.meter, "MEAS:VOLT?")));
    int hours = 0;
    while (*d.load.line("INP?") == "1" && ++hours < 200)
        static_cast<void>(d.load.line("SYST:CLOC:ADV 120"));
    CHECK(*d.load.line("INP:CUT:TRIP?") == "1");
    // Watts times hours, to the step.
    const double seconds = figure(d.load, "MEAS:TIME?");
    CHECK(figure(d.load, "MEAS:ENER?") == Approx(12 * seconds / 3600).epsilon(1e-6));
    // As the runtime has it: the same pack, the same watts, down to the same volts.
    Project same = p;
    same.stages.resize(1);
    same.modes.resize(1);
    Load load = test::loadOf("tester", "cells", 6, 100);
    load.draws = {test::powerDraw("rest", 12)};
    same.loads = {load};
    Conditions bench;
    bench.ambient = Celsius{20};
    CHECK(seconds / 3600 == Approx(predictRuntime(same, bench, {}).hours->value()).epsilon(0.005));
    // It recovers at rest, and stays off until it is told.
    static_cast<void>(d.load.line("SYST:CLOC:ADV 600"));
    CHECK(figure(d.load, "MEAS:VOLT?") > 6.2);
    CHECK(figure(d.load, "MEAS:CURR?") == 0);
    static_cast<void>(d.load.line("INP ON"));
    CHECK(*d.load.line("INP:CUT:TRIP?") == "0");
}

TEST_CASE("a load behind a stage sees its set-point, and goes off with the guard",
          "[instruments]") {
    SimulatedOptions ask;
    ask.at = "rail12";
    ask.charge = 0.05;
    Desk d(test::reference("paper-bellows"), ask);
    static_cast<void>(d.load.line("FUNC CURR;:CURR 0.5;:INP ON"));
    CHECK(figure(d.load, "MEAS:VOLT?") == Approx(12));
    int rounds = 0;
    while (*d.load.line("INP?") == "1" && ++rounds < 500)
        static_cast<void>(d.load.line("SYST:CLOC:ADV 30"));
    CHECK(*d.load.line("INP:CUT:TRIP?") == "1");
    CHECK(figure(d.load, "MEAS:VOLT?") == 0);
    ask.at = "nowhere";
    CHECK(SimulatedBench::make(test::reference("paper-bellows"), ask).error().code ==
          "dangling_id");
}

TEST_CASE("the supply feeds the line in the pack's place, and holds its limit", "[instruments]") {
    const Project p = test::reference("paper-bellows");
    Desk d(p);
    CHECK(*d.supply.line("OUTP:MODE?") == "OFF");
    CHECK(figure(d.supply, "MEAS:VOLT?") == 0);
    static_cast<void>(d.supply.line("VOLT 8;CURR 5;:OUTP ON"));
    CHECK(*d.supply.line("OUTP:MODE?;:SYST:MODE?") == "CV;rest");
    const double rest = figure(d.supply, "MEAS:CURR?");
    static_cast<void>(d.supply.line("SYST:MODE blow"));
    const double blow = figure(d.supply, "MEAS:CURR?");
    CHECK(blow > 4 * rest);
    CHECK(figure(d.supply, "MEAS:POW?") == Approx(8 * blow));
    // As the project says it of its cells at those volts: 9 W and what the boost loses.
    CHECK(8 * blow > 9);
    CHECK(8 * blow < 11);
    static_cast<void>(d.supply.line("CURR 0.2"));
    CHECK(*d.supply.line("OUTP:MODE?") == "CC");
    CHECK(figure(d.supply, "MEAS:VOLT?") < 8);
    static_cast<void>(d.supply.line("SYST:MODE nowhere"));
    CHECK_THAT(error(d.supply), Catch::StartsWith("-224"));
    // The meter's leads can hang there too.
    static_cast<void>(d.supply.line("CURR 5"));
    static_cast<void>(d.meter.line("ROUT:TERM SUPP;:CONF:CURR"));
    CHECK(figure(d.meter, "READ?") == Approx(blow));
    CHECK(*d.meter.line("CONF?;:ROUT:TERM?") == "CURR;SUPP");
}

TEST_CASE("without cells the source that is plugged in is played", "[instruments]") {
    for (const char* name : {"adapter-and-buck", "vehicle-fused", "network-cable"}) {
        INFO(name);
        const Project p = test::load(std::filesystem::path(SIPPER_SOURCE) / "data/recipes" /
                                     (std::string(name) + ".sipper"));
        REQUIRE_FALSE(p.pack());
        const Stage& source = p.stages[externalSources(p).front()];
        const SourceModel model = sourceModel(source.part);
        Desk d(p);
        CHECK(*d.meter.line("SYST:PROB?") == source.id + ",VOLT," + p.modes[p.baseMode()].id);
        CHECK(figure(d.load, "MEAS:VOLT?") == Approx(model.volts));
        static_cast<void>(d.load.line("FUNC CURR;:CURR 0.1;:INP ON"));
        CHECK(figure(d.load, "MEAS:VOLT?") == Approx(model.volts - 0.1 * model.ohms));
        static_cast<void>(d.load.line("SYST:CLOC:ADV 36000"));
        CHECK(figure(d.load, "MEAS:CAP?") == Approx(1).epsilon(0.001));
        CHECK(figure(d.load, "MEAS:VOLT?") == Approx(model.volts - 0.1 * model.ohms)); // for ever
        static_cast<void>(
            d.supply.line("VOLT " + std::to_string(model.volts) + ";CURR 10;:OUTP ON"));
        CHECK(*d.supply.line("OUTP:MODE?") == "CV");
        // Behind a regulator the load sees its set-point.
        for (const Stage& stage : p.stages)
            if (isRegulator(stage.part) && setPointOf(stage.part)) {
                SimulatedOptions ask;
                ask.at = stage.id;
                Desk behind(p, ask);
                static_cast<void>(behind.load.line("FUNC CURR;:CURR 0.1;:INP ON"));
                CHECK(figure(behind.load, "MEAS:VOLT?") == Approx(setPointOf(stage.part)->value()));
            }
    }
    Project none = test::reference("paper-bellows");
    none.stages.clear();
    CHECK(SimulatedBench::make(none, {}).error().code == "no_source");
}

TEST_CASE("one seed says the same, another something else, and sums have no noise",
          "[instruments]") {
    const Project p = test::reference("paper-bellows");
    const auto talk = [&](std::uint64_t seed) {
        Desk d(p, {}, 0.001, seed);
        static_cast<void>(d.load.line("CURR 2;:INP ON;:SYST:CLOC:ADV 3600"));
        return *d.load.line("MEAS:ALL?;CAP?");
    };
    CHECK(talk(7) == talk(7));
    CHECK(talk(7) != talk(8));
    CHECK(talk(7).substr(talk(7).rfind(';')) == talk(8).substr(talk(8).rfind(';')));
    // The spread is what was asked for.
    Desk d(p, {}, 0.01, 3);
    double square = 0;
    for (int i = 0; i < 400; ++i)
        square += std::pow(figure(d.meter, "MEAS?") / 8.38 - 1, 2);
    CHECK(std::sqrt(square / 400) == Approx(0.01).epsilon(0.15));
}

TEST_CASE("the probe goes where it is sent, and says where it is", "[instruments][probe]") {
    const Project p = test::example("nest-box-listener");
    Desk d(p);
    CHECK(d.meter.line("SYST:PROB?") == "cells,VOLT,rest");
    static_cast<void>(d.meter.line("SYSTem:PROBe boost12,VOLTage,lamp"));
    CHECK(d.meter.line("syst:prob?") == "boost12,VOLT,lamp");
    CHECK(figure(d.meter, "MEAS:VOLT?") == Approx(12).epsilon(0.05));
    CHECK(figure(d.meter, "READ?") == Approx(12).epsilon(0.05));
    static_cast<void>(d.meter.line("SYST:PROB boost12.in,CURR,lamp"));
    CHECK(figure(d.meter, "READ?") > 0.1); // it reads what the probe is for
    CHECK(figure(d.meter, "MEAS:TEMP?") >= 20);
    static_cast<void>(d.meter.line("SYST:PROB recorder"));
    CHECK(d.meter.line("SYST:PROB?") == "recorder,VOLT,rest");
    CHECK(figure(d.meter, "MEAS?") == Approx(5.05).epsilon(0.03));
    CHECK(error(d.meter) == "0,\"No error\"");
    // Back on the load's terminals.
    static_cast<void>(d.meter.line("ROUT:TERM LOAD"));
    CHECK(d.meter.line("SYST:PROB?") == "cells,VOLT,rest");
    struct Bad {
        const char* line;
        const char* error;
    };
    for (const Bad& bad : {Bad{"SYST:PROB", "-109"},
                           {"SYST:PROB a,VOLT,rest,more", "-108"},
                           {"SYST:PROB nobody", "-224"},
                           {"SYST:PROB cells,OHMS", "-224"},
                           {"SYST:PROB cells,VOLT,nowhere", "-224"},
                           {"SYST:PROB recorder.in", "-224"},
                           {"SYST:PROB cells,VOLT,CUTOFF", "-224"},
                           {"SYST:PROB? 1", "-108"}}) {
        INFO(bad.line);
        CHECK_FALSE(d.meter.line(bad.line));
        CHECK_THAT(error(d.meter), Catch::StartsWith(bad.error));
    }
    CHECK(d.meter.line("SYST:PROB?") == "cells,VOLT,rest"); // what is refused moves nothing
    CHECK_FALSE(d.load.line("SYST:PROB cells"));            // it is the meter's
    CHECK_THAT(error(d.load), Catch::StartsWith("-113"));
}

TEST_CASE("every check of a bench is read by the probe, inside its band", "[instruments][probe]") {
    for (const char* name : {"nest-box-listener", "greenhouse-vent-opener", "lake-parade-lantern",
                             "stage-theremin", "darkroom-timer", "model-ferry-winch"}) {
        const Project p = test::example(name);
        if (!p.pack())
            continue;
        SimulatedOptions ask;
        ask.charge = p.pack()->charge.value_or(1);
        Desk d(p, ask, 0.0005);
        for (const BenchCheck& c : analyseBench(p).checks) {
            if (!c.expect)
                continue;
            INFO(name << ": " << probeOrder(c));
            CHECK_FALSE(d.meter.line(probeOrder(c)));
            const Unit unit = unitRead(c.kind, c.quantity);
            const double read = figure(d.meter, unit == Unit::celsius  ? "MEAS:TEMP?"
                                                : unit == Unit::ampere ? "MEAS:CURR?"
                                                                       : "MEAS:VOLT?");
            CHECK(error(d.meter) == "0,\"No error\"");
            CHECK(read >= c.coverageLow);
            CHECK(read <= c.coverageHigh);
        }
    }
}

TEST_CASE("a fault that was planted is on every instrument", "[instruments][probe]") {
    const Project p = test::example("nest-box-listener");
    SimulatedOptions ask;
    ask.faults = {{"guard", FaultKind::failsOpen, {}}};
    Desk d(p, ask);
    static_cast<void>(d.meter.line("SYST:PROB boost12"));
    CHECK(figure(d.meter, "MEAS:VOLT?") == 0);
    static_cast<void>(d.meter.line("SYST:PROB cells"));
    CHECK(figure(d.meter, "MEAS:VOLT?") > 3);
    static_cast<void>(d.supply.line("VOLT 4;:CURR 1;:OUTP ON"));
    CHECK(figure(d.supply, "MEAS:CURR?") < 0.01); // nothing hangs on it any more
    ask.faults = {{"cells", FaultKind::failsOpen, {}}};
    Desk dead(p, ask);
    CHECK(figure(dead.meter, "MEAS:VOLT?") == 0);
}
