#include "project/library.hpp"

#include "project/file.hpp"
#include "project/json.hpp"

#include <fmt/format.h>

namespace sipper {

Outcome<Stage> shippedPart(std::string_view name, const std::string& id, const std::string& fedBy) {
    const auto path = dataFolder() / "parts" / (std::string(name) + ".json");
    const auto text = readFile(path);
    if (!text)
        return text.error();
    const auto named = [&](Error error) {
        error.file = path.string();
        return error;
    };
    auto parsed = parseJson(text.value());
    if (!parsed)
        return named(parsed.error());
    Json document = std::move(parsed).value();
    document["id"] = id;
    document["fed_by"] = fedBy;
    auto stage = readStage(document, "");
    if (!stage)
        return named(stage.error());
    return stage;
}

std::string freeId(const Project& project, const std::string& wanted) {
    std::string id = wanted;
    for (int n = 2; project.stage(id) || project.load(id); ++n)
        id = fmt::format("{}{}", wanted, n);
    return id;
}

std::string freeModeId(const Project& project) {
    for (int n = 1;; ++n)
        if (const std::string id = fmt::format("mode{}", n); !project.mode(id))
            return id;
}

} // namespace sipper
