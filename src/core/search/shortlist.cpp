// SPDX-License-Identifier: GPL-3.0-or-later
#include "search/shortlist.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <set>
#include <tuple>

namespace sipper {
namespace {

constexpr std::size_t kShort = 5;
constexpr double kTooLong = 6; ///< times the hours asked for, past which nobody asked for more

} // namespace

bool beats(const Candidate& a, const Candidate& b) {
    return a.hours >= b.hours && a.grams <= b.grams && a.price <= b.price;
}

std::vector<std::size_t> paretoFrontOf(const std::vector<Candidate>& kept) {
    std::vector<std::size_t> order(kept.size());
    for (std::size_t i = 0; i < order.size(); ++i)
        order[i] = i;
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
        return std::tie(kept[b].hours, kept[a].grams, kept[a].price, kept[a].number) <
               std::tie(kept[a].hours, kept[b].grams, kept[b].price, kept[b].number);
    });
    std::vector<std::size_t> edge;
    for (const std::size_t i : order)
        if (std::none_of(edge.begin(), edge.end(),
                         [&](std::size_t e) { return beats(kept[e], kept[i]); }))
            edge.push_back(i);
    std::stable_sort(edge.begin(), edge.end(), [&](std::size_t a, std::size_t b) {
        return std::tie(kept[a].grams, kept[a].number) < std::tie(kept[b].grams, kept[b].number);
    });
    return edge;
}

std::vector<std::size_t> shortListOf(const std::vector<Candidate>& kept,
                                     const std::vector<std::size_t>& whole, double asked) {
    std::vector<std::size_t> edge = whole;
    std::erase_if(edge, [&](std::size_t i) { return kept[i].hours > kTooLong * asked; });
    if (edge.size() < kShort)
        edge = whole;
    std::vector<std::size_t> list;
    if (edge.empty())
        return list;
    const auto place = [&](std::size_t i) {
        return std::array{std::log(kept[i].hours), std::log(std::max(kept[i].grams, 0.1)),
                          std::log(std::max(kept[i].price, 0.01))};
    };
    const auto distance = [&](std::size_t a, std::size_t b) {
        const auto x = place(a);
        const auto y = place(b);
        return std::hypot(x[0] - y[0], x[1] - y[1], x[2] - y[2]);
    };
    // Of parts that the user has, where there is one; else the lightest.
    const auto own =
        std::find_if(edge.begin(), edge.end(), [&](std::size_t i) { return kept[i].own; });
    list.push_back(own != edge.end() ? *own : edge.front());
    while (list.size() < std::min(kShort, edge.size())) {
        std::set<Chemistry> seen;
        for (const std::size_t i : list)
            seen.insert(kept[i].chemistry);
        std::optional<std::size_t> best;
        std::pair<bool, double> most{false, -1};
        for (const std::size_t i : edge) {
            if (std::find(list.begin(), list.end(), i) != list.end())
                continue;
            double least = 1e300;
            for (const std::size_t other : list)
                least = std::min(least, distance(i, other));
            const std::pair<bool, double> score{!seen.contains(kept[i].chemistry), least};
            if (!best || score > most) {
                best = i;
                most = score;
            }
        }
        list.push_back(*best);
    }
    std::stable_sort(list.begin(), list.end(),
                     [&](std::size_t a, std::size_t b) { return kept[a].grams < kept[b].grams; });
    return list;
}

} // namespace sipper
