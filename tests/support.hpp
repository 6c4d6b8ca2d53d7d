// What the tests share: files, and small projects to bend.
#pragma once

#include "project/file.hpp"
#include "runtime/runtime.hpp"

#include <catch2/catch.hpp>
#include <filesystem>
#include <fstream>

namespace sipper::test {

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

inline Pack& packOf(Project& p) {
    return std::get<Pack>(p.stages[0].part);
}

} // namespace sipper::test
