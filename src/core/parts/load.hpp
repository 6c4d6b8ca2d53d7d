// SPDX-License-Identifier: GPL-3.0-or-later
// Modes, loads and the brief.
#pragma once

#include "parts/stage.hpp"

#include <array>

namespace sipper {

/// One state of the device (docs/model.md: Modes and loads). Exactly one of the three kinds: the
/// base mode; a repeating one (`duration`, `every`); one in daily windows.
struct Mode {
    std::string id;
    std::string label;
    std::optional<bool> base;
    std::optional<Seconds> duration;
    std::optional<Seconds> every;
    std::vector<std::pair<std::string, std::string>> daily; ///< `21:00`–`01:00`
    std::string within;                                     ///< id of a windowed mode
    Extras extras;
    bool operator==(const Mode&) const = default;

    [[nodiscard]] bool isBase() const { return base.value_or(false); }
    [[nodiscard]] bool isWindowed() const { return !daily.empty(); }
    [[nodiscard]] bool repeats() const { return duration.has_value(); }
};

/// Minutes after midnight of `HH:MM` (00:00 to 24:00), or nothing.
[[nodiscard]] std::optional<int> clockMinutes(std::string_view text);
/// `HH:MM` of minutes after midnight; whole days drop off.
[[nodiscard]] std::string clockText(double minutes);

/// The share that a figure of a basis may be off: 5, 15, 40 %.
[[nodiscard]] double toleranceOfBasis(Basis basis);

/// What a load accepts.
struct Window {
    Volts min{0};
    std::optional<Volts> nominal; ///< the middle where left out
    Volts max{0};
    std::optional<Volts> neverAbove;
    Extras extras;
    bool operator==(const Window&) const = default;
    [[nodiscard]] Volts middle() const { return nominal.value_or((min + max) / 2); }
};

/// What a load draws in one mode: exactly one of current, power, resistance and light string. A
/// burst by amps, or by the ohms of a winding.
struct Draw {
    std::string mode;
    std::optional<Amps> current;
    std::optional<Watts> power;
    std::optional<Ohms> resistance;
    std::optional<Amps> led;       ///< of a light string, at the window's nominal
    std::optional<Volts> ledVolts; ///< where it goes dark
    std::optional<Amps> burst;     ///< at the load, in place of the draw
    std::optional<Ohms> burstOhms; ///< or by its winding: the load's volts over this
    std::optional<Seconds> burstTime;
    std::optional<PerSecond> burstsPerSecond;
    std::optional<Basis> basis;
    std::optional<double> tolerance;
    Extras extras;
    bool operator==(const Draw&) const = default;

    /// The share by which the draw may be off: as given, or 5, 15, 40 % by basis (a guess where
    /// nothing is said).
    [[nodiscard]] double relativeTolerance() const;
    [[nodiscard]] bool hasBurst() const { return burst || burstOhms; }
};

struct Load {
    std::string id;
    std::string label;
    std::string fedBy;
    std::optional<bool> critical;
    std::optional<bool> noiseSensitive;
    std::optional<bool> resetProne;
    std::optional<bool> gauge;    ///< it reads the charge of its own cells from their volts
    std::optional<bool> precious; ///< worth protecting from one fault
    std::optional<Farads> inputCap;
    std::optional<double> price;
    std::optional<Grams> mass;
    std::optional<Connector> connector;
    Window window;
    std::vector<Draw> draws;
    Extras extras;
    bool operator==(const Load&) const = default;

    [[nodiscard]] bool isCritical() const { return critical.value_or(true); }
    [[nodiscard]] bool resets() const { return resetProne.value_or(isCritical()); }
};

[[nodiscard]] std::string nameOf(const Load& load);
[[nodiscard]] std::string nameOf(const Mode& mode);

struct Ambient {
    std::optional<Celsius> low;
    std::optional<Celsius> typical;
    std::optional<Celsius> high;
    Extras extras;
    bool operator==(const Ambient&) const = default;
    [[nodiscard]] Celsius usual() const { return typical.value_or(Celsius{25}); }
    [[nodiscard]] Celsius coldest() const { return low.value_or(usual()); }
    [[nodiscard]] Celsius warmest() const { return high.value_or(usual()); }
};

struct Brief {
    std::optional<Setting> setting;
    std::optional<Hours> targetRuntime;
    std::optional<std::string> startTime;
    std::optional<Ambient> ambient;
    std::optional<double> headroom;
    std::optional<CellCare> cellCare;
    std::optional<double> shelfMonths;
    std::optional<Degrees> latitude;
    std::optional<std::vector<std::string>> refilledBy;
    std::optional<std::string> climate;
    std::optional<Grams> weightLimit;
    std::optional<double> priceLimit;
    std::optional<KelvinPerWatt> box;          ///< a closed box, over the air outside
    std::optional<std::array<double, 3>> room; ///< mm, for the cells: length, width, height
    Extras extras;
    bool operator==(const Brief&) const = default;

    [[nodiscard]] Ambient air() const { return ambient.value_or(Ambient{}); }
    /// Minutes after midnight at which a run starts; 0 where nothing is said.
    [[nodiscard]] int startMinutes() const {
        return clockMinutes(startTime.value_or("00:00")).value_or(0);
    }
};

} // namespace sipper
