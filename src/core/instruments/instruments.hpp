// SPDX-License-Identifier: GPL-3.0-or-later
// The three instruments of the simulated bench: what each command does to it.
#pragma once

#include "instruments/scpi.hpp"
#include "instruments/simulated.hpp"

#include <random>

namespace sipper {

enum class Instrument { meter, load, supply };
/// `Sipper,simulated load,0,1.0`
[[nodiscard]] std::string identityOf(Instrument instrument);

/// The order that puts the meter's probe where a check of the bench wants it.
[[nodiscard]] std::string probeOrder(const BenchCheck& check);

/// Meter, load and supply on one simulated bench, each with noise of its own from one seed.
class InstrumentSet {
  public:
    InstrumentSet(SimulatedBench& bench, double noise, std::uint64_t seed);

    [[nodiscard]] const std::vector<ScpiCommand>& commands(Instrument instrument) const {
        return m_commands[static_cast<std::size_t>(instrument)];
    }
    void reset(Instrument instrument);

  private:
    void buildMeter();
    void buildLoad();
    void buildSupply();
    void add(Instrument instrument, std::string pattern, bool query,
             std::function<ScpiAnswer(const ScpiArguments&)> run);
    /// A figure that is set and asked for, in its limits.
    void addFigure(Instrument instrument, const std::string& pattern, const ScpiRange& range,
                   const std::function<double()>& get, std::function<void(double)> set);
    void addSwitch(Instrument instrument, const std::string& pattern, std::function<bool()> get,
                   std::function<void(bool)> set);
    void addReading(Instrument instrument, const std::string& pattern,
                    std::function<double()> read);
    [[nodiscard]] double noisy(Instrument instrument, double value);
    [[nodiscard]] Terminals metered();
    void buildProbe();
    [[nodiscard]] ScpiAnswer setProbe(const ScpiArguments& arguments);
    [[nodiscard]] ProbePlace packProbe() const;

    SimulatedBench& m_bench;
    double m_noise;
    std::array<std::mt19937_64, 3> m_random;
    std::array<std::vector<ScpiCommand>, 3> m_commands;
    bool m_meterAmps = false;          ///< set to amps
    bool m_meterSupply = false;        ///< its leads are on the supply
    std::optional<ProbePlace> m_probe; ///< of the meter; nothing: its leads are on the load
};

} // namespace sipper
