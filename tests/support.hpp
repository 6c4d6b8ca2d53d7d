// SPDX-License-Identifier: GPL-3.0-or-later
// What the tests share: files, and small projects to bend.
#pragma once

#include "parts/fields.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/file.hpp"
#include "project/json.hpp"
#include "runtime/runtime.hpp"

#include <catch2/catch.hpp>
#include <cstdlib>
#include <filesystem>
#include <fstream>

namespace sipper::test {

/// Under sanitizers everything takes ten times as long: what proves figures runs a part there.
#ifdef __SANITIZE_ADDRESS__
inline constexpr bool kSanitized = true;
#else
inline constexpr bool kSanitized = false;
#endif

inline std::filesystem::path file(const std::string& name) {
    return std::filesystem::path(SIPPER_TEST_FILES) / name;
}

inline Project load(const std::filesystem::path& path) {
    auto read = loadProject(path);
    if (!read)
        FAIL(read.error().message());
    return std::move(read).value().project;
}

inline Project reference(const std::string& name) {
    return load(file("reference/" + name + ".sipper"));
}

inline Project example(const std::string& name) {
    return load(std::filesystem::path(SIPPER_SOURCE) / "data/examples" / (name + ".sipper"));
}

/// A folder of this test's own, gone with it: tests run side by side.
class Folder {
  public:
    Folder() {
        std::string name = (std::filesystem::temp_directory_path() / "sipper-XXXXXX").string();
        REQUIRE(::mkdtemp(name.data()) != nullptr);
        m_path = name;
    }
    ~Folder() {
        std::error_code code;
        std::filesystem::permissions(m_path, std::filesystem::perms::owner_all, code);
        std::filesystem::remove_all(m_path, code);
    }
    Folder(const Folder&) = delete;
    Folder& operator=(const Folder&) = delete;
    [[nodiscard]] const std::filesystem::path& path() const { return m_path; }
    [[nodiscard]] std::filesystem::path file(const std::string& name) const {
        return m_path / name;
    }

  private:
    std::filesystem::path m_path;
};

inline Json json(const std::filesystem::path& path) {
    std::ifstream in(path);
    return Json::parse(in);
}

/// One flat cell (constant volts), no losses: closed forms are exact.
inline Project idealProject(double cellVolts, double capacityAh) {
    Project p;
    p.name = "ideal";
    p.modes.push_back({});
    p.modes[0].id = "on";
    p.modes[0].base = true;
    Stage cells;
    cells.id = "cells";
    Pack pack;
    pack.cell.id = "flat";
    pack.cell.capacity = AmpHours{capacityAh};
    pack.cell.openCircuit = {{0, cellVolts}, {1, cellVolts}};
    cells.part = pack;
    p.stages.push_back(cells);
    return p;
}

inline Stage stageOf(const std::string& id, Part part, const std::string& fedBy) {
    Stage s;
    s.id = id;
    s.fedBy = {fedBy};
    s.part = std::move(part);
    return s;
}

inline Load loadOf(const std::string& id, const std::string& fedBy, double min, double max) {
    Load l;
    l.id = id;
    l.fedBy = fedBy;
    l.window.min = Volts{min};
    l.window.max = Volts{max};
    return l;
}

inline Draw currentDraw(const std::string& mode, double amps) {
    Draw d;
    d.mode = mode;
    d.current = Amps{amps};
    return d;
}
inline Draw powerDraw(const std::string& mode, double watts) {
    Draw d;
    d.mode = mode;
    d.power = Watts{watts};
    return d;
}

/// The figure of this key as the field tables have it; a test fails where the part has none.
inline double figureOf(const Part& part, std::string_view key) {
    const FieldValue value = valueOf(part, key);
    INFO(key);
    REQUIRE(std::holds_alternative<double>(value));
    return std::get<double>(value);
}

inline Pack& packOf(Project& p) {
    return std::get<Pack>(p.stages[0].part);
}

} // namespace sipper::test
