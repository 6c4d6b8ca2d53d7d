// SPDX-License-Identifier: GPL-3.0-or-later
#include "request/conversion.hpp"

#include "base/tolerance.hpp"
#include "line/sources.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/build.hpp"
#include "project/file.hpp"
#include "project/library.hpp"
#include "project/roles.hpp"
#include "project/tree.hpp"
#include "quantity/write.hpp"
#include "request/supplyrequest.hpp"

#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kLinearNeeds = 0.3; ///< V that a drop-out regulator needs over its output
constexpr double kLeastLeft = 0.66;  ///< of the power, that a drop-out regulator hands on
constexpr double kMostUp = 5;        ///< times, that one boost steps up
constexpr double kAdapterVolts = 12; ///< the usual one
constexpr double kAdapterOff = 0.05;
constexpr double kToolCells = 5;

HaveBand cellsBand(SourceKind have, std::string_view name, Chemistry chemistry, double series) {
    const ChemistryVolts& v = voltsOf(chemistry);
    return {have, name, series * policyCutoff(chemistry, CellCare::balanced), series * v.fresh};
}

std::string voltsText(double v) {
    return writeQuantity(v, Unit::volt);
}

std::string recipeBetween(SourceKind have, Conversion stands) {
    switch (have) {
    case SourceKind::lithium:
        return stands == Conversion::boost ? "cells-and-boost" : "cell-and-logic-regulator";
    case SourceKind::twoLithium:
        return "pack-replaces-adapter";
    case SourceKind::fourRound:
        return stands == Conversion::boost ? "cells-and-boost" : "pack-replaces-adapter";
    case SourceKind::toolPack:
        return stands == Conversion::straight ? "one-pack-two-voltages" : "tool-pack-and-buck";
    case SourceKind::socket:
        return "from-a-power-bank";
    case SourceKind::adapter:
        return stands == Conversion::dropOut ? "adapter-replaces-pack" : "adapter-and-buck";
    case SourceKind::vehicle:
        return "vehicle-fused";
    case SourceKind::sun:
        return "sun-and-phosphate";
    }
    return "cells-and-boost";
}

} // namespace

const std::array<HaveBand, kHaves>& haveBands() {
    static const std::array<HaveBand, kHaves> bands{
        cellsBand(SourceKind::lithium, "one lithium cell", Chemistry::nickelCobalt, 1),
        cellsBand(SourceKind::twoLithium, "two lithium cells", Chemistry::nickelCobalt, 2),
        cellsBand(SourceKind::fourRound, "four alkaline cells", Chemistry::alkaline, 4),
        cellsBand(SourceKind::toolPack, "a tool pack", Chemistry::nickelCobalt, kToolCells),
        HaveBand{SourceKind::socket, "a 5 V socket", kSocketVolts * (1 - kSocketTolerance),
                 kSocketVolts * (1 + kSocketTolerance)},
        HaveBand{SourceKind::adapter, "a 12 V adapter", kAdapterVolts * (1 - kAdapterOff),
                 kAdapterVolts * (1 + kAdapterOff)},
        HaveBand{SourceKind::vehicle, "a vehicle", kVehicleLow, kVehicleHigh},
        HaveBand{SourceKind::sun, "the sun", 0, 0}};
    return bands;
}

ConversionAdvice betweenOf(SourceKind have, double want) {
    const HaveBand& band = haveBands()[static_cast<std::size_t>(have)];
    const auto window = windowOf(want);
    const double low = window ? window.value().min.value() : want;
    const double high = window ? window.value().max.value() : want;
    const std::string gives =
        fmt::format("{} gives {} to {}", band.name, voltsText(band.low), voltsText(band.high));
    ConversionAdvice b;
    if (have == SourceKind::sun) {
        b.stands = Conversion::notWithout;
        b.text = "not without cells";
        b.why = "A panel gives nothing at night and little under cloud: cells carry it over, and a "
                "charger fills them.";
    } else if (!fallsBelow(band.low, low) && !exceeds(band.high, high)) {
        b.stands = Conversion::straight;
        b.text = "straight";
        b.why = fmt::format("{}, all inside what a thing for {} takes.", gives, voltsText(want));
    } else if (band.low >= want + kLinearNeeds &&
               want / ((band.low + band.high) / 2) >= kLeastLeft) {
        b.stands = Conversion::dropOut;
        b.text = "drop-out";
        b.why = fmt::format("{}: a drop-out regulator keeps its room to the end and turns {:.0f} % "
                            "to heat.",
                            gives, 100 * (1 - want / ((band.low + band.high) / 2)));
    } else if (band.low >= want + kLinearNeeds) {
        b.stands = Conversion::buck;
        b.text = "buck";
        b.why = fmt::format("{}: a drop-out regulator would turn {:.0f} % to heat, a buck far "
                            "less.",
                            gives, 100 * (1 - want / ((band.low + band.high) / 2)));
    } else if (band.high <= want && want / band.low > kMostUp) {
        b.stands = Conversion::notWithout;
        b.text = have == SourceKind::socket || have == SourceKind::adapter
                     ? "not without more volts"
                     : "not without more cells";
        b.why = fmt::format("{}: {} is {:.1f} times that, more than one boost does well. Take more "
                            "in series.",
                            gives, voltsText(want), want / band.low);
    } else if (band.high <= want) {
        b.stands = Conversion::boost;
        b.text = "boost";
        b.why = fmt::format("{}: always under {}, so a boost lifts it.", gives, voltsText(want));
    } else {
        b.stands = Conversion::both;
        b.text = "both ways";
        b.why = fmt::format("{}: over {} when full and under it when nearly empty.", gives,
                            voltsText(want));
    }
    b.recipe = recipeBetween(have, b.stands);
    if (!b.why.empty())
        b.why.front() = static_cast<char>(std::toupper(static_cast<unsigned char>(b.why.front())));
    return b;
}

namespace {

Kind kindBetween(Conversion stands) {
    switch (stands) {
    case Conversion::dropOut:
        return Kind::linear;
    case Conversion::buck:
        return Kind::buck;
    case Conversion::boost:
        return Kind::boost;
    default:
        return Kind::buckBoost;
    }
}

Project withSetPoint(const Project& before, const std::string& id, double volts) {
    Project after = before;
    static_cast<void>(setPointTo(after.stage(id)->part, Volts{volts}));
    return withRolesFollowing(before, std::move(after));
}

/// Cells, or a socket, in the place of the recipe's own source.
std::optional<Error> takeSource(Project& p, SourceKind have) {
    if (have == SourceKind::socket) {
        const std::string id = p.stages.front().id;
        auto socket = shippedPart("socket-1.5a", id, "");
        if (!socket)
            return socket.error();
        p.stages.front() = placedInstead(p, p.stages.front(), std::move(socket).value());
        p.stages.front().fedBy.clear();
        return {};
    }
    Stage* stage = nullptr;
    for (Stage& s : p.stages)
        if (std::holds_alternative<Pack>(s.part))
            stage = &s;
    if (!stage || have == SourceKind::sun)
        return {};
    auto& pack = std::get<Pack>(stage->part);
    if (have == SourceKind::fourRound) {
        auto round = loadPart(dataFolder() / "cells" / "alkaline-aa-2.6.json");
        if (!round)
            return round.error();
        pack = std::get<Pack>(round.value().stage.part);
    }
    pack.series = have == SourceKind::lithium      ? 1
                  : have == SourceKind::twoLithium ? 2
                  : have == SourceKind::fourRound  ? 4
                                                   : kToolCells;
    const Chemistry chemistry = pack.cell.chemistry;
    const double cutoff = policyCutoff(chemistry, CellCare::balanced);
    const double series = pack.series;
    for (Stage& s : p.stages)
        if (auto* guard = std::get_if<Guard>(&s.part)) {
            static_cast<SetByDivider&>(*guard) = {};
            guard->cutoff = Volts{series * cutoff};
            guard->reconnect = Volts{series * usualReconnect(chemistry, cutoff)};
        }
    return {};
}

} // namespace

Outcome<Project> fittedRecipe(SourceKind have, double volts) {
    const ConversionAdvice b = betweenOf(have, volts);
    auto read = loadProject(dataFolder() / "recipes" / (b.recipe + ".sipper"));
    if (!read)
        return read.error();
    Project p = std::move(read).value().project;
    if (auto trouble = takeSource(p, have))
        return *trouble;
    if (p.loads.empty())
        return p;
    const auto window = windowOf(volts);
    if (!window)
        return window.error();
    const std::string load = p.loads.front().id;
    if (p.loads.front().window.middle().value() != volts)
        p.loads.front().window = window.value();
    const Stage* regulator = upstreamRegulator(p, load);
    if (b.stands == Conversion::straight) {
        if (regulator)
            p = withoutStage(std::move(p), std::string(regulator->id));
        p.name += ", " + writeQuantity(volts, Unit::volt);
        return p;
    }
    const Kind kind = b.stands == Conversion::notWithout && have != SourceKind::sun
                          ? Kind::boost
                          : kindBetween(b.stands);
    if (!regulator) {
        p = withStageBefore(p, freshStage(p, kind, load), load);
    } else if (kindOf(regulator->part) != kind) {
        const std::string id = regulator->id;
        p = withPart(p, id, freshStage(p, kind, id));
    }
    if (const Stage* stands = upstreamRegulator(p, load);
        stands && orZero(setPointOf(stands->part)) != volts)
        p = withSetPoint(std::move(p), std::string(stands->id), volts);
    p.name += ", " + writeQuantity(volts, Unit::volt);
    return p;
}

} // namespace sipper
