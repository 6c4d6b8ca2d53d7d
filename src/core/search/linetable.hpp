// SPDX-License-Identifier: GPL-3.0-or-later
// One supply line solved once over the volts at its pack, for every pack of the same volts to read.
#pragma once

#include "line/network.hpp"
#include "line/schedule.hpp"

#include <array>
#include <optional>

namespace sipper {

/// One line as a pack sees it: what each mode takes over the volts at the pack, and where something
/// ends the run. Neither the pack nor capacitors are in it. It over-estimates runtime: it takes a
/// little less than the line does, and ends a little later.
class LineTable {
  public:
    /// Solves the line behind the project's pack up to `high` volts; `low`: where that is empty.
    LineTable(const Project& project, const Schedule& schedule, Celsius ambient, double low,
              double high);

    /// What one demand takes.
    struct Case {
        double amps = 0;
        double volts = 0; ///< at the pack
        bool ended = false;
    };
    /// One mode of a setting.
    struct Mode {
        double share = 0;
        std::size_t plain = 0;
        std::optional<std::size_t> burst;
        std::vector<std::pair<double, std::size_t>> singles; ///< bursts with their shares
    };
    [[nodiscard]] const std::vector<std::vector<Mode>>& settings() const { return m_settings; }
    [[nodiscard]] std::size_t demands() const { return m_curves.size(); }
    /// A demand behind a source of `volts` and `ohms`: its smallest current. `guess`: amps that it
    /// may be near.
    [[nodiscard]] Case at(std::size_t demand, double volts, double ohms, double guess) const;
    /// Does it take surely less than the other, of the same project and volts, in everything, and
    /// end no sooner?
    [[nodiscard]] bool dominates(const LineTable& other) const;

  private:
    static constexpr std::size_t kNodes = 32;
    struct Curve {
        /// Over the volts: at the lower end of each step, and what is added to its upper one.
        std::array<double, kNodes> watts{};
        std::array<double, kNodes> rise{};
        std::array<double, kNodes> sag{}; ///< four times what it lies under a straight line midway
        double endsUnder = 0;             ///< V
        double endsOver = 0;
    };
    class Maker;
    [[nodiscard]] double wattsOf(const Curve& curve, double volts) const;
    [[nodiscard]] double highestVolts(const Curve& curve, double volts, double ohms) const;
    std::vector<std::vector<Mode>> m_settings;
    std::vector<Curve> m_curves;
    double m_low = 0;
    double m_step = 1;
    double m_scale = 1;
};

} // namespace sipper
