// SPDX-License-Identifier: GPL-3.0-or-later
#include "request/externalsupply.hpp"

#include "line/wiring.hpp"

#include "base/tolerance.hpp"
#include "line/sources.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "parts/madeas.hpp"
#include "project/roles.hpp"
#include "project/tree.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kSourceInHand = 1.2; ///< of the source's limit over what is drawn
constexpr double kFuseMargin = 1.5;   ///< of what flows, that a fuse is chosen for

/// One way to make a rail's volts of a source's.
struct RailConverter {
    const LibraryPart* part = nullptr; ///< null: straight
    double amps = 0;                   ///< from the source
    double loss = 0;                   ///< W
    double grams = 0;
    double price = 0;
};

std::optional<RailConverter> tiedBy(const LibraryPart& part, const SourceModel& m, const Rail& rail,
                                    double amps, const Window& window) {
    const Part& kind = part.stage.part;
    const ActivePart* a = isRegulator(kind) ? active(kind) : nullptr;
    if (!a || overSet(m.high, orZero(a->inputNeverAbove)) || m.low < orZero(a->inputMin) ||
        regulatesCurrent(kind))
        return {};
    if (const auto range = setRangeOf(kind); range && !range->holds(rail.set))
        return {};
    const OutputLimits limits = limitsOf(kind);
    for (const double limit : {limits.amps, limits.rated, limits.watts / rail.set})
        if (limit > 0 && amps > limit)
            return {};
    RailConverter fed{&part, 0, 0, orZero(part.stage.mass), part.stage.price.value_or(0)};
    if (const auto* linear = std::get_if<Linear>(&kind)) {
        if (m.low - orZero(linear->dropout) < window.min.value() ||
            m.low - orZero(linear->dropout) < rail.set)
            return {};
        fed.amps = amps + orZero(linear->ground);
        fed.loss = (m.volts - rail.set) * amps + m.volts * orZero(linear->ground);
        const double theta = thetaOf(kind);
        // It may not get warmer than it may, in the warmest room that people have.
        const double most = maxPartOf(kind);
        if (theta > 0 && most > 0 && 40 + theta * (m.high - rail.set) * amps > most)
            return {};
        return fed;
    }
    const auto& switcher = std::get<Switcher>(kind);
    const bool down = m.low * switcher.maxDuty.value_or(1) - orZero(switcher.drop) > rail.set;
    const bool up = m.high < rail.set;
    if ((switcher.topology == Topology::buck && !down) ||
        (switcher.topology == Topology::boost && !up))
        return {};
    const LossTerms terms = lossTermsOf(kind);
    const double coil = m.volts < rail.set ? amps * rail.set / m.volts : amps;
    if (limits.inductor > 0 &&
        std::max(coil, amps * rail.set / std::min(m.low, rail.set)) > limits.inductor)
        return {};
    fed.loss = terms.fixed + terms.drop * coil + terms.resistance * coil * coil +
               terms.switching * m.volts + terms.quiescent * m.volts;
    fed.amps = (rail.set * amps + fed.loss) / m.volts;
    return fed;
}

bool isWished(RequestedSource from, const LibraryPart& part) {
    switch (from) {
    case RequestedSource::adapter:
        return std::holds_alternative<Adapter>(part.stage.part) &&
               (part.own || part.name.starts_with("adapter-"));
    case RequestedSource::socket:
        return std::holds_alternative<Usb>(part.stage.part);
    case RequestedSource::vehicle:
        return std::holds_alternative<Vehicle>(part.stage.part);
    default:
        return false;
    }
}

const LibraryPart* fuseOver(const Library& library, double amps, double volts) {
    const LibraryPart* best = nullptr;
    for (const LibraryPart& part : library.parts) {
        const auto* fuse = std::get_if<Fuse>(&part.stage.part);
        if (!fuse || fuse->form == FuseForm::resettable ||
            fuse->rating.value() * kFuseUse < amps * kFuseMargin ||
            (fuse->ratedVoltage && fuse->ratedVoltage->value() < volts))
            continue;
        if (!best || fuse->rating < std::get<Fuse>(best->stage.part).rating)
            best = &part;
    }
    return best;
}

} // namespace

std::vector<ExternalSupply> tiedSupplies(const Project& bare, RequestedSource from,
                                         const Library& library) {
    std::vector<ExternalSupply> out;
    const Requirements kept = keptOf(bare);
    for (const LibraryPart& source : library.parts) {
        if (!isWished(from, source))
            continue;
        const SourceModel m = sourceModel(source.stage.part);
        if (m.volts <= 0)
            continue;
        // By rail: the way that loses least, that costs least, that weighs least.
        std::array<std::vector<RailConverter>, 3> ways;
        bool all = true;
        for (const Rail& rail : kept.rails) {
            double amps = 0;
            Window window = kept.bare.loads[rail.loads.front()].window;
            double never = 0;
            for (const std::size_t l : rail.loads) {
                const Load& load = kept.bare.loads[l];
                double most = 0;
                for (const Draw& d : load.draws)
                    most = std::max(most, orZero(d.current));
                amps += most;
                window.min = std::max(window.min, load.window.min);
                window.max = std::min(window.max, load.window.max);
                if (load.window.neverAbove)
                    never = never > 0 ? std::min(never, load.window.neverAbove->value())
                                      : load.window.neverAbove->value();
            }
            std::vector<RailConverter> fits;
            if (m.low >= window.min.value() - kRelTol && m.high <= window.max.value() + kRelTol &&
                !overSet(m.high, never))
                fits.push_back({nullptr, amps, 0, 0, 0});
            for (const LibraryPart& part : library.parts)
                if (auto fed = tiedBy(part, m, rail, amps, window))
                    fits.push_back(*fed);
            if (fits.empty()) {
                all = false;
                break;
            }
            const auto least = [&](auto figure) {
                return *std::min_element(fits.begin(), fits.end(),
                                         [&](const RailConverter& a, const RailConverter& b) {
                                             return figure(a) < figure(b);
                                         });
            };
            ways[0].push_back(
                least([](const RailConverter& f) { return std::pair(f.loss, f.price); }));
            ways[1].push_back(
                least([](const RailConverter& f) { return std::pair(f.price, f.loss); }));
            ways[2].push_back(
                least([](const RailConverter& f) { return std::pair(f.grams, f.price); }));
        }
        if (!all)
            continue;
        for (const std::vector<RailConverter>& way : ways) {
            double amps = 0;
            ExternalSupply tied;
            for (const RailConverter& fed : way) {
                amps += fed.amps;
                tied.watts += fed.loss;
            }
            if (m.limit > 0 && amps * kSourceInHand > m.limit)
                continue;
            Project p = kept.bare;
            p.stages.clear();
            Stage first = source.stage;
            first.id = from == RequestedSource::socket    ? "socket"
                       : from == RequestedSource::vehicle ? "vehicle"
                                                          : "adapter";
            first.fedBy.clear();
            std::string end = first.id;
            p.stages.push_back(placedPart(p, std::move(first)));
            tied.says = nameOf(source.stage);
            if (from == RequestedSource::vehicle)
                if (const LibraryPart* fuse = fuseOver(library, amps, m.high)) {
                    Stage s = fuse->stage;
                    s.id = "fuse";
                    s.fedBy = {end};
                    end = s.id;
                    p.stages.push_back(placedPart(p, std::move(s)));
                }
            for (std::size_t r = 0; r < kept.rails.size(); ++r) {
                std::string feed = end;
                if (way[r].part) {
                    Stage s = way[r].part->stage;
                    s.id = freeId(p, "regulator");
                    s.fedBy = {end};
                    static_cast<void>(setPointTo(s.part, Volts{kept.rails[r].set}));
                    feed = s.id;
                    p.stages.push_back(placedPart(p, std::move(s)));
                    tied.says += fmt::format(", {} at {}", nameOf(way[r].part->stage),
                                             writeQuantity(kept.rails[r].set, Unit::volt));
                } else {
                    tied.says += ", straight on the load";
                }
                for (const std::size_t l : kept.rails[r].loads)
                    p.loads[l].fedBy = feed;
            }
            tied.grams = p.massGrams();
            tied.price = p.totalPrice();
            tied.project = std::move(p);
            if (std::none_of(out.begin(), out.end(),
                             [&](const ExternalSupply& t) { return t.says == tied.says; }))
                out.push_back(std::move(tied));
        }
    }
    std::stable_sort(out.begin(), out.end(), [](const ExternalSupply& a, const ExternalSupply& b) {
        return std::pair(a.watts, a.price) < std::pair(b.watts, b.price);
    });
    return out;
}

} // namespace sipper
