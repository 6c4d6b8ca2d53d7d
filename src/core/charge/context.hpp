// SPDX-License-Identifier: GPL-3.0-or-later
// Everything that one charge is computed from, made once.
#pragma once

#include "charge/charge.hpp"
#include "charge/limits.hpp"

#include <memory>

namespace sipper {

/// The panel that a charge is asked from, under its light; nothing where the source is none, or a
/// converter stands between.
[[nodiscard]] std::optional<PanelOn> panelOn(const Project& project, std::size_t charger,
                                             std::size_t source, const ChargeOptions& ask,
                                             Celsius ambient, const ChargeSettings& settings);

/// Everything that one charge is computed from.
struct ChargeContext {
    const Project& project;
    std::size_t charger;
    std::size_t source;
    std::size_t packAt;
    std::size_t mode;
    Celsius ambient;
    const Charger& part;
    const Pack& pack;
    PackModel model;
    ChargeSettings settings;
    ChargerInput feed;
    BatteryNode node;
    ChargeLeg leg;
    std::optional<PanelOn> panel; ///< where the source is one
    ChargeLimits limits;

    ChargeContext(const Project& p, std::size_t chargerAt, std::size_t sourceAt,
                  std::size_t packPlace, const ChargeOptions& ask)
        : project(p), charger(chargerAt), source(sourceAt), packAt(packPlace),
          mode(ask.mode.value_or(p.baseMode())),
          ambient(ask.ambient.value_or(typicalConditions(p).ambient)),
          part(std::get<Charger>(p.stages[chargerAt].part)),
          pack(std::get<Pack>(p.stages[packPlace].part)), model(pack, ambient),
          settings(part, pack), feed(p, chargerAt, sourceAt, mode, ambient, ask.alike),
          node(p, packPlace, sourceAt, mode, ambient, restVolts(ask.from)),
          leg(legOf(p, p.stages[chargerAt], ambient)),
          panel(panelOn(p, chargerAt, sourceAt, ask, ambient, settings)),
          limits(part, settings, feed, node, leg, ambient) {
        for (const ChargeLimit limit : ask.lifted)
            limits.lift(limit);
        if (panel)
            limits.onPanel(*panel);
    }
    ChargeContext(const ChargeContext&) = delete;
    ChargeContext& operator=(const ChargeContext&) = delete;
    /// Ohms of the whole pack at a charge, its connections in it.
    [[nodiscard]] double packOhms(double charge) const {
        return model.ohms(model.height(model.level(charge)));
    }
    [[nodiscard]] double restVolts(double charge) const {
        return model.restVolts(model.height(model.level(charge)));
    }
};

/// Ids that do not fit are an Error; so is a project without a charger.
[[nodiscard]] Outcome<std::unique_ptr<ChargeContext>> chargeContextOf(const Project& project,
                                                                      const ChargeOptions& ask);

/// V that a buck or a linear one has to have more of at its input, and a boost less, with nothing
/// drawn (docs/model.md: Charging); 0 for a buck-boost.
[[nodiscard]] double topologyLimit(const ChargeContext& bench);

/// What can be told before anything flows, the first that holds (docs/model.md: Charging).
[[nodiscard]] std::optional<ChargeFailure> refusal(const ChargeContext& bench);

} // namespace sipper
