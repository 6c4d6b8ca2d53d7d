// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/reader.hpp"

#include "project/objectreader.hpp"

#include "parts/fields.hpp"
#include "parts/kinds.hpp"
#include "project/json.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

Cell readCellObject(const Json& value, const std::string& at, Warnings& warnings) {
    ObjectReader in(value, at, warnings, "a cell");
    Cell cell;
    in.fields(cell);
    const Json& curve = in.need("open_circuit_v", "a list of [charge, volts] points");
    if (!curve.is_array() || curve.size() < 2)
        refuse("type", in.pointer("open_circuit_v"), foundText(curve),
               "a list of at least two [charge, volts] points");
    cell.openCircuit =
        readTable(curve, in.pointer("open_circuit_v"), {0, 1, false}, {0, 100, false}, true);
    const auto factors = [&](const char* key, Limits x) {
        const Json* list = in.list(key, "a list of points");
        if (list && list->empty())
            refuse("type", in.pointer(key), "an empty list", "at least one point");
        return list ? readTable(*list, in.pointer(key), x, {0, 1000, true}, false) : Table{};
    };
    cell.capacityByC = factors("capacity_by_c", {-273.15, 1000, false});
    cell.resistanceByC = factors("resistance_by_c", {-273.15, 1000, false});
    cell.resistanceByCharge = factors("resistance_by_charge", {0, 1, false});
    cell.extras = in.rest();
    return cell;
}

Connector readConnector(const Json& value, const std::string& at, Warnings& warnings) {
    ObjectReader in(value, at, warnings, "a connector");
    Connector connector;
    in.fields(connector);
    connector.extras = in.rest();
    return connector;
}

void readFeeds(ObjectReader& in, Stage& stage) {
    const bool source = isSource(stage.part);
    const Json* feeds = in.find("fed_by");
    if (!feeds) {
        if (!source)
            refuse("missing", in.pointer("fed_by"), "nothing", "the id of the stage that feeds it");
        return;
    }
    if (source)
        refuse("source_fed", in.pointer("fed_by"), foundText(*feeds),
               "nothing: a source is not fed by a stage");
    if (!feeds->is_array()) {
        stage.fedBy.push_back(ObjectReader::idOf(*feeds, in.pointer("fed_by")));
        return;
    }
    if (!kindFacts(stage.part).severalFeeds)
        refuse("type", in.pointer("fed_by"), foundText(*feeds),
               "one id: only select and charger take a list");
    if (feeds->empty())
        refuse("missing", in.pointer("fed_by"), "an empty list", "at least one id");
    stage.feedsListed = true;
    for (std::size_t i = 0; i < feeds->size(); ++i)
        stage.fedBy.push_back(
            ObjectReader::idOf((*feeds)[i], fmt::format("{}/{}", in.pointer("fed_by"), i)));
}

Stage readStageObject(const Json& value, const std::string& at, Warnings& warnings) {
    ObjectReader in(value, at, warnings, "a stage");
    Stage stage;
    stage.id = in.id("id");
    const Json& kind = in.need("kind", "one of " + kindNames());
    if (!kind.is_string())
        refuse("type", in.pointer("kind"), foundText(kind), "one of " + kindNames());
    const auto part = partOfKind(kind.get<std::string>());
    if (!part)
        refuse("name", in.pointer("kind"), foundText(kind), "one of " + kindNames());
    stage.part = *part;
    stage.label = in.text("label").value_or("");
    stage.make = in.text("make").value_or("");
    readFeeds(in, stage);
    std::visit([&](auto& p) { in.fields(p); }, stage.part);
    if (Pack* pack = std::get_if<Pack>(&stage.part))
        pack->cell = readCellObject(in.need("cell", "the cell the pack is made of"),
                                    in.pointer("cell"), warnings);
    if (const Wire* wire = std::get_if<Wire>(&stage.part))
        if (wire->area.has_value() == wire->awg.has_value())
            refuse("missing", in.pointer("area_mm2"), wire->area ? "awg as well" : "nothing",
                   "either area_mm2 or awg");
    in.fields(stage);
    if (const Json* connector = in.find("connector"))
        stage.connector = readConnector(*connector, in.pointer("connector"), warnings);
    stage.extras = in.rest();
    return stage;
}

Mode readMode(const Json& value, const std::string& at, Warnings& warnings) {
    ObjectReader in(value, at, warnings, "a mode");
    Mode mode;
    mode.id = in.id("id");
    mode.label = in.text("label").value_or("");
    in.fields(mode);
    if (const Json* daily = in.list("daily", "a list of [from, to] times")) {
        if (daily->empty())
            refuse("missing", in.pointer("daily"), "an empty list", "at least one [from, to] pair");
        for (std::size_t i = 0; i < daily->size(); ++i) {
            const std::string here = fmt::format("{}/{}", in.pointer("daily"), i);
            const Json& pair = (*daily)[i];
            if (!pair.is_array() || pair.size() != 2)
                refuse("type", here, foundText(pair),
                       "a pair of times, such as [\"21:00\", \"01:00\"]");
            for (std::size_t k = 0; k < 2; ++k)
                if (!pair[k].is_string() || !clockMinutes(pair[k].get<std::string>()))
                    refuse("type", fmt::format("{}/{}", here, k), foundText(pair[k]),
                           "a time from \"00:00\" to \"24:00\"");
            mode.daily.emplace_back(pair[0].get<std::string>(), pair[1].get<std::string>());
        }
    }
    mode.within = in.text("within").value_or("");
    mode.extras = in.rest();
    return mode;
}

Draw readDraw(const Json& value, const std::string& at, Warnings& warnings) {
    ObjectReader in(value, at, warnings, "a draw");
    Draw draw;
    draw.mode = in.id("mode");
    in.fields(draw);
    const int named = (draw.current ? 1 : 0) + (draw.power ? 1 : 0) + (draw.resistance ? 1 : 0) +
                      (draw.led ? 1 : 0);
    if (named != 1)
        refuse("draw", at, named == 0 ? "none of them" : "several of them",
               "exactly one of current_a, power_w, load_ohm and led_a");
    if (draw.led.has_value() != draw.ledVolts.has_value())
        refuse("draw", at + (draw.led ? "/led_v" : "/led_a"), "nothing",
               draw.led ? "led_v, because led_a is given" : "led_a, because led_v is given");
    if (draw.burst && draw.burstOhms)
        refuse("burst", at, "both", "burst_a or burst_ohm, not both");
    draw.extras = in.rest();
    return draw;
}

Load readLoad(const Json& value, const std::string& at, Warnings& warnings) {
    ObjectReader in(value, at, warnings, "a load");
    Load load;
    load.id = in.id("id");
    load.label = in.text("label").value_or("");
    load.fedBy = in.id("fed_by");
    in.fields(load);
    if (const Json* connector = in.find("connector"))
        load.connector = readConnector(*connector, in.pointer("connector"), warnings);
    ObjectReader window(in.need("window", "the voltages that the load accepts"),
                        in.pointer("window"), warnings, "a voltage window");
    window.fields(load.window);
    load.window.extras = window.rest();
    if (const Json* draws = in.list("draws", "a list of draws"))
        for (std::size_t i = 0; i < draws->size(); ++i)
            load.draws.push_back(
                readDraw((*draws)[i], fmt::format("{}/{}", in.pointer("draws"), i), warnings));
    load.extras = in.rest();
    return load;
}

/// Exactly one value, of the check's unit: what is too much is named before what is missing.
void checkValue(const ObjectReader& in, const Reading& reading) {
    if (reading.checks == CheckKind::point && !reading.quantity)
        refuse("missing", in.pointer("quantity"), "nothing",
               "one of " + listed(namesOf<PointQuantity>()) + ", because a point is read");
    const Unit unit = unitRead(reading.checks, reading.quantity);
    struct Value {
        const char* key;
        Unit unit;
        bool there;
    };
    const std::array<Value, 3> values{Value{"value_v", Unit::volt, reading.volts.has_value()},
                                      Value{"value_a", Unit::ampere, reading.amps.has_value()},
                                      Value{"value_c", Unit::celsius, reading.celsius.has_value()}};
    const auto wanted =
        std::find_if(values.begin(), values.end(), [&](const Value& v) { return v.unit == unit; });
    const std::string expected =
        fmt::format("{} alone, because {} is read", wanted->key, nameOf(reading.checks));
    for (const Value& v : values)
        if (v.there && v.unit != unit)
            refuse("reading", in.pointer(v.key), "a value of another unit", expected);
    if (!wanted->there)
        refuse("missing", in.pointer(wanted->key), "nothing", expected);
}

Reading readReading(const Json& value, const std::string& at, Warnings& warnings) {
    ObjectReader in(value, at, warnings, "a reading");
    Reading reading;
    reading.id = in.id("id");
    in.fields(reading);
    checkValue(in, reading);
    reading.extras = in.rest();
    return reading;
}

Brief readBrief(const Json& value, Warnings& warnings) {
    static constexpr std::array<std::string_view, 5> kRefills{"swap", "socket", "adapter",
                                                              "vehicle", "sun"};
    ObjectReader in(value, "/brief", warnings, "the brief");
    Brief brief;
    in.fields(brief);
    brief.startTime = in.text("start_time");
    if (brief.startTime && !clockMinutes(*brief.startTime))
        refuse("type", "/brief/start_time", "\"" + brief.startTime->substr(0, 40) + "\"",
               "a time from \"00:00\" to \"24:00\"");
    if (const Json* ambient = in.find("ambient_c")) {
        ObjectReader air(*ambient, "/brief/ambient_c", warnings, "low, typical and high");
        Ambient read;
        air.fields(read);
        if (read.coldest() > read.warmest() || read.usual() < read.coldest() ||
            read.usual() > read.warmest())
            refuse("range", "/brief/ambient_c", foundText(*ambient), "low <= typical <= high");
        read.extras = air.rest();
        brief.ambient = read;
    }
    if (const Json* refills = in.list("refilled_by", "a list of names")) {
        brief.refilledBy.emplace();
        for (std::size_t i = 0; i < refills->size(); ++i) {
            const Json& name = (*refills)[i];
            if (!name.is_string() || std::find(kRefills.begin(), kRefills.end(),
                                               name.get<std::string>()) == kRefills.end())
                refuse("name", fmt::format("/brief/refilled_by/{}", i), foundText(name),
                       "one of " + listed(kRefills));
            brief.refilledBy->push_back(name.get<std::string>());
        }
    }
    if (const Json* room = in.list("room_mm", "length, width and height in mm")) {
        std::array<double, 3> sides{};
        const bool three = room->size() == sides.size();
        for (std::size_t i = 0; i < sides.size(); ++i) {
            if (!three || !(*room)[i].is_number() || (*room)[i].get<double>() <= 0)
                refuse("room", "/brief/room_mm", foundText(*room),
                       "three numbers over 0: length, width and height in mm");
            sides[i] = (*room)[i].get<double>();
        }
        brief.room = sides;
    }
    brief.extras = in.rest();
    return brief;
}

template <class T, class Reader>
std::vector<T> readList(ObjectReader& in, std::string_view key, const char* expected,
                        Warnings& warnings, Reader reader) {
    const Json& list = in.need(key, expected);
    if (!list.is_array())
        refuse("type", in.pointer(key), foundText(list), expected);
    std::vector<T> items;
    for (std::size_t i = 0; i < list.size(); ++i)
        items.push_back(reader(list[i], fmt::format("{}/{}", in.pointer(key), i), warnings));
    return items;
}

/// What the variant leaves out is as in the supply at the top.
Variant readVariant(const Json& value, const std::string& at, const Project& top,
                    Warnings& warnings) {
    ObjectReader in(value, at, warnings, "a variant");
    Variant variant;
    const auto name = in.text("name");
    if (!name)
        refuse("missing", in.pointer("name"), "nothing", "the name of the variant, such as B");
    variant.name = *name;
    variant.modes = in.find("modes")
                        ? readList<Mode>(in, "modes", "a list of modes", warnings, readMode)
                        : top.modes;
    variant.stages = in.find("stages") ? readList<Stage>(in, "stages", "a list of stages", warnings,
                                                         readStageObject)
                                       : top.stages;
    variant.loads = in.find("loads")
                        ? readList<Load>(in, "loads", "a list of loads", warnings, readLoad)
                        : top.loads;
    variant.extras = in.rest();
    return variant;
}

void readHeader(ObjectReader& in) {
    const Json& format = in.need("format", "\"sipper\"");
    if (format != "sipper")
        refuse("not_sipper", "/format", foundText(format), "\"sipper\"");
    const Json& version = in.need("version", fmt::format("{}", kFormatVersion));
    if (!version.is_number())
        refuse("type", "/version", foundText(version), fmt::format("{}", kFormatVersion));
    if (version.get<double>() > kFormatVersion)
        refuse("newer_version", "/version", foundText(version),
               fmt::format("{}: the file was written by a newer Sipper", kFormatVersion));
    if (version.get<double>() != kFormatVersion)
        refuse("type", "/version", foundText(version), fmt::format("{}", kFormatVersion));
}

template <class T, class F>
Outcome<T> guarded(F read) {
    try {
        return read();
    } catch (const Refused& refused) {
        return refused.error;
    }
}

} // namespace

Outcome<LoadedProject> readProject(const Json& document) {
    return guarded<LoadedProject>([&]() -> Outcome<LoadedProject> {
        LoadedProject read;
        ObjectReader in(document, "", read.warnings, "a Sipper project");
        Project& p = read.project;
        readHeader(in);
        p.name = in.text("name").value_or("");
        p.notes = in.text("notes").value_or("");
        if (const Json* brief = in.find("brief"))
            p.brief = readBrief(*brief, read.warnings);
        p.modes = readList<Mode>(in, "modes", "a list of modes", read.warnings, readMode);
        p.stages =
            readList<Stage>(in, "stages", "a list of stages", read.warnings, readStageObject);
        p.loads = readList<Load>(in, "loads", "a list of loads", read.warnings, readLoad);
        if (in.list("readings", "a list of readings"))
            p.readings = Readings(readList<Reading>(in, "readings", "a list of readings",
                                                    read.warnings, readReading));
        p.variant = in.text("variant").value_or("");
        if (in.list("variants", "a list of variants"))
            p.variants = readList<Variant>(
                in, "variants", "a list of variants", read.warnings,
                [&](const Json& value, const std::string& at, Warnings& warnings) {
                    return readVariant(value, at, p, warnings);
                });
        p.extras = in.rest();
        if (const auto trouble = checkProject(p))
            return *trouble;
        return read;
    });
}

Outcome<Cell> readCell(const Json& value, const std::string& at) {
    return guarded<Cell>([&]() -> Outcome<Cell> {
        Warnings warnings;
        return readCellObject(value, at, warnings);
    });
}

Outcome<Stage> readStage(const Json& value, const std::string& at) {
    return guarded<Stage>([&]() -> Outcome<Stage> {
        Warnings warnings;
        return readStageObject(value, at, warnings);
    });
}

} // namespace sipper
