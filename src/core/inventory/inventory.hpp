// SPDX-License-Identifier: GPL-3.0-or-later
// The user's own cells: what each was measured to hold, which to throw away, and which belong
// together in a pack (docs/model.md: Bench: cells to hand).
#pragma once

#include "project/library.hpp"

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace sipper {

/// Volts of a cell at rest, on a day.
struct RestingVolts {
    std::string when; ///< `2031-04-02`
    double volts = 0;
    bool operator==(const RestingVolts&) const = default;
};

/// One cell, or several that are alike and were measured alike.
struct OwnedCell {
    std::string id;
    std::string type; ///< id of a library cell, where it is one
    std::string size;
    Chemistry chemistry = Chemistry::other;
    std::optional<double> labelAh;
    std::optional<double> ah;   ///< measured
    std::optional<double> ohms; ///< measured
    std::vector<RestingVolts> rests;
    std::string when;  ///< of the measurement
    bool warm = false; ///< grew warm where the others did not
    std::string note;
    bool operator==(const OwnedCell&) const = default;
};

/// The inventory as JSON (`{"format": "sipper-cells", "version": 1, "cells": [...]}`) and back.
/// Errors name the cell and the key.
[[nodiscard]] std::string drawerText(const std::vector<OwnedCell>& cells);
[[nodiscard]] Outcome<std::vector<OwnedCell>> readDrawer(std::string_view text);
/// The inventory as CSV: id, type, size, chemistry, label_ah, capacity_ah, ohm, rest_v, rest_when,
/// again_v, again_when, when, warm, note. A header is needed; unknown columns are passed over;
/// errors name row and column. Semicolons and decimal commas are understood.
[[nodiscard]] std::string drawerCsv(const std::vector<OwnedCell>& cells);
[[nodiscard]] Outcome<std::vector<OwnedCell>> readDrawerCsv(std::string_view text);
/// Either, by the first character.
[[nodiscard]] Outcome<std::vector<OwnedCell>> readCells(std::string_view text);
/// The same from a file, which an error names.
[[nodiscard]] Outcome<std::vector<OwnedCell>> readCellFile(const std::filesystem::path& path);

/// The library's cell that it is most like: its type, else of its size and chemistry the one whose
/// capacity is nearest, else of its chemistry. Null where there is none.
[[nodiscard]] const LibraryPart* typeOf(const OwnedCell& cell, const Library& library);

/// Share of the capacity that it loses by itself in a month, from two resting volts a week apart
/// at least, by the open-circuit curve of its type. Nothing where that can't be known.
[[nodiscard]] std::optional<double> selfDischargeOf(const OwnedCell& cell, const LibraryPart* type);

struct CellAssessment {
    std::optional<double> health; ///< measured over the label
    std::optional<double> lossPerMonth;
    std::vector<std::string> discardReasons; ///< why; empty: keep it
};
/// Discard criteria: under 60 % of its label, over twice the resistance of its type, warm, or over
/// 10 % a month lost (rules of thumb for cells of unknown past).
[[nodiscard]] CellAssessment judge(const OwnedCell& cell, const Library& library);

struct CellMatch {
    std::vector<std::vector<std::size_t>> groups; ///< indices into the cells
    std::vector<double> ah;                       ///< of each group
    std::vector<double> ohms;                     ///< of each group, in parallel; 0: not known
    std::size_t weakest = 0;
    double packAh = 0;    ///< what the weakest lets the pack give
    double lostShare = 0; ///< of the mean group's, that the others keep back
};
/// `series` groups of `parallel` cells from those of `among` that were measured: the strongest, so
/// dealt that the weakest group is as strong as can be found and the groups are as equal; where
/// capacities allow it within 0.5 %, resistances too. Deterministic. Errors: "too_few", with how
/// many there are.
[[nodiscard]] Outcome<CellMatch> matchCells(const std::vector<OwnedCell>& cells,
                                            const std::vector<std::size_t>& among,
                                            std::size_t series, std::size_t parallel);

/// The pack so made, as measured: the type's cell with the mean capacity, resistance and the
/// weakest group. Null type: a cell of its chemistry is not in the library.
[[nodiscard]] Pack packOf(const std::vector<OwnedCell>& cells, const CellMatch& match,
                          const LibraryPart& type);

} // namespace sipper
