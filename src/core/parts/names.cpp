// SPDX-License-Identifier: GPL-3.0-or-later
#include "parts/names.hpp"

#include <algorithm>

namespace sipper {

#define SIPPER_NAMES(E, ...)                                                                       \
    template <>                                                                                    \
    std::span<const std::string_view> namesOf<E>() {                                               \
        static constexpr std::array names = std::to_array<std::string_view>({__VA_ARGS__});        \
        return names;                                                                              \
    }

SIPPER_NAMES(Setting, "desk", "portable", "worn", "vehicle", "outdoor")
SIPPER_NAMES(CellCare, "squeeze", "balanced", "gentle")
SIPPER_NAMES(Chemistry, "lithium-nickel-cobalt", "lithium-cobalt", "lithium-manganese",
             "lithium-iron-phosphate", "lithium-titanate", "nickel-metal-hydride", "nickel-cadmium",
             "lead-acid", "alkaline", "zinc-carbon", "lithium-iron-disulphide",
             "lithium-manganese-dioxide", "lithium-thionyl-chloride", "other")
SIPPER_NAMES(Basis, "measured", "data_sheet", "guess")
SIPPER_NAMES(Topology, "linear", "buck", "boost", "buck_boost", "direct")
SIPPER_NAMES(FuseSpeed, "fast", "slow")
SIPPER_NAMES(FuseForm, "glass", "blade", "resettable")
SIPPER_NAMES(DropoutKind, "bipolar", "fet")
SIPPER_NAMES(Regulates, "volts", "current")
SIPPER_NAMES(BeyondLimit, "hiccup", "hold", "fold", "latch")
SIPPER_NAMES(Origin, "new", "salvaged")
SIPPER_NAMES(Holder, "none", "bare", "protected")
SIPPER_NAMES(CellTop, "flat", "button")
SIPPER_NAMES(ChargeEnd, "end_current", "timer", "delta_v", "delta_t", "three_stage")
SIPPER_NAMES(Polarity, "positive", "negative", "unknown")
SIPPER_NAMES(CheckKind, "open_circuit", "set_point", "current_limit", "idle", "draw", "sag",
             "cutoff", "reconnect", "warmest", "charge_current", "charge_end", "point")
SIPPER_NAMES(PointQuantity, "v_in", "i_in", "v_out", "i_out", "part_c", "v", "i")

#undef SIPPER_NAMES

std::string listed(std::span<const std::string_view> names) {
    std::string text;
    for (const std::string_view name : names)
        text += (text.empty() ? "" : ", ") + std::string(name);
    return text;
}

bool isRechargeableLithium(Chemistry chemistry) {
    switch (chemistry) {
    case Chemistry::nickelCobalt:
    case Chemistry::cobalt:
    case Chemistry::manganese:
    case Chemistry::ironPhosphate:
    case Chemistry::titanate:
        return true;
    default:
        return false;
    }
}

std::string chemistryText(Chemistry chemistry) {
    std::string text(nameOf(chemistry));
    std::replace(text.begin(), text.end(), '-', ' ');
    return text;
}

} // namespace sipper
