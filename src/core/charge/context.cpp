// SPDX-License-Identifier: GPL-3.0-or-later
#include "charge/context.hpp"

#include "base/tolerance.hpp"
#include "parts/chemistry.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace sipper {
namespace {

Error wrong(const std::string& where, const std::string& found, const std::string& expected) {
    return Error{"charge", where, found, expected, ""};
}

std::string joined(const std::vector<std::string>& ids) {
    std::string text;
    for (const std::string& id : ids)
        text += (text.empty() ? "" : ", ") + id;
    return text;
}

} // namespace

Outcome<std::unique_ptr<ChargeContext>> chargeContextOf(const Project& p,
                                                        const ChargeOptions& ask) {
    const auto chargers = chargersOf(p);
    if (chargers.empty())
        return wrong("/stages", "no charger", "a stage of kind charger");
    const std::string id = ask.charger.empty() ? chargers.front() : ask.charger;
    if (std::find(chargers.begin(), chargers.end(), id) == chargers.end())
        return wrong("charger", "\"" + id + "\"", "one of " + joined(chargers));
    const auto sources = chargeSources(p, id);
    if (sources.empty())
        return wrong("charger", "\"" + id + "\" without a source", "a charger that a source feeds");
    const std::string source = ask.source.empty() ? sources.front() : ask.source;
    if (std::find(sources.begin(), sources.end(), source) == sources.end())
        return wrong("--source", "\"" + source + "\"", "one of " + joined(sources));
    if (!(ask.from >= 0 && ask.from <= 1))
        return wrong("--from", fmt::format("{}", ask.from), "a share from 0 to 1");
    if (ask.alike < 1)
        return wrong("chargers on the supply", fmt::format("{}", ask.alike), "one or more");
    const std::size_t at = stageIndex(p, id);
    return std::make_unique<ChargeContext>(
        p, at, stageIndex(p, source), stageIndex(p, std::get<Charger>(p.stages[at].part).charges),
        ask);
}

std::optional<PanelOn> panelOn(const Project& p, std::size_t charger, std::size_t source,
                               const ChargeOptions& ask, Celsius ambient,
                               const ChargeSettings& settings) {
    if (!std::holds_alternative<Panel>(p.stages[source].part))
        return std::nullopt;
    const auto found = panelOf(p, p.stages[charger]);
    if (!found || found.value().at != source)
        return std::nullopt;
    PanelPath way = found.value().way;
    way.parallel /= ask.alike;
    // What is lifted to see what comes next is not there.
    Charger part = std::get<Charger>(p.stages[charger].part);
    double cellAmps = settings.cellAmps;
    for (const ChargeLimit limit : ask.lifted)
        switch (limit) {
        case ChargeLimit::cc:
            part.chargeCurrent.reset();
            part.programK.reset();
            break;
        case ChargeLimit::outputLimit:
            part.outputLimit.reset();
            break;
        case ChargeLimit::powerLimit:
            part.powerLimit.reset();
            break;
        case ChargeLimit::inputLimit:
            part.inputLimit.reset();
            break;
        case ChargeLimit::heat:
            part.foldBack.reset();
            break;
        case ChargeLimit::cell:
            cellAmps = 0;
            break;
        case ChargeLimit::recovery:
            part.recoveryBelow.reset();
            break;
        case ChargeLimit::source:
        case ChargeLimit::cv:
            break;
        }
    const double air = ambient.value();
    return PanelOn{PanelCharger(part, way, cellAmps), steadyCurve(way, ask.light, air), ask.light,
                   air};
}

double topologyLimit(const ChargeContext& b) {
    const ConverterModel& c = b.limits.converter();
    const Cell& cell = b.pack.cell;
    const double target = b.settings.volts > 0 ? b.settings.volts : b.restVolts(1);
    switch (c.topology) {
    case Topology::linear:
        return target + c.dropout + c.dropoutPerAmp * b.settings.current;
    case Topology::buck:
        return (target + c.drop) / c.duty;
    case Topology::boost:
        return b.model.series * cell.empty.value_or(Volts{voltsOf(cell.chemistry).empty}).value();
    case Topology::direct:
        return target + c.drop;
    case Topology::buckBoost:
        break;
    }
    return 0;
}

std::optional<ChargeFailure> refusal(const ChargeContext& b) {
    const Cell& cell = b.pack.cell;
    if (!canRecharge(cell))
        return ChargeFailure::notRechargeable;
    const auto coldest = chargeFromOf(cell);
    if (coldest && b.ambient.value() < *coldest)
        return ChargeFailure::tooCold;
    const double input = b.panel ? b.panel->openVolts() : b.feed.noLoadVolts();
    const double limit = topologyLimit(b);
    const bool fits =
        b.limits.converter().topology == Topology::boost ? input < limit : input > limit;
    if (!fits)
        return ChargeFailure::wrongTopology;
    if (overSet(b.panel ? input : b.feed.highVolts(), orZero(b.part.inputNeverAbove)))
        return ChargeFailure::inputTooHigh;
    return std::nullopt;
}

} // namespace sipper
