// All that is known of a project's protection, in one look.
#pragma once

#include "protect/backfeed.hpp"
#include "protect/currents.hpp"
#include "protect/dividers.hpp"
#include "protect/faults.hpp"
#include "protect/rebound.hpp"

#include <stop_token>

namespace sipper {

struct ProtectLook {
    std::vector<GuardLook> guards;
    std::vector<GuardPoint> pack; ///< at the pack, where there is no guard
    std::vector<FuseWindow> fuses;
    std::vector<Stretch> stretches;
    FaultGrid faults;
    std::vector<Push> pushes;
    std::vector<DividerPlace> dividers;
};
/// Everything of this folder for one project; nothing when `stop` was asked for. `seen` without
/// a survey: no cells.
[[nodiscard]] std::optional<ProtectLook> protectLook(const Project& project, const Runtime& runtime,
                                                     const Seen& seen,
                                                     const std::stop_token& stop = {});

} // namespace sipper
