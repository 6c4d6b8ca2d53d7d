// SPDX-License-Identifier: GPL-3.0-or-later
// What the finder keeps of a project, and the projects that it makes of that: loads with the leads
// and filters right in front of them, modes, brief, and whether there are a fuse, a switch and a
// guard (docs/model.md: Finding a supply).
#pragma once

#include "project/project.hpp"

#include <optional>
#include <vector>

namespace sipper {

/// Loads that stood behind one regulator, or straight on the cells.
struct Rail {
    std::vector<std::size_t> loads; ///< of the project
    std::string id;                 ///< of the regulator that stood there, or a free one
    std::optional<Stage> stood;     ///< that regulator
    bool regulated = false;         ///< there was one
    double set = 0;                 ///< V: as it was, or what the windows have in common
};

struct Requirements {
    Project bare; ///< loads, modes, brief; no stage but the leads and filters, nothing fed yet
    std::vector<Rail> rails;
    std::vector<std::size_t> leadRail; ///< of each stage of `bare`, by its rail
    std::string packId;
    std::optional<Stage> pack; ///< that stood there
    std::vector<Stage>
        line; ///< fuse, switch, guard that stood between, the first of each, in order
    std::vector<Stage> sources; ///< that refilled it: sockets, adapters, panels
    std::optional<CellCare> care;
};

[[nodiscard]] Requirements keptOf(const Project& project);

/// A supply to be put before what was kept.
struct Supply {
    Pack pack;
    std::optional<Stage> fuse;
    std::optional<Stage> guard;
    struct Fed {
        const Stage* regulator = nullptr;  ///< null: straight on the cells
        std::optional<std::size_t> behind; ///< rail whose regulator feeds it
    };
    std::vector<Fed> rails;
};
[[nodiscard]] Project assembleSupply(const Requirements& kept, const Supply& supply);

} // namespace sipper
