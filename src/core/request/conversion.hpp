// SPDX-License-Identifier: GPL-3.0-or-later
// What stands between what people have and what they need: by the volts that a source really gives,
// from full to its cut-off.
#pragma once

#include "base/outcome.hpp"
#include "project/project.hpp"

#include <array>
#include <string>
#include <string_view>

namespace sipper {

enum class SourceKind { lithium, twoLithium, fourRound, toolPack, socket, adapter, vehicle, sun };
inline constexpr std::size_t kHaves = 8;

struct HaveBand {
    SourceKind have = SourceKind::lithium;
    std::string_view name; ///< `one lithium cell`
    double low = 0;        ///< V: at the balanced cut-off, or by its tolerance
    double high = 0;       ///< V: full, or by its tolerance
};
/// The bands of all of them, cells by the chemistry's own volts (parts/chemistry), the others by
/// the source model (line/sources). The sun has none of its own: it needs cells.
[[nodiscard]] const std::array<HaveBand, kHaves>& haveBands();

/// Volts that people want.
inline constexpr std::array<double, 6> kTargetVolts{3.3, 5, 6, 9, 12, 24};

enum class Conversion { straight, dropOut, buck, boost, both, notWithout };

struct ConversionAdvice {
    Conversion stands = Conversion::straight;
    std::string text;   ///< `drop-out`, `both ways`, `not without cells`
    std::string why;    ///< one sentence with the numbers
    std::string recipe; ///< name of the recipe that it is like
};

/// What stands between. Wanted is what a load takes, 5 % either way (10 % under 4.9 V). A drop-out
/// regulator is said where it keeps 0.3 V of room and turns less than a third to heat; up more than
/// five times is said to be not without more cells.
[[nodiscard]] ConversionAdvice betweenOf(SourceKind have, double volts);

/// The recipe of a field, made over: its source is what there is, its first load takes these volts,
/// and what `betweenOf` says stands between. Errors: those of reading the recipe.
[[nodiscard]] Outcome<Project> fittedRecipe(SourceKind have, double volts);

} // namespace sipper
