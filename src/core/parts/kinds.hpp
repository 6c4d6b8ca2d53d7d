// SPDX-License-Identifier: GPL-3.0-or-later
// The one table of kinds of stages: what a kind is called, how it is drawn, what it may stand in
// for, and what is true of every part of it. A new kind is a row here, its figures in
// parts/stage.hpp with their field table, and its physics in line/physics.cpp.
#pragma once

#include "parts/stage.hpp"

#include <span>

namespace sipper {

/// In the order of the format's description. A switching regulator's kind is its topology.
enum class Kind {
    pack,
    adapter,
    usb,
    vehicle,
    panel,
    guard,
    fuse,
    switchgear,
    wire,
    diode,
    idealDiode,
    filter,
    capacitor,
    crowbar,
    clamp,
    watch,
    select,
    linear,
    buck,
    boost,
    buckBoost,
    charger
};

/// How a kind is drawn on the supply line.
enum class Glyph { cells, threshold, card, pill };

/// The shelf of the library on which a kind lies, which is also the test of the library's filter
/// that it passes.
enum class Section { cells, sources, regulators, guards, wiring, paths };

/// Which kinds may stand in for each other.
enum class InterchangeClass {
    cells,
    mains,
    panel,
    guard,
    fuse,
    switchgear,
    lead,
    oneWay,
    filter,
    capacitor,
    shunt,
    watch,
    select,
    regulator,
    charger
};

/// How the watts that a part burns are worked out: not at all, as ohms and a drop in the way, as
/// what a linear regulator drops, or by the loss terms of a converter (docs/model.md: Stages).
enum class LossRule { none, series, dropped, converter };

/// Where the line can take a new one: at its beginning, between two, or only by swapping and files.
enum class Offer { source, inLine, none };

struct KindFacts {
    Kind kind;
    std::string_view name;    ///< in files
    std::string_view words;   ///< in a sentence: `buck-boost regulator`
    std::string_view heading; ///< over its column on the line
    std::string_view choice;  ///< in a menu: `Buck (steps down)`
    Glyph glyph;
    Section section;
    InterchangeClass trade;
    LossRule losses;
    Offer offer;
    bool source;       ///< nothing feeds it
    bool setPoint;     ///< it regulates its output to a set-point
    bool severalFeeds; ///< it takes a list in `fed_by`
    Part (*fresh)();   ///< with the usual figures of its kind
};

/// Every kind once, in the order of `Kind`.
[[nodiscard]] std::span<const KindFacts> kinds();
[[nodiscard]] const KindFacts& factsOf(Kind kind);
[[nodiscard]] Kind kindOf(const Part& part);
/// The row of what `part` holds.
[[nodiscard]] const KindFacts& kindFacts(const Part& part);
/// The kind of this name in files, or nothing: an unknown name is never guessed at.
[[nodiscard]] std::optional<Kind> kindNamed(std::string_view name);
/// `pack`, `buck_boost`, …: the name of the part's kind in files.
[[nodiscard]] std::string_view kindName(const Part& part);
/// The kind in words: `buck-boost regulator`.
[[nodiscard]] std::string kindText(const Part& part);
/// A part of the kind of this name with nothing set, or nothing for an unknown name.
[[nodiscard]] std::optional<Part> partOfKind(std::string_view name);
/// A part of this kind with nothing set.
[[nodiscard]] Part emptyPart(Kind kind);
/// `pack, adapter, …`: for messages.
[[nodiscard]] std::string kindNames();

/// Packs, adapters, sockets, vehicles and panels: nothing feeds them.
[[nodiscard]] bool isSource(const Part& part);
/// Linear and switching regulators.
[[nodiscard]] bool isRegulator(const Part& part);
/// Sources besides packs and panels: what hangs on the mains, a socket or a vehicle.
[[nodiscard]] bool isExternalSource(const Part& part);
[[nodiscard]] bool isPack(const Part& part);
[[nodiscard]] bool isCharger(const Part& part);
[[nodiscard]] std::string_view nameOf(Section section);

} // namespace sipper
