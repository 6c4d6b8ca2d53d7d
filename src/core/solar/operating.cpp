// SPDX-License-Identifier: GPL-3.0-or-later
#include "solar/operating.hpp"

#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"
#include "solar/simulation.hpp"

#include <algorithm>

namespace sipper {
namespace {

constexpr double kDawnLight = 50; ///< W/m2: less charges nothing
constexpr double kNoonLight = 1000;

/// The panel, the passive parts after it, and the charger.
void bookPanel(const Project& p, const Stage& charger, const PanelFound& found,
               const PanelCurve& curve, const PanelPoint& stand, double nodeVolts,
               OperatingPoint& point) {
    const double amps = stand.panelAmps;
    double volts = amps > 0 ? stand.panelVolts : curve.volts(0);
    const auto book = [&](std::size_t at, double in, double out) {
        StageFlow& f = point.flows.stages[at];
        f.vIn = in;
        f.vOut = out;
        f.iIn = f.iOut = amps;
        f.state = StageState::on;
    };
    book(found.at, volts, volts);
    const auto way = pathToSource(p, charger.id);
    for (auto part = way.rbegin(); part != way.rend(); ++part) {
        const std::size_t at = stageIndex(p, (*part)->id);
        if (at == found.at)
            continue;
        const Physics physics = physicsOf((*part)->part, p.brief.air().usual());
        const double out = volts - physics.drop - amps * physics.resistance;
        book(at, volts, out);
        volts = out;
    }
    StageFlow& own = point.flows.stages[stageIndex(p, charger.id)];
    own.vIn = volts;
    own.iIn = amps;
    const Celsius air = p.brief.air().usual();
    own.vOut = stand.amps > 0 ? nodeVolts + legOf(p, charger, air).volts(stand.amps) : 0;
    own.iOut = stand.amps;
    if (stand.amps > 0)
        bookLeg(p, charger.id, own.vOut, stand.amps, air, point);
    own.state = stand.amps > 0 ? StageState::on : StageState::off;
    point.partC[stageIndex(p, charger.id)] =
        partTemperature(charger.part, own.loss(), p.brief.air().usual().value());
}

} // namespace

OperatingPoint operateWithSun(const Project& p, const Conditions& c, double charge,
                              std::size_t mode) {
    OperatingPoint point = operateWithChargers(p, c, charge, mode);
    if (c.irradiance <= 0 || point.collapse || point.flows.stages.empty())
        return point;
    for (const std::string& id : sunChargersOf(p)) {
        const Stage& stage = *p.stage(id);
        const auto found = panelOf(p, stage);
        if (!found || point.flows.stages[stageIndex(p, id)].iOut > 0)
            continue;
        ChargeOptions ask;
        ask.charger = id;
        ask.source = p.stages[found.value().at].id;
        ask.from = charge;
        ask.mode = mode;
        ask.ambient = c.ambient;
        const auto bench = chargeContextOf(p, ask);
        if (!bench)
            continue;
        const ChargeContext& b = *bench.value();
        const double e = b.restVolts(charge);
        const double ohms = b.packOhms(charge);
        const double air = c.panelAmbient.value_or(c.ambient).value();
        const PanelCurve curve = found.value().way.curve(c.irradiance, air);
        const PanelCharger charger(b.part, found.value().way,
                                   orZero(b.pack.cell.maxCharge) * b.model.parallel);
        const double load = b.node.loadAt(e);
        SunNode node;
        node.e = e - load * ohms;
        node.r = ohms;
        node.leg = b.leg;
        ChargerDemand asked = charger.asks(node);
        const double holds = charger.holdsVolts();
        if (holds > 0 && ohms > 0)
            if (const double amps =
                    std::max(0.0, b.leg.sensed ? (holds - e) / ohms + load
                                               : (holds - e - b.leg.drop + load * ohms) /
                                                     (ohms + b.leg.ohms));
                amps < asked.amps)
                asked = {amps, SunLimit::cv};
        const PanelPoint stand = charger.stand(curve, air, node, asked);
        const NodePoint at = b.node.at(stand.amps, e, ohms);
        bookPanel(p, stage, found.value(), curve, stand, at.volts, point);
        if (stand.amps > 0)
            bookNode(p, b, at, point);
    }
    return point;
}

std::optional<PanelVolts> panelVolts(const Project& p, const Stage& stage) {
    const auto* panel = std::get_if<Panel>(&stage.part);
    if (!panel)
        return std::nullopt;
    const auto label = labelOf(*panel, stage.id);
    if (!label)
        return std::nullopt;
    PanelPath way{PanelShape(label.value()), panel->countSeries.value_or(1), 1, 0, 0};
    PanelVolts volts;
    volts.dawn = way.curve(kDawnLight, p.brief.air().warmest().value()).mpp().first;
    // Open circuit before the sun has warmed its cells.
    volts.cold =
        PanelCurve(way.shape, kNoonLight, p.brief.air().coldest().value(), way.series, 1).volts(0);
    return volts;
}

const Stage* panelBefore(const Project& p, const Stage& stage) {
    if (std::holds_alternative<Panel>(stage.part))
        return &stage;
    if (active(stage.part))
        return nullptr;
    for (const Stage* before : pathToSource(p, stage.id)) {
        if (std::holds_alternative<Panel>(before->part))
            return before;
        if (active(before->part) || std::holds_alternative<Pack>(before->part))
            return nullptr;
    }
    return nullptr;
}

} // namespace sipper
