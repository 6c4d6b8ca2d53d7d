// SPDX-License-Identifier: GPL-3.0-or-later
#include "advice/consequences.hpp"

#include "advice/fixes.hpp"
#include "advice/quiet.hpp"
#include "charge/charge.hpp"
#include "charge/text.hpp"
#include "parts/chemistry.hpp"
#include "parts/fields.hpp"
#include "runtime/budget.hpp"
#include "runtime/shelf.hpp"
#include "solar/solarposition.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

namespace sipper {
namespace {

constexpr int kShortestDay = 355;
constexpr int kLongestDay = 172;

std::string hoursAt(const Project& p, const Conditions& c) {
    StepControl quick;
    quick.record = false;
    const Runtime r = predictRuntime(p, c, quick);
    return r.hours ? writeHours(r.hours->value()) : "for ever";
}

class Reasoner {
  public:
    Reasoner(const Project& p, const Runtime& r, const std::optional<RuntimeUncertainty>& range,
             const std::stop_token& stop)
        : m_project(p), m_runtime(r), m_range(range), m_stop(stop) {}

    std::vector<Consequence> go() {
        setting();
        target();
        if (m_project.pack()) {
            ambient();
            care();
            refill();
            shelf();
        }
        headroom();
        noise();
        limits();
        latitude();
        return std::move(m_out);
    }

  private:
    void say(const char* about, std::string title, std::string text) {
        m_out.push_back({about, std::move(title), std::move(text)});
    }

    void setting() {
        if (!m_project.brief.setting)
            return;
        const Pack* pack = m_project.pack();
        switch (*m_project.brief.setting) {
        case Setting::desk:
            say("setting", "On a desk",
                pack ? "A socket is near: a thing that never leaves it needs no cells."
                     : "Tethered: no cells are needed.");
            break;
        case Setting::portable:
            say("setting", "Carried",
                pack ? fmt::format(
                           "The supply weighs {}; every further cell adds {}.",
                           writeQuantity(m_project.massGrams(), Unit::gram),
                           writeQuantity(pack->cell.mass.value_or(Grams{0}).value(), Unit::gram))
                     : "There are no cells to carry yet.");
            break;
        case Setting::worn:
            say("setting", "Worn",
                pack && isRechargeableLithium(pack->cell.chemistry) &&
                        !pack->cell.protectedCell.value_or(false)
                    ? "On a body, use protected cells or a sealed pack; these are bare lithium "
                      "cells."
                    : "On a body, heat and short circuits matter most: keep the pack sealed and "
                      "fused.");
            break;
        case Setting::vehicle:
            say("setting", "In a vehicle",
                "Vehicle supply is dirty: 9 to 16 V, dips when cranking, surges when a load is "
                "dropped. Fuse it at the source, and leave "
                "fixed wiring to licensed people.");
            break;
        case Setting::outdoor:
            say("setting", "Outdoors",
                fmt::format("It sees {} to {}; the range counts both. Keep wet out of the joints.",
                            writeQuantity(m_project.brief.air().coldest().value(), Unit::celsius),
                            writeQuantity(m_project.brief.air().warmest().value(), Unit::celsius)));
            break;
        }
    }
    void target() {
        if (!m_project.brief.targetRuntime || !m_runtime.hours || m_runtime.hours->value() <= 0)
            return;
        const double wanted = m_project.brief.targetRuntime->value();
        const double has = m_runtime.hours->value();
        const double energy = m_runtime.meanPower.value() * wanted;
        say("target_runtime_h", fmt::format("{} between refills", writeHours(wanted)),
            fmt::format("At the mean draw of this run that takes {} from the cells. It runs {}{}.",
                        writeQuantity(energy, Unit::wattHour), writeHours(has),
                        m_range ? fmt::format(", {} to {} for eight builds in ten",
                                              writeHours(m_range->range.p10),
                                              writeHours(m_range->range.p90))
                                : ""));
    }
    void ambient() {
        if (m_stop.stop_requested() || !m_project.brief.ambient)
            return;
        const Ambient air = m_project.brief.air();
        Conditions cold;
        cold.ambient = air.coldest();
        Conditions warm;
        warm.ambient = air.warmest();
        const PackModel model(*m_project.pack(), air.coldest());
        const PackModel usual(*m_project.pack(), air.usual());
        say("ambient_c",
            fmt::format("From {} to {}", writeQuantity(air.coldest().value(), Unit::celsius),
                        writeQuantity(air.warmest().value(), Unit::celsius)),
            fmt::format("At the coldest each cell gives {} in place of {} and its resistance is "
                        "{:.1f} times the usual: it runs {}. At the warmest it runs {}.",
                        writeQuantity(model.usable, Unit::ampereHour),
                        writeQuantity(usual.usable, Unit::ampereHour),
                        usual.resistance > 0 ? model.resistance / usual.resistance : 1.0,
                        hoursAt(m_project, cold), hoursAt(m_project, warm)));
    }
    void care() {
        const Pack& pack = *m_project.pack();
        const auto guard =
            std::find_if(m_project.stages.begin(), m_project.stages.end(),
                         [](const Stage& s) { return std::holds_alternative<Guard>(s.part); });
        if (m_stop.stop_requested() || !m_project.brief.cellCare ||
            guard == m_project.stages.end() ||
            policyCutoff(pack.cell.chemistry, CellCare::balanced) <= 0)
            return;
        std::string text;
        for (const CellCare school : {CellCare::squeeze, CellCare::balanced, CellCare::gentle}) {
            Project p = m_project;
            const double cutoff = pack.series * policyCutoff(pack.cell.chemistry, school);
            std::get<Guard>(p.stage(guard->id)->part).cutoff = Volts{cutoff};
            text += fmt::format("{}{} at {}: {}", text.empty() ? "" : "; ", nameOf(school),
                                volts(cutoff), hoursAt(p, typicalConditions(p)));
        }
        say("cell_care",
            fmt::format("Cells are treated {}",
                        *m_project.brief.cellCare == CellCare::squeeze    ? "to the last drop"
                        : *m_project.brief.cellCare == CellCare::balanced ? "with balance"
                                                                          : "gently"),
            fmt::format("By the guard's cut-off: {}. Yours is {}. Deeper runs longer and wears the "
                        "cells sooner.",
                        text, volts(std::get<Guard>(guard->part).cutoff.value())));
    }
    void refill() {
        if (!m_project.brief.refilledBy || m_project.brief.refilledBy->empty())
            return;
        const Budget budget = budgetOf(m_project);
        const Pack& pack = *m_project.pack();
        std::string text;
        for (const std::string& way : *m_project.brief.refilledBy) {
            text += text.empty() ? "" : " ";
            if (way == "swap")
                text += fmt::format("A set is {:.0f} cells, {}.", pack.series * pack.parallel,
                                    writeQuantity(pack.series * pack.parallel *
                                                      pack.cell.mass.value_or(Grams{0}).value(),
                                                  Unit::gram));
            else if (!canRecharge(pack.cell))
                text += "These cells must not be recharged.";
            else if (way == "sun")
                text += fmt::format("The sun has to bring {} on an average day.",
                                    writeQuantity(budget.whPerDay, Unit::wattHour));
            else
                text += fmt::format("A refill from {} has to put back {}.",
                                    way == "socket"    ? "a socket"
                                    : way == "adapter" ? "an adapter"
                                                       : "a vehicle",
                                    writeQuantity(m_runtime.meanPower.value() *
                                                      m_runtime.hours.value_or(Hours{0}).value(),
                                                  Unit::wattHour)) +
                        byCharger(way);
        }
        say("refilled_by", "Refilled", text);
    }
    /// What the charger on the line makes of it, where one takes it from there.
    [[nodiscard]] std::string byCharger(const std::string& way) const {
        Project asked = m_project;
        asked.brief.refilledBy = {way};
        const ChargeOptions ask = refillAsk(asked);
        if (ask.charger.empty())
            return " There is no charger on the line yet.";
        if (ask.source.empty())
            return " Nothing of that kind feeds the charger yet.";
        const auto charge = chargeOf(m_project, ask);
        return charge ? " " + chargeHeadline(m_project, charge.value()) : std::string();
    }
    void shelf() {
        if (!m_project.brief.shelfMonths)
            return;
        const auto lies = shelfOf(m_project, 0);
        if (!lies)
            return;
        const double months = lies->noStartMonths;
        const double wanted = *m_project.brief.shelfMonths;
        say("shelf_months", fmt::format("{:g} months on the shelf", wanted),
            fmt::format(
                "With everything off that can be switched off {} flow, and the cells lose {} by "
                "themselves: full cells start it after {}.",
                writeQuantity(lies->offAmps, Unit::ampere),
                writeQuantity(lies->selfAmps, Unit::ampere),
                lastsText(months, m_project.pack()->cell.chemistry)));
    }
    void headroom() {
        if (!m_project.brief.headroom)
            return;
        const double worst = m_runtime.worstCurrent.value();
        if (worst > 0)
            say("headroom", fmt::format("Headroom {:g}", *m_project.brief.headroom),
                fmt::format("The worst draw is {}: by this policy a source is rated for {} or "
                            "more. Some take 1.2, some 2; more costs weight and price only.",
                            amps(worst), amps(worst * *m_project.brief.headroom)));
    }
    void noise() {
        bool any = false;
        std::string text;
        for (const Load& load : m_project.loads) {
            if (!load.noiseSensitive.value_or(false) || m_stop.stop_requested())
                continue;
            any = true;
            const auto ways = quietWays(m_project, load.id);
            if (ways.empty())
                continue;
            text += fmt::format("{}{} dislikes switching noise and hangs on a switching regulator. "
                                "As it is {}",
                                text.empty() ? "" : " ", nameOf(load),
                                m_runtime.hours ? writeHours(m_runtime.hours->value())
                                                : std::string("it does not run down"));
            for (const NoiseRemedy& way : ways)
                text += fmt::format("; {}: {}", way.name,
                                    hoursAt(way.project, typicalConditions(way.project)));
            text += ". Distance and shielding cost nothing.";
        }
        if (any)
            say("noise", "Noise matters",
                text.empty()
                    ? "What dislikes switching noise is fed by a linear regulator or the cells."
                    : text);
    }
    void limits() {
        if (const auto most = m_project.brief.weightLimit)
            say("weight_limit_g", "Weight",
                fmt::format("{} of {}.", writeQuantity(m_project.massGrams(), Unit::gram),
                            writeQuantity(most->value(), Unit::gram)));
        if (const auto most = m_project.brief.priceLimit)
            say("price_limit", "Price",
                fmt::format("{:.2f} of {:.2f}.", m_project.totalPrice(), *most));
    }
    void latitude() {
        if (const auto latitude = m_project.brief.latitude)
            say("latitude_deg", fmt::format("{:g}° north", latitude->value()),
                fmt::format("The shortest day has {} of sun above the horizon, the longest {}.",
                            writeHours(dayLength(latitude->value(), kShortestDay)),
                            writeHours(dayLength(latitude->value(), kLongestDay))));
    }

    const Project& m_project;
    const Runtime& m_runtime;
    const std::optional<RuntimeUncertainty>& m_range;
    const std::stop_token& m_stop;
    std::vector<Consequence> m_out;
};

} // namespace

std::vector<Consequence> consequencesOf(const Project& project, const Runtime& runtime,
                                        const std::optional<RuntimeUncertainty>& range,
                                        const std::stop_token& stop) {
    return Reasoner(project, runtime, range, stop).go();
}

} // namespace sipper
