// SPDX-License-Identifier: GPL-3.0-or-later
// Sources other than the pack, and which source leads when several are there.
#pragma once

#include "line/network.hpp"

namespace sipper {

/// What a source offers, as `volts - ohms i` up to a limit.
struct SourceModel {
    double volts = 0; ///< typical, with nothing drawn
    double low = 0;   ///< lowest, with nothing drawn
    double high = 0;  ///< highest, with nothing drawn
    double ohms = 0;
    double limit = 0;                  ///< A; 0 where nothing is said
    std::optional<BeyondLimit> beyond; ///< what it does when asked for more
};

inline constexpr double kNoLoadFactor = 1.5; ///< of an unregulated adapter, unless measured
inline constexpr double kSocketVolts = 5.0;
inline constexpr double kSocketTolerance = 0.05; ///< 4.75 to 5.25 V
inline constexpr double kVehicleLow = 9;
inline constexpr double kVehicleVolts = 12.6;
inline constexpr double kVehicleHigh = 16;
inline constexpr double kPlainSocketAmps = 0.5; ///< of a socket that advertises nothing
inline constexpr double kUsualHeadroom = 1.5;   ///< limit over worst draw, unless the brief says

/// Adapters regulated (set_v, tolerance 5 % where left out) and unregulated: V0 - i (V0 - V_rated)
/// / I_rated, V0 = 1.5 V_rated unless measured; a 5 V socket; a vehicle, 9 to 16 V; a pack at half
/// charge (its full and empty volts as the band); a panel by its label at open circuit. Anything
/// else gives 0 V.
[[nodiscard]] SourceModel sourceModel(const Part& part);

/// What a 5 V socket of type C shows on its configuration lines for what it advertises, and what a
/// sink shows: `22k pull-up to 5 V (1.5 A); a sink shows 5.1k to ground on each`. For a plain
/// socket that its class is decided by the data lines.
[[nodiscard]] std::string socketText(const Usb& usb);

/// The feed that leads at each stage when these sources are present: the first live one of its list
/// (docs/model.md: Stages). npos where none is live, and at sources.
[[nodiscard]] std::vector<std::size_t> leadingFeeds(const Project& project,
                                                    const std::vector<std::size_t>& present);

/// Every source but packs and panels that the project has, by index.
[[nodiscard]] std::vector<std::size_t> externalSources(const Project& project);

/// Solves what one source feeds at one moment.
class SourceLine {
  public:
    /// `present`: all the sources that are there, this one among them.
    SourceLine(const Project& project, std::size_t source, const std::vector<std::size_t>& present,
               Celsius ambient);

    [[nodiscard]] const Network& network() const { return m_network; }
    [[nodiscard]] const SourceModel& model() const { return m_model; }
    [[nodiscard]] std::size_t source() const { return m_source; }

    struct Answer {
        bool collapsed = false; ///< it can't carry this at any voltage
        bool limited = false;   ///< more is asked than its limit
        double asked = 0;       ///< A that the line would take without the limit; 0 on a collapse
        Flows flows;            ///< what is left: nothing flows behind a source that gave up
    };
    /// `burst` as in Network::demand. `openCircuit`: volts of the source with nothing drawn. What
    /// opens (an input under its minimum) is opened, from the source outwards.
    [[nodiscard]] Answer solve(std::size_t mode, std::size_t burst, double openCircuit,
                               double seconds);

  private:
    void limit(Answer& answer, const Demand& demand, double openCircuit) const;
    void darken(Flows& flows, double openCircuit) const;

    const Project& m_project;
    std::size_t m_source;
    SourceModel m_model;
    Network m_network;
};

} // namespace sipper
