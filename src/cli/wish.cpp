#include "command.hpp"

#include "project/file.hpp"
#include "project/variants.hpp"
#include "project/writer.hpp"
#include "quantity/read.hpp"
#include "search/wish.hpp"

#include <fmt/format.h>

namespace sipper::cli {
namespace {

/// `cells`, `hand`, …: as a script says it.
constexpr std::array<std::string_view, kWishFroms> kFroms{"cells",  "hand", "tool_pack", "adapter",
                                                          "socket", "sun",  "vehicle"};

/// `5 V at 200 mA`, or `5 V, 200 mA`.
Outcome<WishNeed> needOf(const std::string& text) {
    const auto bad = [&] {
        return badOption("--need", text, "volts and amps, as in 5 V at 200 mA");
    };
    std::size_t cut = text.find(" at ");
    std::size_t after = cut == std::string::npos ? 0 : cut + 4;
    if (cut == std::string::npos) {
        cut = text.find(", ");
        after = cut == std::string::npos ? 0 : cut + 2;
    }
    if (cut == std::string::npos)
        return bad();
    const auto volts = readQuantity(text.substr(0, cut), Unit::volt);
    const auto amps = readQuantity(text.substr(after), Unit::ampere);
    if (!volts || !amps)
        return bad();
    return WishNeed{volts.value(), amps.value()};
}

Outcome<Answer> answerWish(const Asked& asked) {
    Wish wish;
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
    wish.from = static_cast<WishFrom>(from - kFroms.begin());
    const auto setting = valueOf<Setting>(asked.setting);
    if (!setting)
        return badOption("--setting", asked.setting, listed(namesOf<Setting>()));
    wish.setting = *setting;
    std::vector<HandCell> hand;
    for (const std::string& name : asked.cells) {
        const auto cells = readCellFile(name);
        if (!cells)
            return cells.error();
        hand.insert(hand.end(), cells.value().begin(), cells.value().end());
    }
    const auto granted = grant(wish, loadLibrary(), hand);
    if (!granted)
        return granted.error();
    const Granted& g = granted.value();
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
    app.add_flag("--json", asked.json, "print one JSON object");
    app.add_option("--need", asked.needs, "volts and amps, as in \"5 V at 200 mA\"; again for more")
        ->allow_extra_args(false);
    app.add_option("--hours", asked.hours, "how long, as in 8 h");
    app.add_option("--from", asked.wishFrom,
                   "cells, hand, tool_pack, adapter, socket, sun or vehicle");
    app.add_option("--setting", asked.setting, "portable, worn, desk or outdoor");
    app.add_option("--cells", asked.cells, "with --from hand: a CSV or JSON of cells to hand");
    app.add_option("-o,--output", asked.output, "where to write the project with its variants");
}

} // namespace

const Command kWish{"wish", "three supplies for so many volts, amps and hours", optionsWish,
                    answerWish};

} // namespace sipper::cli
