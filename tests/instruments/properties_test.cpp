// SPDX-License-Identifier: GPL-3.0-or-later
// Lines of any kind to the stand-ins: answered or put into the error queue, never more; and what
// the simulated load takes out of a pack is what its counters say.
#include "instruments/instruments.hpp"
#include "support.hpp"

using namespace sipper;

namespace {

struct Stand {
    Project project = test::example("nest-box-listener");
    std::unique_ptr<SimulatedBench> bench = std::move(SimulatedBench::make(project, {}).value());
    InstrumentSet set{*bench, 0, 7};
    ScpiSession session(Instrument instrument) {
        return ScpiSession(set.commands(instrument), identityOf(instrument));
    }
};

} // namespace

TEST_CASE("any line is answered or leaves an error, and the queue is emptied one by one",
          "[instruments][properties]") {
    Stand stand;
    std::mt19937 random(51);
    const std::vector<std::string> words{
        "*IDN?", "*RST", "*CLS", "*ESR?",     "MEAS:VOLT?", "MEAS:CURR?", "CURR",  "CURR?",
        "VOLT",  "OUTP", "INP",  "SYST:ERR?", "0.1",        "ON",         "MAX",   "-5",
        "?",     ";",    ":",    ",",         "\"",         "x",          "1e999", "FUNC POW"};
    for (const Instrument instrument : {Instrument::meter, Instrument::load, Instrument::supply}) {
        ScpiSession session = stand.session(instrument);
        for (int i = 0; i < 2000; ++i) {
            std::string line;
            for (std::size_t n = random() % 6; n > 0; --n)
                line += words[random() % words.size()] + (random() % 2 ? " " : "");
            const auto answer = session.line(line);
            INFO(line);
            if (answer) {
                CHECK(answer->find('\n') == std::string::npos);
                CHECK_FALSE(answer->empty());
            }
        }
        // No more than its queue holds, then no error.
        int errors = 0;
        while (errors < 1000 && session.line("SYST:ERR?").value_or("") != "0,\"No error\"")
            ++errors;
        CHECK(errors < 1000);
        CHECK(session.line("*IDN?") == identityOf(instrument));
    }
}

TEST_CASE("numbers are taken in their units and limits, or refused by the right number",
          "[instruments][properties]") {
    const ScpiRange range{"V", 0, 30, 5};
    CHECK(scpiNumber("3.3", range).value == Approx(3.3));
    CHECK(scpiNumber("3300 mV", range).value == Approx(3.3));
    CHECK(scpiNumber("MIN", range).value == 0);
    CHECK(scpiNumber("max", range).value == 30);
    CHECK(scpiNumber("DEF", range).value == 5);
    CHECK(scpiNumber("31", range).error == -222);
    CHECK(scpiNumber("-0.1", range).error == -222);
    CHECK(scpiNumber("five", range).error != 0);
    CHECK(scpiNumber("", range).error != 0);
    CHECK(scpiNumber("3.3 A", range).error != 0);
    CHECK(scpiNumber("nan", range).error != 0);
    CHECK(scpiNumber("1e999", range).error != 0);
    CHECK(scpiSwitch("ON").value == 1);
    CHECK(scpiSwitch("0").value == 0);
    CHECK(scpiSwitch("perhaps").error != 0);
    for (double x = 1e-9; x < 1e9; x *= 7.3)
        CHECK(std::stod(scpiText(x)) == Approx(x).epsilon(1e-7));
    CHECK(scpiChoice("CURRent|POWer|RESistance", "pow") == 1);
    CHECK(scpiChoice("CURRent|POWer|RESistance", "RESISTANCE") == 2);
    CHECK_FALSE(scpiChoice("CURRent|POWer|RESistance", "resi"));
}

TEST_CASE("what the load takes is what the pack loses, in amp-hours and by the clock",
          "[instruments][properties]") {
    for (const LoadFunction function :
         {LoadFunction::current, LoadFunction::power, LoadFunction::resistance}) {
        Stand stand;
        SimulatedBench& bench = *stand.bench;
        bench.load.function = function;
        bench.load.current = 0.3;
        bench.load.power = 1;
        bench.load.resistance = 12;
        const double before = bench.charge();
        bench.switchLoad(true);
        REQUIRE(bench.load.on);
        double last = bench.atLoad().volts;
        for (int minute = 0; minute < 60; ++minute) {
            bench.advance(60);
            const Terminals now = bench.atLoad();
            CHECK(now.volts <= last + 1e-6);
            last = now.volts;
            if (function == LoadFunction::current)
                CHECK(now.amps == Approx(0.3));
            if (function == LoadFunction::power)
                CHECK(now.amps * now.volts == Approx(1).epsilon(1e-6));
            if (function == LoadFunction::resistance)
                CHECK(now.volts / now.amps == Approx(12).epsilon(1e-6));
        }
        CHECK(bench.load.seconds == Approx(3600));
        CHECK(bench.clock() == Approx(3600));
        const Pack& pack = *stand.project.pack();
        const PackModel model(pack, Celsius{20});
        const double lost = (before - bench.charge()) * model.usable * model.parallel;
        const double self = model.selfAmps * model.parallel;
        CHECK(bench.load.ah + self == Approx(lost).epsilon(1e-3));
        bench.clearCounters();
        CHECK(bench.load.ah == 0);
        bench.switchLoad(false);
        CHECK(bench.atLoad().volts > last);
    }
}
