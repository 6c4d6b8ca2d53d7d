// SPDX-License-Identifier: GPL-3.0-or-later
// Supplies without cells: an adapter, a 5 V socket or a vehicle, and for each voltage a regulator
// of the library or none.
#pragma once

#include "request/supplyrequest.hpp"

namespace sipper {

/// One of them, with what it costs by arithmetic.
struct ExternalSupply {
    Project project;
    double watts = 0; ///< lost between source and loads
    double grams = 0;
    double price = 0;
    std::string says;
};

/// Every source of the library of the request's kind that carries the loads with a fifth in hand,
/// each with the regulators that lose least, cost least and weigh least: at most three a source,
/// those that lose least first. A part is taken only where the whole band of the source is inside
/// what it and the load bear.
[[nodiscard]] std::vector<ExternalSupply> tiedSupplies(const Project& bare, RequestedSource from,
                                                       const Library& library);

} // namespace sipper
