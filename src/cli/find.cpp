// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.hpp"

#include "project/json.hpp"

#include "project/file.hpp"
#include "project/writer.hpp"
#include "quantity/read.hpp"
#include "quantity/write.hpp"
#include "search/search.hpp"

#include <algorithm>
#include <charconv>
#include <chrono>
#include <cstdio>
#include <fmt/format.h>
#include <unistd.h>

namespace sipper::cli {
namespace {

Json candidateJson(const Candidate& c) {
    Json rails = Json::array();
    for (const Candidate::OnRail& r : c.rails)
        rails.push_back({{"loads", r.loads},
                         {"kind", r.kind},
                         {"part", r.part.empty() ? Json() : Json(r.part)},
                         {"behind", r.behind ? Json(*r.behind) : Json()}});
    Json out{{"n", c.number},
             {"says", c.says},
             {"cell", c.cell},
             {"series", number(c.series)},
             {"parallel", number(c.parallel)},
             {"rails", std::move(rails)},
             {"runtime_h", c.hours},
             {"mass_g", c.grams},
             {"price", c.price},
             {"worst_share", c.worstShare}};
    out["refill"] = c.refill
                        ? Json{{"by", c.refill->by},
                               {"part", c.refill->part.empty() ? Json() : Json(c.refill->part)},
                               {"refill_h", c.refill->hours ? Json(*c.refill->hours) : Json()},
                               {"mass_g", c.refill->grams},
                               {"price", c.refill->price}}
                        : Json();
    out["advice"] =
        c.advice
            ? Json{{"stop", c.advice->stop}, {"care", c.advice->care}, {"note", c.advice->note}}
            : Json();
    return out;
}

Json findJson(const Search& s, bool all) {
    Json fell = Json::object();
    for (std::size_t k = 0; k < kRejectReasons; ++k)
        fell[std::string(rejectReasonName(static_cast<RejectReason>(k)))] = s.counts.rejected[k];
    Json out{{"tried", s.counts.tried},
             {"ran", s.counts.ran},
             {"kept", s.counts.kept},
             {"fell_out", std::move(fell)}};
    out["yours"] = s.hasYours ? candidateJson(s.yours) : Json();
    if (s.hasYours)
        out["yours"]["n"] = nullptr;
    out["edge"] = Json::array();
    for (const std::size_t i : s.paretoFront)
        out["edge"].push_back(candidateJson(s.feasible[i]));
    out["short_list"] = Json::array();
    for (const std::size_t i : s.shortList)
        out["short_list"].push_back(s.feasible[i].number);
    if (all) {
        out["candidates"] = Json::array();
        for (const Candidate& c : s.feasible)
            out["candidates"].push_back(candidateJson(c));
    }
    return out;
}

std::string line(const Candidate& c) {
    return fmt::format("{:>10} {:>9.1f} g {:>8.2f}  {:>4.0f} %  {}\n", writeHours(c.hours), c.grams,
                       c.price, c.worstShare * 100, c.says);
}

std::string findText(const Search& s) {
    std::string out = fmt::format("{} of {} supplies do it; {} of them are beaten by none.\n",
                                  s.counts.kept, s.counts.tried, s.paretoFront.size());
    for (const std::size_t i : s.shortList)
        out += fmt::format("{:>12}{}", s.feasible[i].number, line(s.feasible[i]));
    if (s.hasYours)
        out += fmt::format("{:>12}{}", "yours", line(s.yours));
    for (std::size_t k = 0; k < kRejectReasons; ++k)
        if (s.counts.rejected[k] > 0)
            out += fmt::format("{:>12}  {}\n", s.counts.rejected[k],
                               rejectReasonText(static_cast<RejectReason>(k)));
    return out;
}

Outcome<std::optional<double>> limit(const std::string& option, const std::string& text,
                                     Unit unit) {
    if (text.empty())
        return std::optional<double>();
    auto value = readQuantity(text, unit);
    if (!value || value.value() < 0)
        return badOption(option, text, "a figure of 0 or more");
    return std::optional(value.value());
}

/// What the search has counted so far, on standard error where that is a terminal and a second has
/// passed.
class SearchProgressLine {
  public:
    void say(const SearchCounts& n) {
        if (!m_terminal || std::chrono::steady_clock::now() - m_started < std::chrono::seconds(1))
            return;
        m_said = true;
        fmt::print(stderr, "\r{} of {} looked at, {} run, {} do it\033[K", n.tried, n.total, n.ran,
                   n.kept);
        std::fflush(stderr);
    }
    void clear() const {
        if (m_said)
            fmt::print(stderr, "\r\033[K");
    }

  private:
    const bool m_terminal = isatty(STDERR_FILENO) != 0;
    const std::chrono::steady_clock::time_point m_started = std::chrono::steady_clock::now();
    bool m_said = false;
};

Outcome<Answer> answerFind(const Asked& asked) {
    const auto project = askedProject(asked);
    if (!project)
        return project.error();
    SearchOptions ask;
    const auto grams = limit("--at-most-g", asked.mostGrams, Unit::gram);
    const auto price = limit("--at-most-price", asked.mostPrice, Unit::money);
    const auto hours = limit("--at-least-h", asked.leastHours, Unit::hour);
    for (const auto* read : {&grams, &price, &hours})
        if (!*read)
            return read->error();
    ask.mostGrams = grams.value();
    ask.mostPrice = price.value();
    ask.leastHours = hours.value();
    ask.adviseWholeFront = asked.adviseAll;
    for (const std::string& name : asked.cells) {
        const bool file = name.ends_with(".csv") || name.ends_with(".json") ||
                          name.find('/') != std::string::npos;
        if (!file) {
            ask.cells.push_back(name);
            continue;
        }
        const auto cells = readCellFile(name);
        if (!cells)
            return cells.error();
        ask.hand.insert(ask.hand.end(), cells.value().begin(), cells.value().end());
        if (cells.value().empty())
            return Error{"no_cells", "", "no cell", "one at least", name};
    }
    if (!ask.hand.empty() && !ask.cells.empty())
        return badOption("--cells", ask.cells.front() + " beside a file",
                         "cells of the library or of files, not both");
    const Library library = loadLibrary();
    if (!asked.take.empty()) {
        std::uint64_t number = 0;
        const char* end = asked.take.data() + asked.take.size();
        const auto [at, code] = std::from_chars(asked.take.data(), end, number);
        if (code != std::errc{} || at != end)
            return badOption("--take", asked.take, "the number of a candidate");
        if (asked.output.empty())
            return badOption("--take", "no -o", "where to write the project");
        auto taken = takeCandidate(project.value(), library, ask, number, asked.withCharger);
        if (!taken)
            return taken.error();
        if (auto error = saveProject(asked.output, taken.value()))
            return *error;
        return Answer{Json{{"written", asked.output}, {"n", number}}, asked.output + "\n"};
    }
    SearchProgressLine progress;
    const auto found = findSupplies(
        project.value(), library, ask, {},
        [&](const SearchCounts& n, const std::vector<Candidate>&) { progress.say(n); });
    progress.clear();
    if (!found)
        return found.error();
    return Answer{findJson(found.value(), asked.all), findText(found.value())};
}

void optionsFind(CLI::App& app, Asked& asked) {
    addFile(app, asked);
    addVariant(app, asked);
    app.add_option("--at-most-g", asked.mostGrams, "weighs no more, grams; beside the brief's");
    app.add_option("--at-most-price", asked.mostPrice, "costs no more; beside the brief's");
    app.add_option("--at-least-h", asked.leastHours, "runs no shorter, hours");
    app.add_option("--cells", asked.cells,
                   "only these: names of library cells, or a CSV or JSON of cells to hand");
    app.add_flag("--all", asked.all, "every candidate that was kept, not only the edge");
    app.add_flag("--advise-all", asked.adviseAll,
                 "advice for the whole edge, not the short list alone");
    app.add_option("--take", asked.take, "write candidate N as a project");
    app.add_flag("--with-charger", asked.withCharger,
                 "with --take: and the charger by which the brief refills it");
    app.add_option("-o,--output", asked.output, "where to write it");
}

} // namespace

const Command kFind{"find", "every supply that the library's parts can make for these loads",
                    optionsFind, answerFind};

} // namespace sipper::cli
