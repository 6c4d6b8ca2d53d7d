// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/library.hpp"

#include "parts/kinds.hpp"
#include "project/file.hpp"
#include "project/json.hpp"
#include "project/writer.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace sipper {

namespace {

constexpr std::size_t kMostParts = 10000; ///< of one folder

std::string textOf(const Json& document, const char* key) {
    const auto at = document.find(key);
    return at != document.end() && at->is_string() ? at->get<std::string>() : std::string();
}

void readFolder(const std::filesystem::path& folder, bool own, Library& library) {
    std::error_code code;
    std::vector<std::filesystem::path> files;
    for (std::filesystem::directory_iterator it(folder, code), end; !code && it != end;
         it.increment(code))
        if (it->path().extension() == ".json" && files.size() < kMostParts)
            files.push_back(it->path());
    std::sort(files.begin(), files.end());
    for (const auto& file : files) {
        auto part = loadPart(file);
        if (!part) {
            library.skipped.push_back(part.error());
            continue;
        }
        library.parts.push_back(std::move(part).value());
        library.parts.back().own = own;
    }
}

} // namespace

Outcome<LibraryPart> loadPart(const std::filesystem::path& path) {
    const auto named = [&](Error error) {
        error.file = path.string();
        return error;
    };
    const auto text = readFile(path);
    if (!text)
        return named(text.error());
    auto parsed = parseJson(text.value());
    if (!parsed)
        return named(parsed.error());
    Json document = std::move(parsed).value();
    if (!document.is_object())
        return named(Error{"type", "", "something else", "an object with one part", ""});
    LibraryPart part;
    part.name = path.stem().string();
    part.note = textOf(document, "x-note");
    part.basis = textOf(document, "x-basis");
    if (const auto list = document.find("x-guessed"); list != document.end() && list->is_array())
        for (const Json& key : *list)
            if (key.is_string())
                part.guessed.push_back(key.get<std::string>());
    for (const char* key : {"x-note", "x-basis", "x-guessed"})
        document.erase(key);
    auto stage = readStage(document, "");
    if (!stage)
        return named(stage.error());
    part.stage = std::move(stage).value();
    part.stage.fedBy.clear();
    if (part.stage.make.empty() && !isPack(part.stage.part))
        part.stage.make = part.stage.label;
    return part;
}

Library loadLibrary(const std::filesystem::path& userFolder) {
    Library library;
    readFolder(dataFolder() / "cells", false, library);
    readFolder(dataFolder() / "parts", false, library);
    if (!userFolder.empty())
        readFolder(userFolder, true, library);
    return library;
}

const Library& shippedLibrary() {
    static const Library library = loadLibrary();
    return library;
}

const LibraryPart* Library::find(std::string_view name) const {
    const auto at = std::find_if(parts.begin(), parts.end(),
                                 [&](const LibraryPart& p) { return p.name == name; });
    return at == parts.end() ? nullptr : &*at;
}

std::string partText(const Stage& stage, const std::string& note, const std::string& basis) {
    Stage bare = stage;
    bare.id = "part";
    bare.fedBy.clear();
    if (!isSource(bare.part))
        bare.fedBy = {"part"};
    bare.feedsListed = false;
    Json document = writeStage(bare);
    if (!basis.empty())
        document["x-basis"] = basis;
    if (!note.empty())
        document["x-note"] = note;
    return document.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

std::string partFileName(std::string_view label) {
    std::string name;
    for (const char c : label) {
        const char low = c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c;
        const bool plain = (low >= 'a' && low <= 'z') || (low >= '0' && low <= '9') || low == '.';
        if (plain)
            name += low;
        else if (!name.empty() && name.back() != '-')
            name += '-';
    }
    while (!name.empty() && (name.back() == '-' || name.back() == '.'))
        name.pop_back();
    while (!name.empty() && name.front() == '.')
        name.erase(name.begin());
    return name.empty() ? "part" : name;
}

std::optional<Error> savePart(const std::filesystem::path& folder, const LibraryPart& part) {
    std::error_code code;
    std::filesystem::create_directories(folder, code);
    if (code)
        return Error{"unwritable", "", code.message(), "a folder that can be written",
                     folder.string()};
    return writeFile(folder / (part.name + ".json"), partText(part.stage, part.note, part.basis));
}

Outcome<Stage> shippedPart(std::string_view name, const std::string& id, const std::string& fedBy) {
    auto part = loadPart(dataFolder() / "parts" / (std::string(name) + ".json"));
    if (!part)
        return part.error();
    Stage stage = std::move(part).value().stage;
    stage.id = id;
    stage.fedBy = {fedBy};
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
