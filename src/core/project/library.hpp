// SPDX-License-Identifier: GPL-3.0-or-later
// The parts that ship with Sipper (data/parts), read when asked for.
#pragma once

#include "project/reader.hpp"

#include <filesystem>

namespace sipper {

/// One entry of the library: a stage that stands for its part, without place in a line. A cell is
/// a pack of one.
struct LibraryPart {
    std::string name; ///< of its file, without the ending
    Stage stage;
    std::string note;                 ///< what it is good at, in one line
    std::string basis;                ///< measured, data_sheet, guess; empty where nothing is said
    std::vector<std::string> guessed; ///< figures whose basis is a guess all the same
    bool own = false;                 ///< from the user's folder
};

struct Library {
    std::vector<LibraryPart> parts; ///< by name, the user's own after the shipped ones
    std::vector<Error> skipped;     ///< files that could not be read, each with its reason
    [[nodiscard]] const LibraryPart* find(std::string_view name) const;
};

/// Reads data/cells, data/parts and the user's folder (none: leave it empty). A file that breaks
/// the format is named in `skipped`; the rest is read.
[[nodiscard]] Library loadLibrary(const std::filesystem::path& userFolder = {});

/// The parts that ship, read when first asked for: they do not change while the program runs.
[[nodiscard]] const Library& shippedLibrary();
/// Where a computation takes parts from: its caller says, and it is read when the first is wanted.
using LibrarySource = const Library& (*)();

/// One part file, its label also its make; with the file named in an error.
[[nodiscard]] Outcome<LibraryPart> loadPart(const std::filesystem::path& path);

/// The stage as a part file, with note and basis: what `loadPart` reads.
[[nodiscard]] std::string partText(const Stage& stage, const std::string& note,
                                   const std::string& basis);

/// A file name from a label: small letters, digits and hyphens.
[[nodiscard]] std::string partFileName(std::string_view label);

/// Writes a part into the folder, which is made where it is missing, under a name that is free or
/// already this part's. The error of a failed write.
[[nodiscard]] std::optional<Error> savePart(const std::filesystem::path& folder,
                                            const LibraryPart& part);

/// The part `name` of data/parts as a stage fed by `fedBy` with the id `id`; an error names the
/// file.
[[nodiscard]] Outcome<Stage> shippedPart(std::string_view name, const std::string& id,
                                         const std::string& fedBy);

/// An id that no stage or load has yet: `wanted`, or with a number behind it.
[[nodiscard]] std::string freeId(const Project& project, const std::string& wanted);

/// An id that no mode has yet.
[[nodiscard]] std::string freeModeId(const Project& project);

} // namespace sipper
