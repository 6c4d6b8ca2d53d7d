// SPDX-License-Identifier: GPL-3.0-or-later
#include "instruments/instruments.hpp"

#include "project/tree.hpp"

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

bool looksLikeNumber(const std::string& text) {
    return !text.empty() && (std::isdigit(static_cast<unsigned char>(text[0])) || text[0] == '+' ||
                             text[0] == '-' || text[0] == '.');
}

} // namespace

std::string identityOf(Instrument instrument) {
    static constexpr std::array names{"meter", "load", "supply"};
    return fmt::format("Sipper,simulated {},0,1.0", names[static_cast<std::size_t>(instrument)]);
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
    const auto volts = [this] { return noisy(kMe, metered().volts); };
    const auto amps = [this] { return noisy(kMe, metered().amps); };
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
            return ScpiAnswer::done();
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
