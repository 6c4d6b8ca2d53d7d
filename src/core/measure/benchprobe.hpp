// SPDX-License-Identifier: GPL-3.0-or-later
// What the model says to each check of a bench.
#pragma once

#include "charge/operating.hpp"
#include "line/packmodel.hpp"
#include "line/sources.hpp"
#include "measure/checks.hpp"
#include "measure/uncertainty.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"

namespace sipper {

inline constexpr double kChargeAt = 0.3; ///< where a charger's current is read
inline constexpr double kVehicleBench = 13.8;

/// A project as it stands on the bench, asked for figures. Its modes are solved when the first is
/// asked for; that needs a pack.
class BenchProbe {
  public:
    BenchProbe(const TestSetup& bench, Celsius ambient) : m_bench(bench), m_ambient(ambient) {}

    /// Nothing on a collapse, and where the part is not there.
    std::optional<double> read(const BenchCheck& c) {
        const Project& p = m_bench.project;
        switch (c.kind) {
        case CheckKind::openCircuit:
            return openVolts(*p.stage(c.at));
        case CheckKind::setPoint:
            return setPoint(*p.stage(c.at));
        case CheckKind::currentLimit:
            return limitOfOutput(*p.stage(c.at));
        case CheckKind::idle:
        case CheckKind::draw:
        case CheckKind::sag:
        case CheckKind::warmest:
        case CheckKind::point:
            return flow(c);
        case CheckKind::cutoff:
            return std::get<Guard>(p.stage(c.at)->part).cutoff.value();
        case CheckKind::reconnect:
            return std::get<Guard>(p.stage(c.at)->part).reconnect->value();
        case CheckKind::chargeCurrent:
            return chargeAmps(c.at, c.light);
        case CheckKind::chargeEnd:
            return settings(std::get<Charger>(p.stage(c.at)->part)).endCurrent;
        }
        return std::nullopt;
    }
    const OperatingPoint& mode(std::size_t index) {
        if (m_modes.empty() && m_bench.project.pack()) {
            Line line(m_bench.project, conditions());
            m_modes = operateEach(m_bench.project, line, m_ambient, m_bench.charge);
        } else if (m_modes.empty()) { // on what is plugged in
            const Conditions c = plugged();
            for (std::size_t m = 0; m < m_bench.project.modes.size(); ++m)
                m_modes.push_back(operate(m_bench.project, c, m_bench.charge, m));
        }
        return m_modes[index];
    }

  private:
    [[nodiscard]] Conditions conditions() const {
        Conditions c;
        c.ambient = m_ambient;
        return c;
    }
    /// Without cells, what can be plugged in is.
    [[nodiscard]] Conditions plugged() const {
        Conditions c = conditions();
        if (!m_bench.project.pack())
            for (const std::size_t i : externalSources(m_bench.project))
                c.pluggedIn.push_back(m_bench.project.stages[i].id);
        return c;
    }
    [[nodiscard]] double openVolts(const Stage& stage) const {
        if (const auto* pack = std::get_if<Pack>(&stage.part)) {
            const PackModel model(*pack, m_ambient);
            return model.restVolts(m_bench.stated);
        }
        const auto factor = m_bench.volts.find(stage.id);
        const double f = factor == m_bench.volts.end() ? 1 : factor->second;
        if (std::holds_alternative<Vehicle>(stage.part))
            return kVehicleBench * f;
        const auto* adapter = std::get_if<Adapter>(&stage.part);
        if (adapter && adapter->noLoad)
            return adapter->noLoad->value();
        return sourceModel(stage.part).volts * f;
    }
    std::optional<double> setPoint(const Stage& stage) {
        if (const auto* charger = std::get_if<Charger>(&stage.part))
            return settings(*charger).volts;
        if (!m_unloaded) {
            Project bare = m_bench.project;
            bare.loads.clear();
            m_unloaded = operate(bare, plugged(), m_bench.charge, bare.baseMode());
        }
        if (m_unloaded->collapse)
            return std::nullopt;
        return m_unloaded->flows.stages[stageIndex(m_bench.project, stage.id)].vOut;
    }
    [[nodiscard]] std::optional<double> limitOfOutput(const Stage& stage) const {
        if (const auto* charger = std::get_if<Charger>(&stage.part)) {
            const auto factor = m_bench.limits.find(stage.id);
            return settings(*charger).current *
                   (factor == m_bench.limits.end() ? 1 : factor->second);
        }
        return limitsOf(stage.part).amps;
    }
    std::optional<double> flow(const BenchCheck& c) {
        const Project& p = m_bench.project;
        const OperatingPoint& point = mode(modeIndex(p, c.mode));
        if (point.collapse)
            return std::nullopt;
        if (const std::size_t l = loadIndex(p, c.at); l != kNotFound)
            return c.quantity == PointQuantity::i ? point.flows.loads[l].i : point.flows.loads[l].v;
        const std::size_t i = stageIndex(p, c.at);
        const StageFlow& f = point.flows.stages[i];
        switch (c.quantity) {
        case PointQuantity::vIn:
            return f.vIn;
        case PointQuantity::iIn:
            return f.iIn;
        case PointQuantity::vOut:
        case PointQuantity::v:
            return f.vOut;
        case PointQuantity::iOut:
        case PointQuantity::i:
            return f.iOut;
        case PointQuantity::partC:
            return point.partC[i];
        }
        return std::nullopt;
    }
    [[nodiscard]] ChargeSettings settings(const Charger& charger) const {
        const Stage* pack = m_bench.project.stage(charger.charges);
        return {charger, std::get<Pack>(pack->part)};
    }
    [[nodiscard]] std::optional<double> chargeAmps(const std::string& id,
                                                   std::optional<double> light) const {
        const Project& p = m_bench.project;
        Conditions c = conditions();
        const auto sources = sourcesOf(p, *p.stage(id));
        if (sources.empty())
            return std::nullopt;
        c.pluggedIn = {sources.front()};
        c.irradiance = light.value_or(0) * m_bench.light;
        const OperatingPoint point = operateWithChargers(p, c, kChargeAt, p.baseMode());
        if (point.collapse)
            return std::nullopt;
        return point.flows.stages[stageIndex(p, id)].iOut;
    }

    const TestSetup& m_bench;
    Celsius m_ambient;
    std::vector<OperatingPoint> m_modes;
    std::optional<OperatingPoint> m_unloaded;
};

} // namespace sipper
