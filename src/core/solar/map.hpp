// SPDX-License-Identifier: GPL-3.0-or-later
// More or less panel against more or less pack: what each pair misses, and from where on nothing.
#pragma once

#include "base/parallelfor.hpp"
#include "solar/solar.hpp"

namespace sipper {

struct SizingMap {
    static constexpr std::size_t kSide = 24;
    static constexpr std::size_t kOwn = 12;   ///< where the project itself stands, on both sides
    static constexpr double kPerDoubling = 6; ///< steps: the project's x 2^((k - 12)/6)

    struct Field {
        double lossOfLoadHours = 0; ///< h over all years
        bool known = false;
        bool solved = false; ///< run; else decided by its neighbours
    };
    std::size_t years = 1;
    std::array<double, kSide> panelW{};
    std::array<double, kSide> packWh{};
    std::array<Field, kSide * kSide> fields{}; ///< by panel, then pack
    /// For 1, 3 and 10 years: the least pack, by panel, that misses nothing; nothing where even the
    /// largest does.
    std::map<std::size_t, std::array<std::optional<std::size_t>, kSide>> least;
    double share = 0; ///< of the work that is done

    [[nodiscard]] const Field& at(std::size_t panel, std::size_t pack) const {
        return fields[panel * kSide + pack];
    }
    [[nodiscard]] Field& at(std::size_t panel, std::size_t pack) {
        return fields[panel * kSide + pack];
    }
    [[nodiscard]] static double scaleOf(std::size_t k);
};

struct SizingMapOptions {
    std::size_t years = 1;
    std::vector<std::size_t> lines{1, 3, 10}; ///< years of the lines of nothing missed
};

/// Hears of the map as it fills in, from coarse to fine; from any thread, one at a
/// time.
using SunMapHeard = std::function<void(const SizingMap&)>;

/// Fields that lie over and beside fields that miss nothing miss nothing; fields between ones that
/// nearly agree are read between them; the rest and the lines are run. Nothing where it was
/// stopped.
[[nodiscard]] Outcome<std::unique_ptr<SizingMap>>
sunMapOf(const Project& project, const Weather& weather, const std::string& charger,
         const SizingMapOptions& ask = {}, const ParallelFor& parallelFor = twoThreadFor,
         const SunMapHeard& heard = {}, const std::stop_token& stop = {});

} // namespace sipper
