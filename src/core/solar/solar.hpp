// SPDX-License-Identifier: GPL-3.0-or-later
// Years of a panel charging a pack, with the real loads on it.
#pragma once

#include "charge/panelcharger.hpp"
#include "project/project.hpp"
#include "solar/weather.hpp"

#include <functional>
#include <map>
#include <memory>
#include <stop_token>

namespace sipper {

struct SolarOptions {
    std::string charger; ///< id; empty: the first that a panel feeds
    std::size_t years = 1;
    double panelScale = 1;   ///< more or less of the same panel: amps
    double packScale = 1;    ///< more or less of the same cells in parallel
    double stepShare = 1;    ///< of the usual steps; halves them for tests
    bool details = true;     ///< days and the ledger too
    bool untilUnmet = false; ///< stop where something critical first goes without
    std::function<void(double share)> progress;
};

/// Watt-hours and hours of one calendar month, over all years.
struct SolarSums {
    double panelWh = 0;         ///< at the panel's terminals
    double availableWh = 0;     ///< with the panel always at its top
    double chargedWh = 0;       ///< into the pack's terminals
    double loadWh = 0;          ///< at the loads
    double lossOfLoadHours = 0; ///< h
    double forbidden = 0;       ///< h of charging where the cells must not be
    double full = 0;            ///< h in which the pack takes no more
    double lostFull = 0;        ///< Wh that the panel could have given, by what held it back
    double lostOffMpp = 0;
    double lostTemperature = 0;
    double lostLimit = 0;
    double leastCharge = 1;
    bool operator==(const SolarSums&) const = default;
};

/// Watt-hours from the panel: panel = feed + charger + dark + pack loss + self-discharge + stages +
/// loads + gained.
struct SunLedger {
    double feed = 0;
    double charger = 0;
    double dark = 0;
    double packLoss = 0;
    double selfDischarge = 0;
    double gained = 0;
    std::map<std::string, double> stages;
    std::map<std::string, double> loads;
    /// What the entries miss of the panel's, as a share of it.
    [[nodiscard]] double imbalance(double panelWh) const;
};

struct SolarYear {
    std::string charger;
    std::string panel;
    std::string pack;
    std::size_t years = 1;
    SolarSums all;
    std::array<SolarSums, 12> months;
    double longestUnmet = 0;               ///< h
    double longestDark = 0;                ///< h in which the pack has to carry everything
    std::size_t worstDay = 1;              ///< 1 to 365, of the least charge
    std::size_t worstMonth = 0;            ///< 0 to 11
    std::optional<double> firstLossOfLoad; ///< h after the start
    /// Charge at the end of each hour of the last year, from 1 January; and which of them were
    /// missed in part, as a share of the hour.
    std::vector<float> charge;
    std::vector<float> missed;
    /// The same of the year that missed most (from midsummer on, its winter in one piece), with its
    /// number from 0 and its hours; the last one where none missed anything.
    std::vector<float> worstCharge;
    std::vector<float> worstMissed;
    std::size_t worstYear = 0;
    double worstYearUnmet = 0;
    SunLedger ledger;
};

/// The chargers that a panel feeds, by id.
[[nodiscard]] std::vector<std::string> sunChargersOf(const Project& project);

/// Is it the sun that refills it: so says the brief, and a panel charges its pack?
[[nodiscard]] bool byTheSun(const Project& project);

/// What a run stands on; made once for many runs of the same project in the same weather. The
/// project and the weather outlive it.
class SolarSimulation {
  public:
    /// No such charger, cells that can't be recharged, an incomplete label, a boost whose panel
    /// passes straight in, or no latitude: an Error.
    static Outcome<std::unique_ptr<SolarSimulation>>
    of(const Project& project, const Weather& weather, const std::string& charger = {});
    ~SolarSimulation();

    /// Nothing where it was stopped.
    [[nodiscard]] std::optional<SolarYear> run(const SolarOptions& ask,
                                               const std::stop_token& stop = {});

    struct Impl;
    [[nodiscard]] const Impl& impl() const { return *m_impl; }
    [[nodiscard]] Impl& impl() { return *m_impl; }

  private:
    explicit SolarSimulation(std::unique_ptr<Impl> impl);
    std::unique_ptr<Impl> m_impl;
};

/// Hours from full in the dark at typical air until something critical first goes without; nothing
/// where it lasts longer than `most`.
[[nodiscard]] std::optional<double> autonomyHours(SolarSimulation& bench, double most);

/// One run.
[[nodiscard]] Outcome<SolarYear> sunYear(const Project& project, const Weather& weather,
                                         const SolarOptions& ask = {});

/// Latitude that a project is at: the brief's, else the weather's, else nothing.
[[nodiscard]] std::optional<double> latitudeOf(const Project& project, const Weather& weather);

/// The weather of the brief's climate where no file is given: the seeded stand-in. Needs a
/// latitude.
[[nodiscard]] Outcome<Weather> usualWeather(const Project& project, std::uint64_t seed,
                                            std::size_t years);

} // namespace sipper
