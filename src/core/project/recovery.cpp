// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/recovery.hpp"

#include "project/json.hpp"
#include "project/reader.hpp"
#include "project/writer.hpp"

#include <sys/stat.h>

namespace sipper {
namespace {

constexpr const char* kFormat = "sipper-recovery";
constexpr std::int64_t kPerSecond = 1'000'000'000;

std::string textAt(const Json& object, const char* key) {
    const auto at = object.find(key);
    return at != object.end() && at->is_string() ? at->get<std::string>() : std::string();
}
template <class T>
T numberAt(const Json& object, const char* key) {
    const auto at = object.find(key);
    return at != object.end() && at->is_number_integer() ? at->get<T>() : T{};
}

} // namespace

FileStamp stampOf(const std::filesystem::path& path) {
    struct stat now {};
    if (path.empty() || ::stat(path.c_str(), &now) != 0)
        return {};
    return {static_cast<std::int64_t>(now.st_mtim.tv_sec) * kPerSecond + now.st_mtim.tv_nsec,
            static_cast<std::uintmax_t>(now.st_size)};
}

std::string recoveryText(const Recovery& r) {
    Json out = Json::object();
    out["format"] = kFormat;
    out["path"] = r.path;
    out["file_ns"] = r.stamp.nanoseconds;
    out["file_bytes"] = r.stamp.bytes;
    out["origin"] = r.origin;
    out["when"] = r.when;
    out["edits"] = r.edits;
    out["variant"] = r.variant;
    out["document"] = writeProject(r.document);
    return out.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

namespace {

constexpr int kMostLost = 64; ///< parts that are left out of a rescued one

Outcome<Recovery> recoveryOf(const Json& object) {
    if (!object.is_object() || textAt(object, "format") != kFormat || !object.contains("document"))
        return Error{"not_recovery", "/format", "something else", std::string(kFormat), ""};
    auto read = readProject(object["document"]);
    if (!read) {
        Error error = read.error();
        error.where = "/document" + error.where;
        return error;
    }
    Recovery r;
    r.path = textAt(object, "path");
    r.stamp = {numberAt<std::int64_t>(object, "file_ns"),
               numberAt<std::uintmax_t>(object, "file_bytes")};
    r.origin = textAt(object, "origin");
    r.when = textAt(object, "when");
    r.edits = std::max(0, numberAt<int>(object, "edits"));
    r.variant =
        std::min(numberAt<std::size_t>(object, "variant"), read.value().project.variants.size());
    r.document = std::move(read).value().project;
    return r;
}

/// Takes the smallest part out that a pointer leads to: the member itself, else the nearest thing
/// on the way that is there. False where nothing is.
bool takeOut(Json& object, const std::string& pointer) {
    std::string at = pointer;
    while (at.size() > std::string("/document").size()) {
        const auto slash = at.rfind('/');
        const Json::json_pointer place(at);
        const Json::json_pointer parent(at.substr(0, slash));
        if (object.contains(parent)) {
            Json& in = object[parent];
            const std::string key = place.back();
            if (in.is_object() && in.contains(key)) {
                in.erase(key);
                return true;
            }
            if (in.is_array() && object.contains(place)) {
                in.erase(static_cast<std::size_t>(std::stoul(key)));
                return true;
            }
        }
        at.resize(slash);
    }
    return false;
}

} // namespace

Outcome<Recovery> readRecovery(std::string_view text) {
    auto parsed = parseJson(text);
    if (!parsed)
        return parsed.error();
    return recoveryOf(parsed.value());
}

Outcome<Recovery> rescueRecovery(std::string_view text) {
    auto parsed = parseJson(text);
    if (!parsed)
        return parsed.error();
    Json object = std::move(parsed).value();
    std::vector<std::string> lost;
    for (int round = 0;; ++round) {
        auto read = recoveryOf(object);
        if (read) {
            Recovery r = std::move(read).value();
            r.lost = std::move(lost);
            return r;
        }
        const std::string where = read.error().where;
        // A part that went for its figure, and is missed for it, goes whole.
        const bool again =
            !lost.empty() && where.starts_with(lost.back().substr(0, lost.back().rfind('/')));
        const std::string out = again ? where.substr(0, where.rfind('/')) : where;
        if (round >= kMostLost || !where.starts_with("/document/") || !takeOut(object, out))
            return read.error();
        lost.push_back(out);
    }
}

} // namespace sipper
