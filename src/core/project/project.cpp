// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/project.hpp"

#include <algorithm>

namespace sipper {
namespace {

template <class List>
auto* find(List& list, std::string_view id) {
    const auto at =
        std::find_if(list.begin(), list.end(), [&](const auto& x) { return x.id == id; });
    return at == list.end() ? nullptr : &*at;
}

} // namespace

const Stage* Project::stage(std::string_view id) const {
    return find(stages, id);
}
Stage* Project::stage(std::string_view id) {
    return find(stages, id);
}
const Load* Project::load(std::string_view id) const {
    return find(loads, id);
}
Load* Project::load(std::string_view id) {
    return find(loads, id);
}
const Mode* Project::mode(std::string_view id) const {
    return find(modes, id);
}

std::size_t Project::baseMode() const {
    for (std::size_t i = 0; i < modes.size(); ++i)
        if (modes[i].isBase())
            return i;
    return 0;
}

const Stage* Project::packStage() const {
    const auto at = std::find_if(stages.begin(), stages.end(), [](const Stage& s) {
        return std::holds_alternative<Pack>(s.part);
    });
    return at == stages.end() ? nullptr : &*at;
}

const Pack* Project::pack() const {
    const Stage* found = packStage();
    return found ? &std::get<Pack>(found->part) : nullptr;
}

std::vector<std::string> Project::fedFrom(std::string_view id) const {
    std::vector<std::string> ids;
    for (const Stage& s : stages)
        if (std::find(s.fedBy.begin(), s.fedBy.end(), id) != s.fedBy.end())
            ids.push_back(s.id);
    for (const Load& l : loads)
        if (l.fedBy == id)
            ids.push_back(l.id);
    return ids;
}

double Project::massGrams() const {
    double grams = 0;
    for (const Stage& s : stages) {
        grams += s.mass.value_or(Grams{0}).value();
        if (const Pack* p = std::get_if<Pack>(&s.part))
            grams += p->series * p->parallel * p->cell.mass.value_or(Grams{0}).value();
    }
    for (const Load& l : loads)
        grams += l.mass.value_or(Grams{0}).value();
    return grams;
}

double Project::totalPrice() const {
    double sum = 0;
    for (const Stage& s : stages) {
        sum += s.price.value_or(0);
        if (const Pack* p = std::get_if<Pack>(&s.part))
            sum += p->series * p->parallel * p->cell.price.value_or(0);
    }
    for (const Load& l : loads)
        sum += l.price.value_or(0);
    return sum;
}

} // namespace sipper
