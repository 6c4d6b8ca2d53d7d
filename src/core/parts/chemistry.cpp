// SPDX-License-Identifier: GPL-3.0-or-later
#include "parts/chemistry.hpp"

#include "parts/cell.hpp"

#include <array>

namespace sipper {

const ChemistryVolts& voltsOf(Chemistry chemistry) {
    static constexpr ChemistryVolts lithium{4.2, 3.7, 3.0, 2.65, 3.0, 3.25};
    static constexpr std::array<ChemistryVolts, 14> table{{
        lithium,                             // nickel-cobalt
        lithium,                             // cobalt
        lithium,                             // manganese
        {3.45, 3.2, 2.5, 2.0, 2.5, 2.9},     // iron phosphate
        {2.7, 2.4, 1.8, 1.5, 1.8, 2.0},      // titanate
        {1.42, 1.2, 1.0, 0.9, 1.0, 1.1},     // nickel-metal hydride
        {1.40, 1.2, 1.0, 0.9, 1.0, 1.1},     // nickel-cadmium
        {2.14, 2.0, 1.83, 1.75, 1.83, 1.95}, // lead-acid
        {1.6, 1.5, 0.9, 0.8, 0.9, 1.0},      // alkaline
        {1.6, 1.5, 0.9, 0, 0, 0},            // zinc-carbon
        {1.8, 1.5, 0.9, 0, 0, 0},            // lithium iron disulphide
        {3.3, 3.0, 2.0, 0, 0, 0},            // lithium manganese dioxide
        {3.67, 3.6, 3.0, 0, 0, 0},           // lithium thionyl chloride
        {0, 0, 0, 0, 0, 0},                  // other: nothing is known
    }};
    return table[static_cast<std::size_t>(chemistry)];
}

double nominalOf(const Cell& cell) {
    return cell.nominal ? cell.nominal->value() : voltsOf(cell.chemistry).nominal;
}

double floorVolts(Chemistry chemistry) {
    constexpr double kLithium = 2.5;
    switch (chemistry) {
    case Chemistry::nickelCobalt:
    case Chemistry::cobalt:
    case Chemistry::manganese:
        return kLithium;
    default:
        return voltsOf(chemistry).squeeze;
    }
}

CycleBand fullCycles(Chemistry chemistry) {
    switch (chemistry) {
    case Chemistry::nickelCobalt:
    case Chemistry::manganese:
        return {600, 1000};
    case Chemistry::cobalt:
        return {500, 900};
    case Chemistry::ironPhosphate:
        return {1500, 3000};
    case Chemistry::titanate:
        return {5000, 12000};
    case Chemistry::nickelMetalHydride:
        return {300, 800};
    case Chemistry::nickelCadmium:
        return {500, 1000};
    case Chemistry::leadAcid:
        return {150, 350};
    default:
        return {0, 0};
    }
}

CalendarLife calendarLife(Chemistry c) {
    if (isRechargeableLithium(c))
        return {8, 12, 0};
    switch (c) {
    case Chemistry::nickelMetalHydride:
    case Chemistry::nickelCadmium:
        return {5, 8, 0};
    case Chemistry::leadAcid:
        return {4, 8, 6};
    case Chemistry::alkaline:
        return {7, 10, 0};
    case Chemistry::zincCarbon:
        return {2, 4, 0};
    case Chemistry::ironDisulphide:
    case Chemistry::thionylChloride:
        return {15, 20, 0};
    case Chemistry::manganeseDioxide:
        return {10, 15, 0};
    default:
        return {};
    }
}

bool isSupercapacitor(const Cell& cell) {
    return cell.chemistry == Chemistry::other &&
           (cell.size.starts_with("supercapacitor") || cell.id.starts_with("supercapacitor"));
}

bool canRecharge(const Cell& cell) {
    const Chemistry c = cell.chemistry;
    return cell.rechargeable.value_or(isRechargeableLithium(c) ||
                                      c == Chemistry::nickelMetalHydride ||
                                      c == Chemistry::nickelCadmium || c == Chemistry::leadAcid);
}

std::optional<double> chargeFromOf(const Cell& cell) {
    if (cell.chargeFrom)
        return cell.chargeFrom->value();
    return isRechargeableLithium(cell.chemistry) ? std::optional(0.0) : std::nullopt;
}

bool isNickel(Chemistry c) {
    return c == Chemistry::nickelMetalHydride || c == Chemistry::nickelCadmium;
}

double usualReconnect(Chemistry chemistry, double cutoff) {
    constexpr double kLithium = 0.4;    ///< V a cell
    constexpr double kPhosphate = 0.65; ///< V a cell: its plateau comes back from far down
    constexpr double kOther = 1.15;
    if (chemistry == Chemistry::ironPhosphate)
        return cutoff + kPhosphate;
    return isRechargeableLithium(chemistry) ? cutoff + kLithium : cutoff * kOther;
}

double policyCutoff(Chemistry chemistry, CellCare care) {
    const ChemistryVolts& v = voltsOf(chemistry);
    return care == CellCare::squeeze    ? v.squeeze
           : care == CellCare::balanced ? v.balanced
                                        : v.gentle;
}

} // namespace sipper
