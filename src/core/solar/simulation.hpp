// SPDX-License-Identifier: GPL-3.0-or-later
// What a run of sun stands on, made once: panel, charger, pack over temperature, light by slots.
#pragma once

#include "charge/panelpath.hpp"
#include "solar/nodeinterpolant.hpp"
#include "solar/solar.hpp"

namespace sipper {

/// A whole pack at one temperature.
struct PackAt {
    double ampHours = 0; ///< Q of the whole pack
    double r0 = 0;       ///< ohms of one cell, before the factor by charge
    double r1 = 0;
};

/// A pack over temperature, in small steps and straight between them.
class PackOverAir {
  public:
    PackOverAir(const Pack& pack, double scale);

    [[nodiscard]] PackAt at(double air) const;
    [[nodiscard]] const PackModel& model() const { return m_model; }
    [[nodiscard]] double parallel() const { return m_parallel; }
    [[nodiscard]] double selfShare() const { return m_selfShare; } ///< of Q, 1/h

  private:
    PackModel m_model; ///< what does not move with the air
    double m_parallel;
    double m_selfShare;
    std::vector<PackAt> m_steps;
};

/// A stretch of an hour of the day with one light and one setting.
struct SunSegment {
    double hours = 0;
    std::size_t slot = 0; ///< of the hour, 0 to 5
    std::size_t setting = 0;
    double minute = 0; ///< of the day, where it begins
};

struct SolarSimulation::Impl {
    const Project& project;
    const Weather& weather;
    std::size_t chargerAt;
    std::size_t panelAt;
    std::size_t packAt;
    const Charger& charger;
    const Pack& pack;
    PanelPath way;
    double latitude;
    double typicalAir;
    std::optional<double> chargeFrom; ///< degC between which the cells may be charged
    std::optional<double> chargeTo;
    ChargeLeg leg;
    NodeCharts charts;
    std::vector<std::vector<SunSegment>> day; ///< by hour of the day
    std::vector<float> light;                 ///< on the panel, W/m2, by slot of all years

    Impl(const Project& p, const Weather& w, std::size_t charger_, std::size_t panel,
         std::size_t pack_, const PanelPath& panelWay, double latitudeDeg);

    [[nodiscard]] double airAt(std::size_t hour) const {
        return weather.air.empty() ? typicalAir : static_cast<double>(weather.air[hour]);
    }
    /// The first hour of a run: of day 172, south of the equator 355.
    [[nodiscard]] std::size_t firstHour() const {
        return ((latitude < 0 ? 355 : 172) - 1) * std::size_t{24};
    }
    /// Place in the weather's hours of an hour of the year, in the given year of a run from 0.
    [[nodiscard]] std::size_t placeOf(std::size_t year, std::size_t hourOfYear) const {
        const std::size_t since = (hourOfYear + kHoursAYear - firstHour()) % kHoursAYear;
        return (firstHour() + year * kHoursAYear + since) % weather.ghi.size();
    }
    void makeDay();
    void makeLight();
};

/// W of all the panels and Wh of the whole pack by their labels.
[[nodiscard]] double labelWatts(const Panel& panel);
[[nodiscard]] double labelWattHours(const Pack& pack);
/// V of the whole pack by its cells' label.
[[nodiscard]] double nominalVolts(const Pack& pack);
/// How a panel stands: its own tilt and azimuth, or the latitude's, facing the equator.
[[nodiscard]] PanelOrientation facingOf(const Panel& panel, double latitude);

} // namespace sipper
