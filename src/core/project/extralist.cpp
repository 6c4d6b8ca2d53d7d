// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/extralist.hpp"

#include "project/json.hpp"

#include <algorithm>

namespace sipper {

std::vector<Json> extraList(const Project& project, std::string_view key) {
    std::vector<Json> list;
    for (const auto& [name, text] : project.extras) {
        if (name != key)
            continue;
        const auto parsed = parseJson(text);
        if (parsed && parsed.value().is_array())
            for (const Json& entry : parsed.value())
                if (entry.is_object())
                    list.push_back(entry);
    }
    return list;
}

Project withExtraList(const Project& project, std::string_view key, const Json& list) {
    Project out = project;
    const auto at = std::find_if(out.extras.begin(), out.extras.end(),
                                 [&](const auto& entry) { return entry.first == key; });
    if (list.empty()) {
        if (at != out.extras.end())
            out.extras.erase(at);
    } else if (at != out.extras.end()) {
        at->second = list.dump();
    } else {
        out.extras.emplace_back(key, list.dump());
    }
    return out;
}

std::string keptText(const Json& entry, const char* key) {
    const auto at = entry.find(key);
    return at != entry.end() && at->is_string() ? at->get<std::string>() : std::string();
}

std::optional<double> keptFigure(const Json& entry, const char* key) {
    const auto at = entry.find(key);
    return at != entry.end() && at->is_number() ? std::optional(at->get<double>()) : std::nullopt;
}

} // namespace sipper
