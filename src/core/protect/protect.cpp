#include "protect/protect.hpp"

#include "project/tree.hpp"

namespace sipper {

std::optional<ProtectLook> protectLook(const Project& project, const Runtime& runtime,
                                       const Seen& seen, const std::stop_token& stop) {
    ProtectLook look;
    look.guards = guardsOf(project, runtime, seen.survey ? seen.survey->stop : std::nullopt);
    if (look.guards.empty() && project.pack() && !project.modes.empty()) {
        const std::size_t mode = modeIndex(project, runtime.ending.mode);
        look.pack = packCurve(project, mode == kNowhere ? project.baseMode() : mode);
    }
    if (stop.stop_requested())
        return std::nullopt;
    look.fuses = fuseWindows(project, seen);
    look.stretches = stretchesOf(project, seen);
    look.faults = faultsOf(project);
    if (stop.stop_requested())
        return std::nullopt;
    look.pushes = pushesOf(project);
    look.dividers = dividerPlaces(project);
    return look;
}

} // namespace sipper
