// SPDX-License-Identifier: GPL-3.0-or-later
#include "measure/uncertainty.hpp"

#include "line/sources.hpp"

#include "charge/limits.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"

namespace sipper {
namespace {

constexpr double kResistance = 0.25;
constexpr double kMeasuredResistance = 0.05;
constexpr double kSet = 0.02;
constexpr double kTrimmed = 0.01; ///< a set-point that has been set by hand, and a charger's
constexpr double kThreshold = 0.01;
constexpr double kAdapter = 0.05;
constexpr double kNoLoad = 0.10;
constexpr double kSource = 0.05;
constexpr double kLimit = 0.10; ///< of a current limit
constexpr double kChargeCurrent = 0.05;
constexpr double kChargerLimit = 0.10; ///< of what it is set to, measured by itself
constexpr double kLight = 0.10;        ///< of what people take the sun for
constexpr double kChargeEnd = 0.20;
constexpr double kThermal = 0.20;

template <class Quantity>
void scale(std::optional<Quantity>& figure, double factor) {
    if (figure)
        *figure = *figure * factor;
}

/// Doubts of one project's stages, in file order.
class Doubts {
  public:
    explicit Doubts(const Project& project) : m_project(project) {}

    std::vector<UncertaintySource> all() {
        for (const Stage& stage : m_project.stages)
            of(stage);
        for (std::size_t l = 0; l < m_project.loads.size(); ++l)
            for (std::size_t d = 0; d < m_project.loads[l].draws.size(); ++d) {
                const Draw& draw = m_project.loads[l].draws[d];
                if (!drawsSomething(draw))
                    continue; // a zero draw is certain
                const double limit = draw.relativeTolerance();
                m_list.push_back({"draw/" + m_project.loads[l].id + "/" + draw.mode,
                                  [l, d, limit](TestSetup& b, double end) {
                                      scaleDraw(b.project.loads[l].draws[d], 1 + end * limit);
                                  }});
            }
        return std::move(m_list);
    }

  private:
    /// An uncertainty source that perturbs one part by a share.
    template <class Bend>
    void add(const Stage& stage, const char* what, double limit, Bend bend) {
        m_list.push_back(
            {std::string(what) + "/" + stage.id,
             [i = stageIndex(m_project, stage.id), limit, bend](TestSetup& b, double end) {
                 bend(b.project.stages[i].part, 1 + end * limit);
             }});
    }
    void of(const Stage& stage) {
        if (const auto* pack = std::get_if<Pack>(&stage.part)) {
            const bool measured = pack->measuredResistance || stage.basis == Basis::measured;
            add(stage, "resistance", measured ? kMeasuredResistance : kResistance,
                [](Part& p, double f) { scaleResistance(std::get<Pack>(p), f); });
        } else if (const auto* adapter = std::get_if<Adapter>(&stage.part)) {
            ofAdapter(stage, *adapter);
        } else if (std::holds_alternative<Panel>(stage.part)) {
            m_list.push_back({"light/" + stage.id,
                              [](TestSetup& b, double end) { b.light = 1 + end * kLight; }});
        } else if (std::holds_alternative<Usb>(stage.part) ||
                   std::holds_alternative<Vehicle>(stage.part)) {
            m_list.push_back({"volts/" + stage.id, [id = stage.id](TestSetup& b, double end) {
                                  b.volts[id] = 1 + end * kSource;
                              }});
        } else if (const auto* guard = std::get_if<Guard>(&stage.part)) {
            const double limit = stage.thresholdTolerance.value_or(kThreshold);
            add(stage, "cutoff", limit, [](Part& p, double f) {
                auto& g = std::get<Guard>(p);
                g.cutoff = g.cutoff * f;
            });
            if (guard->reconnect)
                add(stage, "reconnect", limit,
                    [](Part& p, double f) { scale(std::get<Guard>(p).reconnect, f); });
        } else if (isRegulator(stage.part) || isCharger(stage.part)) {
            ofActive(stage);
        }
    }
    void ofAdapter(const Stage& stage, const Adapter& adapter) {
        const bool regulated = adapter.set && !adapter.noLoad;
        add(stage, "volts", regulated ? adapter.tolerance.value_or(kAdapter) : kNoLoad,
            [](Part& p, double f) {
                auto& a = std::get<Adapter>(p);
                if (!a.noLoad && !a.set && a.rated)
                    a.noLoad = *a.rated * kNoLoadFactor;
                if (a.noLoad)
                    scale(a.noLoad, f);
                else
                    scale(a.set, f);
            });
        if (adapter.limit)
            add(stage, "limit", kLimit,
                [](Part& p, double f) { scale(std::get<Adapter>(p).limit, f); });
    }
    void ofActive(const Stage& stage) {
        add(stage, "losses", toleranceOfBasis(stage.basis.value_or(Basis::dataSheet)), scaleLosses);
        const ActivePart& own = *active(stage.part);
        if (own.thermal)
            add(stage, "thermal", kThermal,
                [](Part& p, double f) { scale(active(p)->thermal, f); });
        const bool charger = isCharger(stage.part);
        const bool trimmed = charger || own.adjustable.value_or(false);
        const double limit = stage.setTolerance.value_or(trimmed ? kTrimmed : kSet);
        if (charger) {
            ofCharger(stage, limit);
            return;
        }
        add(stage, "set", limit, [](Part& p, double f) {
            if (const auto set = setPointOf(p))
                static_cast<void>(setPointTo(p, *set * f));
            else if (setCurrentOf(p))
                scale(active(p)->setAmps, f);
        });
        add(stage, "limit", kLimit, [](Part& p, double f) {
            if (auto* l = std::get_if<Linear>(&p))
                scale(l->outputLimit, f);
            else if (auto* s = std::get_if<Switcher>(&p))
                scale(s->outputLimit, f);
        });
    }
    void ofCharger(const Stage& stage, double set) {
        const auto charger = [](Part& p) -> Charger& { return std::get<Charger>(p); };
        add(stage, "set", set, [=](Part& p, double f) { scale(charger(p).chargeVoltage, f); });
        // What is not written follows from the pack and the programming resistor.
        const auto& own = std::get<Charger>(stage.part);
        const Stage* pack = m_project.stage(own.charges);
        if (pack && std::holds_alternative<Pack>(pack->part)) {
            const ChargeSettings settings(own, std::get<Pack>(pack->part));
            const double current = stage.setTolerance.value_or(kChargeCurrent);
            add(stage, "current", current,
                [=](Part& p, double f) { charger(p).chargeCurrent = Amps{settings.current * f}; });
            // Measured by itself, into a load that asks for more, it is told less closely.
            const double limit = stage.setTolerance.value_or(kChargerLimit);
            m_list.push_back(
                {"set_limit/" + stage.id, [id = stage.id, limit](TestSetup& b, double end) {
                     b.limits[id] = 1 + end * limit;
                 }});
            add(stage, "end", kChargeEnd,
                [=](Part& p, double f) { charger(p).endCurrent = Amps{settings.endCurrent * f}; });
        }
        add(stage, "limit", kLimit, [=](Part& p, double f) {
            scale(charger(p).inputLimit, f);
            scale(charger(p).outputLimit, f);
        });
    }

    const Project& m_project;
    std::vector<UncertaintySource> m_list;
};

} // namespace

Project withTester(const Project& project, const std::string& at, Draw draw) {
    Project out = project;
    out.modes.resize(1);
    out.modes[0] = {};
    out.modes[0].id = "on";
    out.modes[0].base = true;
    Load load;
    load.id = "tester";
    while (out.stage(load.id))
        load.id += "-";
    load.fedBy = at;
    load.window.max = Volts{1e6};
    draw.mode = "on";
    load.draws = {std::move(draw)};
    out.loads = {std::move(load)};
    return out;
}

bool drawsSomething(const Draw& draw) {
    return orZero(draw.current) > 0 || orZero(draw.power) > 0 || draw.resistance ||
           orZero(draw.led) > 0 || draw.hasBurst();
}

void scaleDraw(Draw& draw, double factor) {
    scale(draw.current, factor);
    scale(draw.power, factor);
    scale(draw.led, factor);
    scale(draw.burst, factor);
    scale(draw.resistance, 1 / factor);
    scale(draw.burstOhms, 1 / factor);
}

void scaleLosses(Part& part, double factor) {
    std::visit(
        [&]<class P>(P& p) {
            if constexpr (requires { p.ground; })
                scale(p.ground, factor);
            if constexpr (requires { p.fixed; }) {
                scale(p.quiescent, factor);
                scale(p.fixed, factor);
                scale(p.drop, factor);
                scale(p.resistance, factor);
                scale(p.switching, factor);
            }
        },
        part);
}

void scaleResistance(Pack& pack, double factor) {
    scale(pack.cell.resistance, factor);
    scale(pack.cell.relaxation, factor);
    scale(pack.measuredResistance, factor);
}

std::vector<UncertaintySource> uncertaintySourcesOf(const Project& project) {
    return Doubts(project).all();
}

} // namespace sipper
