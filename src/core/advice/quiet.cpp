// SPDX-License-Identifier: GPL-3.0-or-later
#include "advice/quiet.hpp"
#include "parts/figures.hpp"

#include "advice/fixes.hpp"
#include "project/build.hpp"

#include <cmath>

namespace sipper {
namespace {

constexpr double kAfterDropout =
    0.35;                           ///< V that a small linear regulator wants, with a little over
constexpr double kFilterOhms = 0.2; ///< of a small choke and capacitor

} // namespace

Stage noiseFilter(const Project& p, const Load& load) {
    Stage filter = freshStage(p, Kind::filter, load.id);
    filter.label = "Filter for " + nameOf(load);
    std::get<Filter>(filter.part).resistance = Ohms{kFilterOhms};
    return filter;
}

std::vector<NoiseRemedy> quietWays(const Project& p, std::string_view id) {
    std::vector<NoiseRemedy> ways;
    const Load* load = p.load(id);
    const Stage* regulator = load ? upstreamRegulator(p, id) : nullptr;
    if (!regulator || !std::holds_alternative<Switcher>(regulator->part))
        return ways;
    const double set = orZero(setPointOf(regulator->part));
    ways.push_back({"a filter", withStageBefore(p, noiseFilter(p, *load), id)});

    // A linear regulator after it; what else hangs on the switching one sees it raised.
    Stage linear = freshStage(p, Kind::linear, id);
    linear.label = "Quiet regulator for " + nameOf(*load);
    std::get<Linear>(linear.part).set = load->window.middle();
    Project after = withStageBefore(p, linear, id);
    const double raised = std::ceil((load->window.middle().value() + kAfterDropout) * 20) / 20;
    if (raised > set)
        static_cast<void>(setPointTo(after.stage(regulator->id)->part, Volts{raised}));
    ways.push_back({"a linear regulator after it", std::move(after)});

    const Pack* pack = p.pack();
    if (!pack)
        return ways;
    Stage instead = linear;
    instead.id = regulator->id;
    instead.label.clear();
    Project inPlace = withPart(p, regulator->id, instead);
    if (fullVolts(*pack) > set)
        ways.push_back({"a linear one in its place", std::move(inPlace)});
    if (fullVolts(*pack) <= load->window.max.value() && !regulator->fedBy.empty())
        ways.push_back({"the cells direct", withFeed(p, id, regulator->fedBy.front())});
    return ways;
}

} // namespace sipper
