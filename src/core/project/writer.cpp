// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/writer.hpp"

#include "parts/fields.hpp"
#include "parts/kinds.hpp"
#include "project/json.hpp"
#include "project/reader.hpp"

namespace sipper {
namespace {

Json namesList(const std::string& joined) {
    Json list = Json::array();
    for (std::size_t at = 0; at < joined.size();) {
        const std::size_t end = std::min(joined.find(", ", at), joined.size());
        list.push_back(joined.substr(at, end - at));
        at = end + 2;
    }
    return list;
}

template <class T>
void putFields(Json& out, const T& owner) {
    for (const Field<T>& f : fieldsOf<T>()) {
        const FieldValue value = f.get(owner);
        if (const double* figure = std::get_if<double>(&value))
            out[std::string(f.key)] = number(*figure);
        else if (const bool* flag = std::get_if<bool>(&value))
            out[std::string(f.key)] = *flag;
        else if (const std::string* text = std::get_if<std::string>(&value);
                 text && f.kind == FieldKind::names)
            out[std::string(f.key)] = namesList(*text);
        else if (text)
            if (!text->empty() || f.required)
                out[std::string(f.key)] = *text;
    }
}

void putExtras(Json& out, const Extras& extras) {
    for (const auto& [key, text] : extras)
        out[key] = Json::parse(text, nullptr, false);
}

void putText(Json& out, const char* key, const std::string& text) {
    if (!text.empty())
        out[key] = text;
}

void putTable(Json& out, const char* key, const Table& table) {
    if (table.empty())
        return;
    Json list = Json::array();
    for (const auto& [x, y] : table)
        list.push_back(Json::array({number(x), number(y)}));
    out[key] = std::move(list);
}

Json writeConnector(const Connector& connector) {
    Json out = Json::object();
    putFields(out, connector);
    putExtras(out, connector.extras);
    return out;
}

Json writeMode(const Mode& mode) {
    Json out = Json::object();
    out["id"] = mode.id;
    putText(out, "label", mode.label);
    putFields(out, mode);
    if (!mode.daily.empty()) {
        Json list = Json::array();
        for (const auto& [from, to] : mode.daily)
            list.push_back(Json::array({from, to}));
        out["daily"] = std::move(list);
    }
    putText(out, "within", mode.within);
    putExtras(out, mode.extras);
    return out;
}

Json writeDraw(const Draw& draw) {
    Json out = Json::object();
    out["mode"] = draw.mode;
    putFields(out, draw);
    putExtras(out, draw.extras);
    return out;
}

Json writeLoad(const Load& load) {
    Json out = Json::object();
    out["id"] = load.id;
    putText(out, "label", load.label);
    out["fed_by"] = load.fedBy;
    putFields(out, load);
    if (load.connector)
        out["connector"] = writeConnector(*load.connector);
    Json window = Json::object();
    putFields(window, load.window);
    putExtras(window, load.window.extras);
    out["window"] = std::move(window);
    out["draws"] = Json::array();
    for (const Draw& draw : load.draws)
        out["draws"].push_back(writeDraw(draw));
    putExtras(out, load.extras);
    return out;
}

Json writeReading(const Reading& reading) {
    Json out = Json::object();
    out["id"] = reading.id;
    putFields(out, reading);
    putExtras(out, reading.extras);
    return out;
}

Json writeBrief(const Brief& brief) {
    Json out = Json::object();
    putFields(out, brief);
    if (brief.startTime)
        out["start_time"] = *brief.startTime;
    if (brief.ambient) {
        Json air = Json::object();
        putFields(air, *brief.ambient);
        putExtras(air, brief.ambient->extras);
        out["ambient_c"] = std::move(air);
    }
    if (brief.room)
        out["room_mm"] = *brief.room;
    if (brief.refilledBy)
        out["refilled_by"] = *brief.refilledBy;
    putExtras(out, brief.extras);
    return out;
}

template <class T>
Json listOf(const std::vector<T>& items, Json (*write)(const T&)) {
    Json list = Json::array();
    for (const T& item : items)
        list.push_back(write(item));
    return list;
}

/// Lists that are as in the supply at the top are left out.
Json writeVariant(const Project& top, const Variant& variant) {
    Json out = Json::object();
    out["name"] = variant.name;
    if (variant.modes != top.modes)
        out["modes"] = listOf(variant.modes, writeMode);
    if (variant.stages != top.stages)
        out["stages"] = listOf(variant.stages, writeStage);
    if (variant.loads != top.loads)
        out["loads"] = listOf(variant.loads, writeLoad);
    putExtras(out, variant.extras);
    return out;
}

} // namespace

Json writeCell(const Cell& cell) {
    Json out = Json::object();
    putFields(out, cell);
    putTable(out, "open_circuit_v", cell.openCircuit);
    putTable(out, "capacity_by_c", cell.capacityByC);
    putTable(out, "resistance_by_c", cell.resistanceByC);
    putTable(out, "resistance_by_charge", cell.resistanceByCharge);
    putExtras(out, cell.extras);
    return out;
}

Json writeStage(const Stage& stage) {
    Json out = Json::object();
    out["id"] = stage.id;
    out["kind"] = kindName(stage.part);
    putText(out, "label", stage.label);
    putText(out, "make", stage.make);
    if (stage.feedsListed)
        out["fed_by"] = stage.fedBy;
    else if (!stage.fedBy.empty())
        out["fed_by"] = stage.fedBy.front();
    std::visit([&](const auto& part) { putFields(out, part); }, stage.part);
    if (const Pack* pack = std::get_if<Pack>(&stage.part))
        out["cell"] = writeCell(pack->cell);
    putFields(out, stage);
    if (stage.connector)
        out["connector"] = writeConnector(*stage.connector);
    putExtras(out, stage.extras);
    return out;
}

Json writeProject(const Project& project) {
    Json out = Json::object();
    out["format"] = "sipper";
    out["version"] = kFormatVersion;
    out["name"] = project.name;
    out["notes"] = project.notes;
    out["brief"] = writeBrief(project.brief);
    out["modes"] = listOf(project.modes, writeMode);
    out["stages"] = listOf(project.stages, writeStage);
    out["loads"] = listOf(project.loads, writeLoad);
    out["readings"] = listOf(project.readings.all(), writeReading);
    if (!project.variant.empty())
        out["variant"] = project.variant;
    out["variants"] = Json::array();
    for (const Variant& variant : project.variants)
        out["variants"].push_back(writeVariant(project, variant));
    putExtras(out, project.extras);
    return out;
}

std::string projectText(const Project& project) {
    return writeProject(project).dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

} // namespace sipper
