// SPDX-License-Identifier: GPL-3.0-or-later
// Ways by which one source can push into another, or the cells into a panel or a socket.
#pragma once

#include "project/project.hpp"

namespace sipper {

enum class BackfeedKind {
    sources, ///< one source into another where they meet
    night,   ///< the cells into a dark panel
    socket,  ///< the cells onto the contacts of an unplugged socket or adapter
    packs    ///< one pack into another
};

/// One such way (docs/model.md: Protection).
struct BackfeedPath {
    BackfeedKind kind = BackfeedKind::sources;
    std::string from;             ///< id of the source that pushes
    std::string into;             ///< id of the source that is pushed into
    std::string meet;             ///< id of the stage that lets it through
    std::vector<std::string> way; ///< ids of the stages between, from the pushing one
    double volts = 0;             ///< between them, at its worst
    double amps = 0;              ///< over what ohms are stated on the way; 0 into open contacts
    bool unlimited = false;       ///< no ohms are stated anywhere on it
};
/// Every one, in file order. What converts is taken to block, and so are diodes, ideal diodes and
/// selectors that say so.
[[nodiscard]] std::vector<BackfeedPath> backfeedPaths(const Project& project);

} // namespace sipper
