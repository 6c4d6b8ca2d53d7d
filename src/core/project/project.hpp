// SPDX-License-Identifier: GPL-3.0-or-later
// The whole document, a value.
#pragma once

#include "base/outcome.hpp"
#include "parts/load.hpp"
#include "parts/reading.hpp"

namespace sipper {

/// Another supply for the same brief: a whole one, so that it can be run by itself.
struct Variant {
    std::string name; ///< short, one of its own: `B`
    std::vector<Mode> modes;
    std::vector<Stage> stages;
    std::vector<Load> loads;
    Extras extras;
    bool operator==(const Variant&) const = default;
};

struct Project {
    std::string name;
    std::string notes;
    Brief brief;
    std::vector<Mode> modes;
    std::vector<Stage> stages;
    std::vector<Load> loads;
    Readings readings;
    std::string variant;           ///< the name of this supply among its variants; `A` where empty
    std::vector<Variant> variants; ///< the others (project/variants.hpp)
    Extras extras;

    bool operator==(const Project&) const = default;

    [[nodiscard]] const Stage* stage(std::string_view id) const;
    [[nodiscard]] Stage* stage(std::string_view id);
    [[nodiscard]] const Load* load(std::string_view id) const;
    [[nodiscard]] Load* load(std::string_view id);
    [[nodiscard]] const Mode* mode(std::string_view id) const;
    /// Index of the base mode; a checked project has exactly one.
    [[nodiscard]] std::size_t baseMode() const;
    /// The first pack, or null.
    [[nodiscard]] const Stage* packStage() const;
    [[nodiscard]] const Pack* pack() const;
    /// Ids of what stands directly behind this stage: stages first, then loads.
    [[nodiscard]] std::vector<std::string> fedFrom(std::string_view id) const;
    /// Grams of all cells, stages and loads whose mass is known.
    [[nodiscard]] double massGrams() const;
    /// Price of all cells, stages and loads whose price is known.
    [[nodiscard]] double totalPrice() const;
};

/// What one supply must keep besides the shape of each value: unique ids, feeds that exist, no
/// loops, one base mode, shares of at most one. Nothing when all is well; otherwise the first
/// trouble with its JSON pointer. Variants and readings are not looked at.
[[nodiscard]] std::optional<Error> checkSupply(const Project& project);

/// What the readings of a document must keep (docs/model.md: Bench): ids of their own, places and
/// modes that one of its supplies has, corrections of what came before.
[[nodiscard]] std::optional<Error> checkReadings(const Project& document);

/// The whole document: `checkSupply` of the one at the top and of every variant, their names, and
/// `checkReadings`.
[[nodiscard]] std::optional<Error> checkProject(const Project& project);

} // namespace sipper
