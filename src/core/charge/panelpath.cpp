// SPDX-License-Identifier: GPL-3.0-or-later
#include "charge/panelpath.hpp"

#include "line/physics.hpp"
#include "parts/figures.hpp"
#include "project/tree.hpp"

#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kFieldFactor = 0.75; ///< of a label's current, in the open, unless measured

Error noPanel(const std::string& where, const std::string& found, const std::string& expected) {
    return Error{"sun", where, found, expected, ""};
}

} // namespace

PanelCurve steadyCurve(const PanelPath& way, double light, double air) {
    return {way.shape, light, air + kUsualWarmth * light / kUsualLight, way.series, way.parallel};
}

std::vector<const Stage*> wayToPanel(const Project& p, const Stage& stage, std::size_t depth) {
    for (const std::string& feed : stage.fedBy) {
        const Stage* s = p.stage(feed);
        if (!s || depth > p.stages.size())
            continue;
        if (std::holds_alternative<Panel>(s->part))
            return {s};
        auto way = wayToPanel(p, *s, depth + 1);
        if (!way.empty()) {
            way.insert(way.begin(), s);
            return way;
        }
    }
    return {};
}

Outcome<PanelLabel> labelOf(const Panel& panel, const std::string& where) {
    struct Figure {
        const char* key;
        const std::optional<Volts>* volts;
        const std::optional<Amps>* amps;
    };
    for (const auto& [key, volts, amps] :
         {Figure{"voc_v", &panel.openCircuit, nullptr},
          Figure{"isc_a", nullptr, &panel.shortCircuit}, Figure{"vmp_v", &panel.vmp, nullptr},
          Figure{"imp_a", nullptr, &panel.imp}})
        if (!(volts ? orZero(*volts) > 0 : orZero(*amps) > 0))
            return noPanel(where + "/" + key, "nothing", "the figure on the panel's label");
    PanelLabel label{orZero(panel.openCircuit), orZero(panel.shortCircuit), orZero(panel.vmp),
                     orZero(panel.imp), orZero(panel.perKelvin)};
    if (label.vmp >= label.openCircuit)
        return noPanel(where + "/vmp_v", fmt::format("{:g}", label.vmp),
                       fmt::format("less than voc_v, {:g}", label.openCircuit));
    if (label.maxPowerCurrent >= label.shortCircuit)
        return noPanel(where + "/imp_a", fmt::format("{:g}", label.maxPowerCurrent),
                       fmt::format("less than isc_a, {:g}", label.shortCircuit));
    return label;
}

Outcome<PanelFound> panelOf(const Project& p, const Stage& charger) {
    const auto way = wayToPanel(p, charger);
    if (way.empty())
        return noPanel("charger", "\"" + charger.id + "\" without a panel",
                       "a charger that a panel feeds");
    const Stage& stage = *way.back();
    const std::size_t at = stageIndex(p, stage.id);
    const auto& panel = std::get<Panel>(stage.part);
    const auto label = labelOf(panel, fmt::format("/stages/{}", at));
    if (!label)
        return label.error();
    PanelFound found{at, {PanelShape(label.value()), 1, 1, 0, 0}};
    found.way.series = panel.countSeries.value_or(1);
    found.way.parallel = panel.countParallel.value_or(1) * panel.fieldFactor.value_or(kFieldFactor);
    for (std::size_t i = 0; i + 1 < way.size(); ++i) {
        if (active(way[i]->part))
            return noPanel(fmt::format("/stages/{}", stageIndex(p, way[i]->id)),
                           "\"" + way[i]->id + "\" between panel and charger",
                           "leads, diodes, fuses and the like there");
        const Physics physics = physicsOf(way[i]->part, p.brief.air().usual());
        found.way.drop += physics.drop;
        found.way.ohms += physics.resistance;
    }
    return found;
}

} // namespace sipper
