// SPDX-License-Identifier: GPL-3.0-or-later
#include "measure/pairs.hpp"

#include "project/extralist.hpp"
#include "project/json.hpp"
#include "trace/csvtext.hpp"

#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr const char* kPairsKey = "x-pairs";

struct Side {
    double mean = 0;
    double variance = 0; ///< of one reading
};

Side sideOf(const std::vector<double>& list) {
    Side s;
    const auto count = static_cast<double>(list.size());
    for (const double v : list)
        s.mean += v / count;
    for (const double v : list)
        s.variance += list.size() > 1 ? (v - s.mean) * (v - s.mean) / (count - 1) : 0;
    return s;
}

std::vector<double> listIn(const Json& entry, const char* key) {
    std::vector<double> out;
    const auto at = entry.find(key);
    if (at != entry.end() && at->is_array())
        for (const Json& v : *at)
            if (v.is_number())
                out.push_back(v.get<double>());
    return out;
}

Json listOf(const std::vector<double>& list) {
    Json out = Json::array();
    for (const double v : list)
        out.push_back(number(v));
    return out;
}

} // namespace

PairVerdict judge(const ReadingPair& pair) {
    PairVerdict v;
    if (pair.cells.empty() || pair.supply.empty()) {
        v.says = "Read it a few times on the cells, and as often on the supply.";
        return v;
    }
    const Side a = sideOf(pair.cells);
    const Side b = sideOf(pair.supply);
    v.cells = a.mean;
    v.supply = b.mean;
    v.difference = b.mean - a.mean;
    v.enough = pair.cells.size() > 1 && pair.supply.size() > 1;
    const double digit = pair.resolution / 2;
    v.seen =
        2 * std::sqrt(a.variance / static_cast<double>(pair.cells.size()) +
                      b.variance / static_cast<double>(pair.supply.size()) + 2 * digit * digit / 3);
    v.differs = v.enough && std::abs(v.difference) > v.seen;
    const std::string unit = pair.unit.empty() ? "" : " " + pair.unit;
    if (!v.enough)
        v.says = fmt::format("{:+.3g}{} so far. One reading a side does not tell how far this "
                             "meter spreads: read it again.",
                             v.difference, unit);
    else if (v.differs)
        v.says = fmt::format("{:+.3g}{} on the supply; from {:.2g}{} on the meter can tell.",
                             v.difference, unit, v.seen, unit);
    else
        v.says = fmt::format("No difference that this meter can see: {:+.3g}{}, and it can tell "
                             "from {:.2g}{} on.",
                             v.difference, unit, v.seen, unit);
    return v;
}

std::vector<ReadingPair> pairsOf(const Project& project) {
    std::vector<ReadingPair> list;
    for (const Json& json : extraList(project, kPairsKey)) {
        ReadingPair p;
        p.what = keptText(json, "what");
        p.unit = keptText(json, "unit");
        p.cells = listIn(json, "cells");
        p.supply = listIn(json, "supply");
        p.resolution = keptFigure(json, "resolution").value_or(0);
        list.push_back(std::move(p));
    }
    return list;
}

Project withPairs(const Project& project, const std::vector<ReadingPair>& pairs) {
    Json list = Json::array();
    for (const ReadingPair& p : pairs)
        list.push_back({{"what", p.what},
                        {"unit", p.unit},
                        {"cells", listOf(p.cells)},
                        {"supply", listOf(p.supply)},
                        {"resolution", number(p.resolution)}});
    return withExtraList(project, kPairsKey, list);
}

Outcome<std::vector<double>> figuresIn(std::string_view text) {
    std::vector<double> out;
    std::size_t at = 0;
    while (at < text.size()) {
        const std::size_t from = text.find_first_not_of(" \t;/", at);
        if (from == std::string_view::npos)
            break;
        const std::size_t end = std::min(text.find_first_of(" \t;/", from), text.size());
        const std::string_view word = text.substr(from, end - from);
        auto value = cellNumber(word, '.');
        if (!value)
            value = cellNumber(word, ',');
        if (!value)
            return Error{"not_a_figure", "", '"' + std::string(word) + '"',
                         "figures, a blank between them", ""};
        out.push_back(*value);
        at = end;
    }
    return out;
}

} // namespace sipper
