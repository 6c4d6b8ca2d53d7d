// SPDX-License-Identifier: GPL-3.0-or-later
// The named values of a project file: enumerations whose spelling in files is fixed.
#pragma once

#include <array>
#include <optional>
#include <span>
#include <string>
#include <string_view>

namespace sipper {

enum class Setting { desk, portable, worn, vehicle, outdoor };
enum class CellCare { squeeze, balanced, gentle };
enum class Chemistry {
    nickelCobalt,
    cobalt,
    manganese,
    ironPhosphate,
    titanate,
    nickelMetalHydride,
    nickelCadmium,
    leadAcid,
    alkaline,
    zincCarbon,
    ironDisulphide,
    manganeseDioxide,
    thionylChloride,
    other
};
enum class Basis { measured, dataSheet, guess };
/// `direct`: a charger that is no more than a diode and a resistor.
enum class Topology { linear, buck, boost, buckBoost, direct };
enum class FuseSpeed { fast, slow };
/// How a fuse is built; one that resets itself limits, and closes again when it has cooled.
enum class FuseForm { glass, blade, resettable };
enum class DropoutKind { bipolar, fet };
enum class Regulates { volts, current };
enum class BeyondLimit { hiccup, hold, fold, latch };
enum class Origin { fresh, salvaged };
enum class Holder { none, bare, protectedCell };
enum class CellTop { flat, button };
enum class ChargeEnd { endCurrent, timer, deltaV, deltaT, threeStage };
enum class Polarity { positive, negative, unknown };
/// What a reading of the bench checks, in the order of the bench.
enum class CheckKind {
    openCircuit,
    setPoint,
    currentLimit,
    idle,
    draw,
    sag,
    cutoff,
    reconnect,
    warmest,
    chargeCurrent,
    chargeEnd,
    point
};
/// What a `point` reads; the last two are a load's.
enum class PointQuantity { vIn, iIn, vOut, iOut, partC, v, i };

/// The spellings of an enumeration in files, in the order of its values.
template <class E>
[[nodiscard]] std::span<const std::string_view> namesOf();

template <class E>
[[nodiscard]] std::string_view nameOf(E value) {
    return namesOf<E>()[static_cast<std::size_t>(value)];
}

/// The value of this spelling, or nothing: an unknown name is never guessed at.
template <class E>
[[nodiscard]] std::optional<E> valueOf(std::string_view name) {
    const auto names = namesOf<E>();
    for (std::size_t i = 0; i < names.size(); ++i)
        if (names[i] == name)
            return static_cast<E>(i);
    return std::nullopt;
}

/// `desk, portable, worn`: for messages.
[[nodiscard]] std::string listed(std::span<const std::string_view> names);

/// Lithium cells that take lasting harm from deep discharge and can burn when abused.
[[nodiscard]] bool isRechargeableLithium(Chemistry chemistry);

/// The chemistry in words: `lithium iron phosphate`.
[[nodiscard]] std::string chemistryText(Chemistry chemistry);

} // namespace sipper
