// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.hpp"

#include "project/file.hpp"
#include "project/variants.hpp"
#include "project/writer.hpp"
#include "quantity/read.hpp"
#include "request/supplyrequest.hpp"

#include <fmt/format.h>

namespace sipper::cli {
namespace {

/// `cells`, `hand`, …: as a script says it.
constexpr std::array<std::string_view, kWishFroms> kFroms{"cells",  "hand", "tool_pack", "adapter",
                                                          "socket", "sun",  "vehicle"};

/// `5 V at 200 mA`, or `5 V, 200 mA`.
Outcome<RequestedRail> needOf(const std::string& text) {
    const auto bad = [&] {
        return badOption(
            "--need", text,
            "volts and amps or watts, as in 5 V at 200 mA, 12 V at 20 W or 9–14 V at 1 A");
    };
    std::size_t cut = text.find(" at ");
    std::size_t after = cut == std::string::npos ? 0 : cut + 4;
    if (cut == std::string::npos) {
        cut = text.find(", ");
        after = cut == std::string::npos ? 0 : cut + 2;
    }
    if (cut == std::string::npos)
        return bad();
    RequestedRail need;
    std::string volts = text.substr(0, cut);
    for (const std::string dash : {"–", " to ", "-"}) // a window, as in 9–14 V
        if (const auto at = volts.find(dash); at != std::string::npos && at > 0) {
            const auto low = readQuantity(volts.substr(0, at), Unit::volt);
            const auto high = readQuantity(volts.substr(at + dash.size()), Unit::volt);
            if (!low || !high || low.value() >= high.value())
                return bad();
            need.lowest = low.value();
            need.highest = high.value();
            need.volts = (need.lowest + need.highest) / 2;
            break;
        }
    if (need.lowest <= 0) {
        const auto one = readQuantity(volts, Unit::volt);
        if (!one)
            return bad();
        need.volts = one.value();
    }
    const std::string draw = text.substr(after);
    if (const auto amps = readQuantity(draw, Unit::ampere))
        need.amps = amps.value();
    else if (const auto watts = readQuantity(draw, Unit::watt))
        need.watts = watts.value();
    else
        return bad();
    return need;
}

Outcome<Answer> answerWish(const Asked& asked) {
    SupplyRequest wish;
    if (!asked.needs.empty())
        wish.needs.clear();
    for (const std::string& text : asked.needs) {
        const auto need = needOf(text);
        if (!need)
            return need.error();
        wish.needs.push_back(need.value());
    }
    const auto hours = readQuantity(asked.hours, Unit::hour);
    if (!hours)
        return badOption("--hours", asked.hours, "how long, as in 8 h or 2 d");
    wish.hours = hours.value();
    const auto from = std::find(kFroms.begin(), kFroms.end(), asked.wishFrom);
    if (from == kFroms.end())
        return badOption("--from", asked.wishFrom, fmt::format("{}", fmt::join(kFroms, ", ")));
    wish.from = static_cast<RequestedSource>(from - kFroms.begin());
    const auto setting = valueOf<Setting>(asked.setting);
    if (!setting)
        return badOption("--setting", asked.setting, listed(namesOf<Setting>()));
    wish.setting = *setting;
    wish.rechargeable = asked.rechargeable;
    const auto most = [](const char* name, const std::string& text,
                         Unit unit) -> Outcome<std::optional<double>> {
        if (text.empty())
            return std::optional<double>();
        const auto read = readQuantity(text, unit);
        if (!read || !(read.value() > 0))
            return badOption(name, text, "a figure over 0");
        return std::optional(read.value());
    };
    const auto grams = most("--at-most-g", asked.mostGrams, Unit::gram);
    if (!grams)
        return grams.error();
    const auto price = most("--at-most-price", asked.mostPrice, Unit::none);
    if (!price)
        return price.error();
    wish.mostGrams = grams.value();
    wish.mostPrice = price.value();
    std::vector<OwnedCell> hand;
    for (const std::string& name : asked.cells) {
        const auto cells = readCellFile(name);
        if (!cells)
            return cells.error();
        hand.insert(hand.end(), cells.value().begin(), cells.value().end());
    }
    const auto granted = proposeSupplies(wish, loadLibrary(), hand);
    if (!granted)
        return granted.error();
    const Proposal& g = granted.value();
    if (!asked.output.empty())
        if (auto error = saveProject(asked.output, g.document))
            return *error;
    Json variants = Json::array();
    for (std::size_t i = 0; i < g.variants; ++i)
        variants.push_back(variantName(g.document, i));
    return Answer{Json{{"tried", g.tried},
                       {"kept", g.kept},
                       {"variants", std::move(variants)},
                       {"says", g.says},
                       {"written", asked.output.empty() ? Json() : Json(asked.output)}},
                  g.says + "\n"};
}

void optionsWish(CLI::App& app, Asked& asked) {
    app.add_option("--need", asked.needs,
                   "volts and amps or watts, as in \"5 V at 200 mA\", \"12 V at 20 W\", \"9–14 V "
                   "at 1 A\"; again "
                   "for more")
        ->allow_extra_args(false);
    app.add_option("--hours", asked.hours, "how long, as in 8 h");
    app.add_option("--from", asked.wishFrom,
                   "cells, hand, tool_pack, adapter, socket, sun or vehicle");
    app.add_option("--setting", asked.setting, "portable, worn, desk or outdoor");
    app.add_flag("--rechargeable", asked.rechargeable, "only cells that can be charged");
    app.add_option("--at-most-g", asked.mostGrams, "weighs no more, grams");
    app.add_option("--at-most-price", asked.mostPrice, "costs no more");
    app.add_option("--cells", asked.cells, "with --from hand: a CSV or JSON of cells to hand");
    app.add_option("-o,--output", asked.output, "where to write the project with its variants");
}

} // namespace

const Command kWish{"wish", "three supplies for so many volts, amps and hours", optionsWish,
                    answerWish};

} // namespace sipper::cli
