// SPDX-License-Identifier: GPL-3.0-or-later
// Which modes share which hours of the day.
#pragma once

#include "project/project.hpp"

namespace sipper {

/// One mode's part in a stretch.
struct Share {
    std::size_t mode = 0; ///< index into the project's modes
    double share = 0;     ///< of the stretch, 0–1
    double seconds = 0;   ///< how long it lasts at a time; infinity for the base mode
    bool fills = false;   ///< it fills what the repeating modes leave
};

/// A kind of time: no window open, or the windows of one mode. Modes in file order.
struct ModeMix {
    std::string name; ///< id of the windowed mode, empty where none is open
    std::vector<Share> shares;
    [[nodiscard]] const Share& filler() const;
};

/// A span of the day, minutes after midnight, in one setting.
struct DayInterval {
    double from = 0;
    double to = 0;
    std::size_t setting = 0;
};

struct Schedule {
    std::vector<ModeMix> settings; ///< the first one is: no window open
    std::vector<DayInterval> day;  ///< covers 0 to 1440 without gaps

    explicit Schedule(const Project& project);

    /// Hours of the day in each setting; they add up to 24.
    [[nodiscard]] std::vector<double> hoursBySetting() const;
    /// Share of the day that each of `modes` modes has, by index; they add up to 1.
    [[nodiscard]] std::vector<double> modeShares(std::size_t modes) const;
    /// The setting in which this mode's own window is open, or none (for a base or repeating mode).
    [[nodiscard]] std::size_t settingOf(const Project& project, std::size_t mode) const;
    /// The setting at a minute of the day, and how many minutes it goes on (infinity: for ever).
    struct Now {
        std::size_t setting;
        double minutesLeft;
    };
    [[nodiscard]] Now at(double minute) const;
};

} // namespace sipper
