// SPDX-License-Identifier: GPL-3.0-or-later
#include "instruments/instruments.hpp"

#include "measure/checks.hpp"
#include "parts/names.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <array>
#include <cctype>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr ScpiRange kLoadAmps{"A", 0, 30, 0};
constexpr ScpiRange kLoadWatts{"W", 0, 300, 0};
constexpr ScpiRange kLoadOhms{"OHM", 0.05, 1e4, 1e4};
constexpr ScpiRange kLoadCut{"V", 0, 150, 0};
constexpr ScpiRange kSupplyVolts{"V", 0, 60, 0};
constexpr ScpiRange kSupplyAmps{"A", 0, 10, 1};
constexpr ScpiRange kAdvance{"S", 0, 1e7, 0};

ScpiAnswer noArguments(const ScpiArguments& a, const std::function<std::string()>& say) {
    return a.empty() ? ScpiAnswer::said(say()) : ScpiAnswer::failed(-108);
}

ScpiAnswer oneArgument(const ScpiArguments& a,
                       const std::function<ScpiAnswer(const std::string&)>& then) {
    if (a.empty())
        return ScpiAnswer::failed(-109);
    return a.size() > 1 ? ScpiAnswer::failed(-108) : then(a[0]);
}

/// Has the project this check at all?
bool canCheck(const Project& p, const std::string& at, CheckKind kind) {
    const auto checks = analyseBench(p).checks;
    return std::any_of(checks.begin(), checks.end(),
                       [&](const BenchCheck& c) { return c.at == at && c.kind == kind; });
}

bool looksLikeNumber(const std::string& text) {
    return !text.empty() && (std::isdigit(static_cast<unsigned char>(text[0])) || text[0] == '+' ||
                             text[0] == '-' || text[0] == '.');
}

} // namespace

std::string identityOf(Instrument instrument) {
    static constexpr std::array names{"meter", "load", "supply"};
    return fmt::format("Sipper,simulated {},0,1.0", names[static_cast<std::size_t>(instrument)]);
}

std::string probeOrder(const BenchCheck& check) {
    const bool input = check.quantity == PointQuantity::vIn || check.quantity == PointQuantity::iIn;
    const Unit unit = unitRead(check.kind, check.quantity);
    const bool thermal = unit == Unit::celsius;
    std::string last = check.mode;
    if (last.empty()) { // a check that is no state of the line
        last = nameOf(check.kind);
        std::transform(last.begin(), last.end(), last.begin(),
                       [](unsigned char c) { return static_cast<char>(std::toupper(c)); });
    }
    return fmt::format("SYST:PROB {}{},{},{}", check.at,
                       input && check.kind == CheckKind::point ? ".in" : "",
                       thermal                ? "TEMP"
                       : unit == Unit::ampere ? "CURR"
                                              : "VOLT",
                       last);
}

InstrumentSet::InstrumentSet(SimulatedBench& bench, double noise, std::uint64_t seed)
    : m_bench(bench), m_noise(noise) {
    for (std::size_t i = 0; i < m_random.size(); ++i)
        m_random[i].seed(seed * 3 + i);
    for (const Instrument each : {Instrument::meter, Instrument::load, Instrument::supply}) {
        add(each, "SYSTem:CLOCk", true, [this](const ScpiArguments& a) {
            return noArguments(a, [this] { return scpiText(m_bench.clock()); });
        });
        add(each, "SYSTem:CLOCk:ADVance", false, [this](const ScpiArguments& a) {
            return oneArgument(a, [this](const std::string& text) {
                const ScpiNumber n = scpiNumber(text, kAdvance);
                if (n.error != 0)
                    return ScpiAnswer::failed(n.error);
                m_bench.advance(n.value);
                return ScpiAnswer::done();
            });
        });
    }
    buildMeter();
    buildLoad();
    buildSupply();
}

void InstrumentSet::add(Instrument instrument, std::string pattern, bool query,
                        std::function<ScpiAnswer(const ScpiArguments&)> run) {
    m_commands[static_cast<std::size_t>(instrument)].push_back(
        {std::move(pattern), query, std::move(run)});
}

void InstrumentSet::addFigure(Instrument instrument, const std::string& pattern,
                              const ScpiRange& range, const std::function<double()>& get,
                              std::function<void(double)> set) {
    add(instrument, pattern, true, [range, get](const ScpiArguments& a) {
        if (a.empty())
            return ScpiAnswer::said(scpiText(get()));
        if (a.size() > 1)
            return ScpiAnswer::failed(-108);
        // Which limits it has.
        if (!scpiChoice("MINimum|MAXimum|DEFault", a[0]))
            return ScpiAnswer::failed(looksLikeNumber(a[0]) ? -104 : -224);
        return ScpiAnswer::said(scpiText(scpiNumber(a[0], range).value));
    });
    add(instrument, pattern, false, [range, set = std::move(set)](const ScpiArguments& a) {
        return oneArgument(a, [&](const std::string& text) {
            const ScpiNumber n = scpiNumber(text, range);
            if (n.error != 0)
                return ScpiAnswer::failed(n.error);
            set(n.value);
            return ScpiAnswer::done();
        });
    });
}

void InstrumentSet::addSwitch(Instrument instrument, const std::string& pattern,
                              std::function<bool()> get, std::function<void(bool)> set) {
    add(instrument, pattern, true, [get = std::move(get)](const ScpiArguments& a) {
        return noArguments(a, [&] { return std::string(get() ? "1" : "0"); });
    });
    add(instrument, pattern, false, [set = std::move(set)](const ScpiArguments& a) {
        return oneArgument(a, [&](const std::string& text) {
            const ScpiNumber n = scpiSwitch(text);
            if (n.error != 0)
                return ScpiAnswer::failed(n.error);
            set(n.value != 0);
            return ScpiAnswer::done();
        });
    });
}

void InstrumentSet::addReading(Instrument instrument, const std::string& pattern,
                               std::function<double()> read) {
    add(instrument, pattern, true, [read = std::move(read)](const ScpiArguments& a) {
        return noArguments(a, [&] { return scpiText(read()); });
    });
}

double InstrumentSet::noisy(Instrument instrument, double value) {
    std::normal_distribution<double> spread(0, 1);
    return value * (1 + m_noise * spread(m_random[static_cast<std::size_t>(instrument)]));
}

Terminals InstrumentSet::metered() {
    return m_meterSupply ? m_bench.atSupply() : m_bench.atLoad();
}

void InstrumentSet::buildMeter() {
    constexpr auto kMe = Instrument::meter;
    const auto volts = [this] {
        return noisy(kMe,
                     m_probe ? m_bench.probed(*m_probe, PointQuantity::vOut) : metered().volts);
    };
    const auto amps = [this] {
        return noisy(kMe, m_probe ? m_bench.probed(*m_probe, PointQuantity::iOut) : metered().amps);
    };
    // A thermometer is a matter of kelvins, not of shares: its noise is left out.
    addReading(kMe, "MEASure:TEMPerature", [this] {
        return m_bench.probed(m_probe.value_or(packProbe()), PointQuantity::partC);
    });
    buildProbe();
    addReading(kMe, "MEASure[:VOLTage][:DC]", [this, volts] {
        m_meterAmps = false;
        return volts();
    });
    addReading(kMe, "MEASure:CURRent[:DC]", [this, amps] {
        m_meterAmps = true;
        return amps();
    });
    addReading(kMe, "READ", [this, volts, amps] { return m_meterAmps ? amps() : volts(); });
    for (const bool current : {false, true})
        add(kMe, current ? "CONFigure:CURRent[:DC]" : "CONFigure[:VOLTage][:DC]", false,
            [this, current](const ScpiArguments& a) {
                if (!a.empty())
                    return ScpiAnswer::failed(-108);
                m_meterAmps = current;
                return ScpiAnswer::done();
            });
    add(kMe, "CONFigure", true, [this](const ScpiArguments& a) {
        return noArguments(a, [this] { return std::string(m_meterAmps ? "CURR" : "VOLT"); });
    });
    add(kMe, "ROUTe:TERMinals", true, [this](const ScpiArguments& a) {
        return noArguments(a, [this] { return std::string(m_meterSupply ? "SUPP" : "LOAD"); });
    });
    add(kMe, "ROUTe:TERMinals", false, [this](const ScpiArguments& a) {
        return oneArgument(a, [this](const std::string& text) {
            const auto which = scpiChoice("LOAD|SUPPly", text);
            if (!which)
                return ScpiAnswer::failed(looksLikeNumber(text) ? -104 : -224);
            m_meterSupply = *which == 1;
            m_probe.reset();
            return ScpiAnswer::done();
        });
    });
}

ProbePlace InstrumentSet::packProbe() const {
    ProbePlace place;
    place.at = m_bench.source();
    place.mode = m_bench.asDrawn().baseMode();
    return place;
}

/// `ID[,VOLTage|CURRent|TEMPerature][,MODE]`, in place of the mode a check of the bench by its name
/// in capitals: `CUTOFF`, `SET_POINT`.
ScpiAnswer InstrumentSet::setProbe(const ScpiArguments& arguments) {
    if (arguments.empty())
        return ScpiAnswer::failed(-109);
    if (arguments.size() > 3)
        return ScpiAnswer::failed(-108);
    const Project& p = m_bench.asDrawn();
    ProbePlace place = packProbe();
    place.at = arguments[0];
    if (place.at.ends_with(".in") && !p.stage(place.at) && !p.load(place.at)) {
        place.at.resize(place.at.size() - 3);
        place.input = true;
    }
    const Stage* stage = p.stage(place.at);
    if (!stage && (!p.load(place.at) || place.input))
        return ScpiAnswer::failed(-224);
    bool named = false; // what it reads; else the second word is a mode
    for (std::size_t i = 1; i < arguments.size(); ++i) {
        const auto which = scpiChoice("VOLTage|CURRent|TEMPerature", arguments[i]);
        if (i == 1 && which && modeIndex(p, arguments[i]) == kNotFound) {
            named = true;
            place.quantity =
                std::array{PointQuantity::vOut, PointQuantity::iOut, PointQuantity::partC}[*which];
            continue;
        }
        if (i == 2 && !named)
            return ScpiAnswer::failed(-224);
        if (const std::size_t mode = modeIndex(p, arguments[i]); mode != kNotFound) {
            place.mode = mode;
            continue;
        }
        std::string word = arguments[i];
        const bool capitals = std::none_of(word.begin(), word.end(),
                                           [](unsigned char c) { return std::islower(c) != 0; });
        std::transform(word.begin(), word.end(), word.begin(),
                       [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
        const auto check = capitals ? valueOf<CheckKind>(word) : std::nullopt;
        if (!check || !canCheck(p, place.at, *check))
            return ScpiAnswer::failed(-224);
        place.check = check;
    }
    m_probe = place;
    if (named)
        m_meterAmps = place.quantity == PointQuantity::iOut;
    return ScpiAnswer::done();
}

void InstrumentSet::buildProbe() {
    add(Instrument::meter, "SYSTem:PROBe", false,
        [this](const ScpiArguments& a) { return setProbe(a); });
    add(Instrument::meter, "SYSTem:PROBe", true, [this](const ScpiArguments& a) {
        return noArguments(a, [this] {
            const ProbePlace place = m_probe.value_or(packProbe());
            std::string last = m_bench.asDrawn().modes[place.mode].id;
            if (place.check) {
                last = nameOf(*place.check);
                std::transform(last.begin(), last.end(), last.begin(),
                               [](unsigned char c) { return static_cast<char>(std::toupper(c)); });
            }
            return fmt::format("{}{},{},{}", place.at, place.input ? ".in" : "",
                               place.quantity == PointQuantity::partC  ? "TEMP"
                               : place.quantity == PointQuantity::iOut ? "CURR"
                                                                       : "VOLT",
                               last);
        });
    });
}

void InstrumentSet::buildLoad() {
    constexpr auto kMe = Instrument::load;
    LoadState& load = m_bench.load;
    add(kMe, "[SOURce:]FUNCtion", true, [&load](const ScpiArguments& a) {
        return noArguments(a, [&load] {
            static constexpr std::array words{"CURR", "POW", "RES"};
            return std::string(words[static_cast<std::size_t>(load.function)]);
        });
    });
    add(kMe, "[SOURce:]FUNCtion", false, [&load](const ScpiArguments& a) {
        return oneArgument(a, [&load](const std::string& text) {
            const auto which = scpiChoice("CURRent|POWer|RESistance", text);
            if (!which)
                return ScpiAnswer::failed(looksLikeNumber(text) ? -104 : -224);
            load.function = static_cast<LoadFunction>(*which);
            return ScpiAnswer::done();
        });
    });
    const auto figure = [&](const char* pattern, const ScpiRange& range, double& value) {
        addFigure(
            kMe, pattern, range, [&value] { return value; }, [&value](double v) { value = v; });
    };
    figure("[SOURce:]CURRent", kLoadAmps, load.current);
    figure("[SOURce:]POWer", kLoadWatts, load.power);
    figure("[SOURce:]RESistance", kLoadOhms, load.resistance);
    figure("INPut:CUToff", kLoadCut, load.cutoff);
    addSwitch(
        kMe, "INPut[:STATe]", [&load] { return load.on; },
        [this](bool on) { m_bench.switchLoad(on); });
    add(kMe, "INPut:CUToff:TRIPped", true, [&load](const ScpiArguments& a) {
        return noArguments(a, [&load] { return std::string(load.tripped ? "1" : "0"); });
    });
    add(kMe, "INPut:CLEar", false, [this](const ScpiArguments& a) {
        if (!a.empty())
            return ScpiAnswer::failed(-108);
        m_bench.clearCounters();
        return ScpiAnswer::done();
    });
    addReading(kMe, "MEASure:VOLTage", [this] { return noisy(kMe, m_bench.atLoad().volts); });
    addReading(kMe, "MEASure:CURRent", [this] { return noisy(kMe, m_bench.atLoad().amps); });
    addReading(kMe, "MEASure:POWer", [this] {
        const Terminals t = m_bench.atLoad();
        return noisy(kMe, t.volts * t.amps);
    });
    addReading(kMe, "MEASure:CAPacity", [&load] { return load.ah; });
    addReading(kMe, "MEASure:ENERgy", [&load] { return load.wh; });
    addReading(kMe, "MEASure:TIME", [&load] { return load.seconds; });
    add(kMe, "MEASure:ALL", true, [this, &load](const ScpiArguments& a) {
        return noArguments(a, [this, &load] {
            const Terminals t = m_bench.atLoad();
            const double v = noisy(kMe, t.volts);
            const double i = noisy(kMe, t.amps);
            const double w = noisy(kMe, t.volts * t.amps);
            std::string out;
            for (const double x : {load.seconds, v, i, w, load.ah, load.wh})
                out += (out.empty() ? "" : ",") + scpiText(x);
            return out;
        });
    });
}

void InstrumentSet::buildSupply() {
    constexpr auto kMe = Instrument::supply;
    SupplyState& supply = m_bench.supply;
    const auto figure = [&](const char* pattern, const ScpiRange& range, double& value) {
        addFigure(
            kMe, pattern, range, [&value] { return value; }, [&value](double v) { value = v; });
    };
    figure("[SOURce:]VOLTage", kSupplyVolts, supply.volts);
    figure("[SOURce:]CURRent", kSupplyAmps, supply.limit);
    addSwitch(
        kMe, "OUTPut[:STATe]", [&supply] { return supply.on; },
        [&supply](bool on) { supply.on = on; });
    add(kMe, "OUTPut:MODE", true, [this](const ScpiArguments& a) {
        return noArguments(a, [this] {
            switch (m_bench.supplyMode()) {
            case SupplyMode::voltage:
                return std::string("CV");
            case SupplyMode::current:
                return std::string("CC");
            case SupplyMode::off:
                break;
            }
            return std::string("OFF");
        });
    });
    addReading(kMe, "MEASure:VOLTage", [this] { return noisy(kMe, m_bench.atSupply().volts); });
    addReading(kMe, "MEASure:CURRent", [this] { return noisy(kMe, m_bench.atSupply().amps); });
    addReading(kMe, "MEASure:POWer", [this] {
        const Terminals t = m_bench.atSupply();
        return noisy(kMe, t.volts * t.amps);
    });
    add(kMe, "SYSTem:MODE", true, [this, &supply](const ScpiArguments& a) {
        return noArguments(a, [&] { return m_bench.project().modes[supply.mode].id; });
    });
    add(kMe, "SYSTem:MODE", false, [this, &supply](const ScpiArguments& a) {
        return oneArgument(a, [&](const std::string& text) {
            const std::size_t mode = modeIndex(m_bench.project(), text);
            if (mode == kNotFound)
                return ScpiAnswer::failed(-224);
            supply.mode = mode;
            return ScpiAnswer::done();
        });
    });
}

void InstrumentSet::reset(Instrument instrument) {
    switch (instrument) {
    case Instrument::meter:
        m_meterAmps = false;
        m_meterSupply = false;
        m_probe.reset();
        break;
    case Instrument::load: {
        const LoadState was = m_bench.load;
        m_bench.load = {};
        m_bench.load.ah = was.ah;
        m_bench.load.wh = was.wh;
        m_bench.load.seconds = was.seconds;
        break;
    }
    case Instrument::supply:
        m_bench.supply = {};
        m_bench.supply.mode = m_bench.project().baseMode();
        break;
    }
}

} // namespace sipper
