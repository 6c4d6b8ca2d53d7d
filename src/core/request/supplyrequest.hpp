// SPDX-License-Identifier: GPL-3.0-or-later
// What a person says first: some volts at some amps for some hours, and from what. The finder makes
// supplies of it, and three of them are opened side by side.
#pragma once

#include "search/search.hpp"

namespace sipper {

/// From what it is to run.
enum class RequestedSource { cells, hand, toolPack, adapter, socket, sun, vehicle };
inline constexpr std::size_t kWishFroms = 7;
/// `cells`, `what I have`, `a tool pack`, …: as people say it.
[[nodiscard]] std::string_view wishFromText(RequestedSource from);

struct RequestedRail {
    double volts = 5;
    double amps = 0.2;
    double watts = 0;   ///< over 0: it draws these in place of amps
    double lowest = 0;  ///< V that it still takes; 0: what things for these volts do
    double highest = 0; ///< V
    bool operator==(const RequestedRail&) const = default;
};

struct SupplyRequest {
    std::vector<RequestedRail> needs = std::vector<RequestedRail>(1);
    double hours = 8;
    RequestedSource from = RequestedSource::cells;
    Setting setting = Setting::portable;
    bool rechargeable = false; ///< only cells that can be charged
    std::optional<double> mostGrams;
    std::optional<double> mostPrice;
    bool operator==(const SupplyRequest&) const = default;
};

/// Does it hang on a wire, with no cells? A wall adapter or a socket on a desk, a vehicle always;
/// what is carried takes cells that are refilled there.
[[nodiscard]] bool externallyFed(const SupplyRequest& wish);
/// What follows of the answer, in one sentence.
[[nodiscard]] std::string wishText(const SupplyRequest& wish);

/// What a thing for these volts takes, and survives: under 4.9 V 10 % either way, as logic does,
/// else 5 %, as what was made for an adapter (parts/madefor). Code "range" as there.
[[nodiscard]] Outcome<Window> windowOf(double volts);

/// Loads, one mode and the brief of a request, on cells, fuse and guard of the usual kind: what the
/// finder starts from; each load takes what `windowOf` says. Code "range": no load, over six, volts
/// outside 0.8 to 48, amps not over 0 or over 20, hours outside 0.01 to 87600.
[[nodiscard]] Outcome<Project> projectOf(const SupplyRequest& wish);

/// A document of up to three proposed variants, each named for what it is best at.
struct Proposal {
    Project document;
    std::uint64_t tried = 0; ///< supplies
    std::uint64_t kept = 0;  ///< that do it
    std::size_t variants = 0;
    std::string says; ///< what was chosen, or what most fell out for where nothing does it
};

/// Searches and chooses: the lightest, the cheapest, and the one with the most to spare of those
/// that weigh and cost no more than double; of each the first that nothing has to be mended in, as
/// far as there is one. Where none does it, the document is that of `projectOf`, with `variants`
/// 0. Errors: as projectOf and findSupplies; "no_cells" where the drawer is empty; nothing when
/// stopped comes as code "stopped".
[[nodiscard]] Outcome<Proposal> proposeSupplies(const SupplyRequest& wish, const Library& library,
                                                const std::vector<OwnedCell>& hand,
                                                const std::stop_token& stop = {},
                                                const SearchProgress& progress = {},
                                                const ParallelFor& parallelFor = twoThreadFor);

} // namespace sipper
