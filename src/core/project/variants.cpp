// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/variants.hpp"

#include <algorithm>

namespace sipper {
namespace {

constexpr const char* kFirst = "A";

/// Modes, stages and loads from one to the other, whatever they belong to.
template <class From, class To>
void copySupply(const From& from, To& to) {
    to.modes = from.modes;
    to.stages = from.stages;
    to.loads = from.loads;
}

std::string freeName(const Project& document) {
    const auto taken = [&](const std::string& name) {
        for (std::size_t i = 0; i < variantCount(document); ++i)
            if (variantName(document, i) == name)
                return true;
        return false;
    };
    for (char letter = 'A'; letter <= 'Z'; ++letter)
        if (!taken(std::string(1, letter)))
            return std::string(1, letter);
    int number = 2;
    while (taken(kFirst + std::to_string(number)))
        ++number;
    return kFirst + std::to_string(number);
}

} // namespace

std::size_t variantCount(const Project& document) {
    return document.variants.size() + 1;
}

std::string variantName(const Project& document, std::size_t number) {
    if (number > 0 && number <= document.variants.size())
        return document.variants[number - 1].name;
    return document.variant.empty() ? kFirst : document.variant;
}

Project variantProject(const Project& document, std::size_t number) {
    Project p = document;
    p.variants.clear();
    if (number > 0 && number <= document.variants.size()) {
        p.variant = document.variants[number - 1].name;
        copySupply(document.variants[number - 1], p);
    }
    return p;
}

Outcome<Project> variantNamed(const Project& document, const std::string& name) {
    if (name.empty())
        return variantProject(document, 0);
    std::string names;
    for (std::size_t number = 0; number < variantCount(document); ++number) {
        const std::string own = variantName(document, number);
        if (own == name)
            return variantProject(document, number);
        names += (names.empty() ? "" : ", ") + own;
    }
    return Error{"option", "--variant", '"' + name + '"', "one of " + names, ""};
}

Project withVariant(const Project& document, std::size_t number, const Project& edited) {
    Project after = edited;
    after.variant = document.variant;
    after.variants = document.variants;
    if (number > 0 && number <= document.variants.size()) {
        copySupply(edited, after.variants[number - 1]);
        copySupply(document, after);
    }
    return after;
}

Project withVariantAdded(const Project& document, const Project& supply) {
    Project after = document;
    Variant& added = after.variants.emplace_back();
    added.name = freeName(document);
    copySupply(supply, added);
    return after;
}

Project withVariantNamed(const Project& document, std::size_t number, const std::string& name) {
    Project after = document;
    if (number == 0)
        after.variant = name;
    else if (number <= after.variants.size())
        after.variants[number - 1].name = name;
    return after;
}

Project withoutVariant(const Project& document, std::size_t number) {
    if (document.variants.empty() || number > document.variants.size())
        return document;
    Project after = document;
    if (number == 0) {
        after.variant = document.variants.front().name;
        copySupply(document.variants.front(), after);
    }
    const auto gone = static_cast<std::ptrdiff_t>(number == 0 ? 0 : number - 1);
    after.variants.erase(after.variants.begin() + gone);
    return after;
}

} // namespace sipper
