// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.hpp"

#include "charge/charge.hpp"
#include "charge/text.hpp"
#include "project/json.hpp"
#include "project/library.hpp"
#include "quantity/read.hpp"
#include "quantity/write.hpp"
#include "search/chargerchoice.hpp"

#include <fmt/format.h>

namespace sipper::cli {
namespace {

constexpr double kMostLight = 1500; ///< W/m2

Json orNull(const std::optional<double>& figure) {
    return figure ? Json(*figure) : Json();
}

Json ledgerJson(const ChargeLedger& l) {
    return {{"input", l.input},   {"charger", l.charger}, {"pack_heat", l.packHeat},
            {"stored", l.stored}, {"stages", l.stages},   {"loads", l.loads}};
}

Json chargeJson(const ChargeRun& c) {
    Json phases = Json::array();
    for (const ChargePhase& p : c.phases)
        phases.push_back(
            {{"from_h", p.from}, {"to_h", orNull(p.to)}, {"limit", limitName(p.limit)}});
    Json curve = Json::array();
    for (const ChargePoint& p : c.curve)
        curve.push_back({p.hours, p.charge, p.packVolts, p.packAmps, p.inputAmps});
    Json numbers = Json::object();
    if (c.failure && *c.failure >= ChargeFailure::deviceTakesMore) {
        numbers = {{"takes_a", c.takesAmps}, {"gives_a", c.givesAmps}};
        if (*c.failure == ChargeFailure::endsEarly)
            numbers = {{"ends_at_charge", orNull(c.endsAtCharge)},
                       {"ends_at_h", orNull(c.endsAtHours)},
                       {"end_a", c.endAmps},
                       {"set_a", c.setAmps}};
        if (c.offHoursToFull)
            numbers["off_hours"] = *c.offHoursToFull;
    }
    Json out{{"charger", c.charger},
             {"source", c.source},
             {"light_w_m2", orNull(c.light)},
             {"hours_to_80", orNull(c.hoursTo80)},
             {"hours_to_full", orNull(c.hoursToFull)},
             {"never", c.failure ? Json(failureName(*c.failure)) : Json()},
             {"never_numbers", std::move(numbers)},
             {"off_hours_to_full", orNull(c.offHoursToFull)},
             {"ends_at_charge", orNull(c.endsAtCharge)},
             {"phases", std::move(phases)},
             {"input_wh", c.inputWh},
             {"stored_wh", c.storedWh},
             {"peak_loss_w", c.peakLoss},
             {"peak_part_c", c.peakPart},
             {"ledger_wh", ledgerJson(c.ledger)}};
    out["curve"] = std::move(curve);
    return out;
}

std::string chargeText(const Project& p, const ChargeRun& c) {
    std::string out = chargeHeadline(p, c) + "\n";
    if (c.light)
        out += fmt::format("in a steady light of {:g} W/m² on the panel\n", *c.light);
    if (c.offHoursToFull && c.offHoursToFull != c.hoursToFull &&
        c.failure != ChargeFailure::deviceTakesMore && c.failure != ChargeFailure::tooSlow)
        out += fmt::format("with the output switched off: {} to full\n",
                           writeHours(*c.offHoursToFull));
    for (const ChargePhase& phase : c.phases)
        out +=
            fmt::format("  {:>10} to {:>10}  {}\n", writeHours(phase.from),
                        phase.to ? writeHours(*phase.to) : "no end", limitText(p, c, phase.limit));
    if (!c.curve.empty())
        out += fmt::format("from the source {}, stored {}; the charger burns up to {} and gets "
                           "{:.0f} °C warm\n",
                           writeQuantity(c.inputWh, Unit::wattHour),
                           writeQuantity(c.storedWh, Unit::wattHour),
                           writeQuantity(c.peakLoss, Unit::watt), c.peakPart);
    return out;
}

/// What could fill the pack, each solved on it.
Answer answerChoices(const Project& p) {
    Json list = Json::array();
    std::string text;
    for (const FillChoice& f : fillChoices(p, loadLibrary())) {
        const ChargerChoice& c = f.choice;
        list.push_back({{"by", c.by},
                        {"source", nameOf(c.source)},
                        {"charger", c.part},
                        {"hours_to_full", orNull(c.hours)},
                        {"never", f.never ? Json(failureName(*f.never)) : Json()},
                        {"limit", f.heldBy ? Json(limitName(*f.heldBy)) : Json()},
                        {"mass_g", c.grams},
                        {"price", c.price}});
        text += fmt::format("{:>10} {:>8.2f}  {}, {}{}\n", c.hours ? writeHours(*c.hours) : "–",
                            c.price, nameOf(c.charger), nameOf(c.source),
                            f.never    ? fmt::format(": never, {}", failureName(*f.never))
                            : f.heldBy ? fmt::format(": held back by {}", limitName(*f.heldBy))
                                       : std::string());
    }
    if (list.empty())
        text = "No charger of the library fits these cells.\n";
    return {Json{{"choices", std::move(list)}}, text};
}

Outcome<Answer> answerCharge(const Asked& asked) {
    const auto project = askedProject(asked);
    if (!project)
        return project.error();
    const Project& p = project.value();
    if (asked.choices)
        return answerChoices(p);
    ChargeOptions ask;
    const auto from = askedShare("--from", asked.from);
    if (!from)
        return from.error();
    const auto mode = askedMode(p, asked);
    if (!mode)
        return mode.error();
    ask.from = from.value();
    ask.mode = mode.value();
    ask.source = asked.source;
    ask.charger = asked.charger;
    if (!asked.light.empty()) {
        const auto light = readQuantity(asked.light, Unit::none);
        if (!light || !(light.value() > 0) || light.value() > kMostLight)
            return badOption("--light", asked.light, "W/m2 on the panel, over 0 up to 1500");
        ask.light = light.value();
    }
    auto charge = chargeOf(p, ask);
    if (!charge) {
        Error error = charge.error();
        error.file = asked.file;
        return error;
    }
    return Answer{chargeJson(charge.value()), chargeText(p, charge.value())};
}

void optionsCharge(CLI::App& app, Asked& asked) {
    addFile(app, asked);
    addVariant(app, asked);
    app.add_option("--from", asked.from, "charge at the start, 0 to 1 or per cent (default 0.1)");
    app.add_option("--source", asked.source, "id of the source (default: of the first feed)");
    app.add_option("--charger", asked.charger, "id of the charger (default: the first)");
    app.add_option("--light", asked.light,
                   "W/m2 on the panel, where one is the source (default 800)");
    app.add_flag("--choices", asked.choices,
                 "what could fill the cells: every charger of the library that fits, solved");
    app.add_option("--mode", asked.mode, "id of the mode it is in meanwhile (default: the base)");
}

} // namespace

const Command kCharge{"charge", "how long a charge takes, and what holds it back", optionsCharge,
                      answerCharge};

} // namespace sipper::cli
