// SPDX-License-Identifier: GPL-3.0-or-later
// What stands before a charger: its source, the way from there, and what else hangs on it.
#pragma once

#include "line/curve.hpp"
#include "line/sources.hpp"

namespace sipper {

/// Volts and amps before a charger that takes a current.
struct FeedPoint {
    double volts = 0;       ///< at the charger's input
    double sourceVolts = 0; ///< at the source's terminals
    double sourceAmps = 0;  ///< with what else hangs on the source
};

/// The source of a charger and the way to it in one mode. Loads that a selector gives to that
/// source (a power path) take their share of it.
class ChargerInput {
  public:
    /// `charger` and `source` are places in the project's stages; the source must feed it. With
    /// `alike` chargers of the same pack on that source, this one has its share of the source.
    ChargerInput(const Project& project, std::size_t charger, std::size_t source, std::size_t mode,
                 Celsius ambient, int alike = 1);

    [[nodiscard]] const SourceModel& source() const { return m_source; }
    /// Volts at the charger's input with nothing drawn by it: typical, and the highest.
    [[nodiscard]] double noLoadVolts() const { return m_noLoad; }
    [[nodiscard]] double highVolts() const { return m_high; }
    /// Amps that the source gives past the charger, with the charger off.
    [[nodiscard]] double others() const { return m_others; }

    /// Nothing where the way can't carry that.
    [[nodiscard]] std::optional<FeedPoint> at(double inputAmps) const;
    /// The same with the source's terminals at lower volts: one that holds its current.
    [[nodiscard]] std::optional<FeedPoint> inCurrentLimit(double inputVolts,
                                                          double inputAmps) const;
    /// Every part of the way and every load on it, for the ledger; `flows` as in the project.
    [[nodiscard]] bool flowsAt(double inputAmps, Flows& flows) const;
    /// The project in which the charger is a load of this id, its stages in `flowsAt`'s order.
    [[nodiscard]] const Project& project() const { return m_project; }
    [[nodiscard]] const Network& network() const { return m_network; }

  private:
    [[nodiscard]] const Demand& demandOf(double inputAmps) const;
    [[nodiscard]] std::optional<FeedPoint> solved(double inputAmps) const;
    void lookForPlainWay();
    void tabulate();

    Project m_project; ///< the charger as a load, the other chargers gone
    SourceModel m_source;
    std::size_t m_sourceIndex = 0;
    std::size_t m_asLoad = 0;
    Network m_network;
    mutable Demand m_demand;
    bool m_regulated = false; ///< a regulator stands before the charger
    bool m_plain = false;     ///< nothing but ohms and drops on the way, and nothing else on it
    double m_ohms = 0;
    double m_drops = 0;
    double m_noLoad = 0;
    double m_high = 0;
    double m_others = 0;
    mutable Flows m_flows;
    // What the way gives over the charger's amps, where it is not plain: solved once.
    double m_most = 0; ///< A that it carries at all
    Curve m_volts;
    Curve m_terminals;
    Curve m_amps;
};

} // namespace sipper
