// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/schema.hpp"

#include "parts/fields.hpp"
#include "parts/kinds.hpp"
#include "project/file.hpp"
#include "project/json.hpp"

#include <algorithm>
#include <mutex>
#include <valijson/adapters/nlohmann_json_adapter.hpp>
#include <valijson/schema.hpp>
#include <valijson/schema_parser.hpp>
#include <valijson/validation_results.hpp>
#include <valijson/validator.hpp>

namespace sipper {
namespace {

Json fieldSchema(const FieldFacts& f) {
    Json out = Json::object();
    switch (f.kind) {
    case FieldKind::number:
        out["type"] = f.unit == Unit::count ? "integer" : "number";
        out[f.limits.minOpen ? "exclusiveMinimum" : "minimum"] = number(f.limits.min);
        if (f.limits.max < std::numeric_limits<double>::max())
            out["maximum"] = number(f.limits.max);
        break;
    case FieldKind::flag:
        out["type"] = "boolean";
        break;
    case FieldKind::choice:
        out["enum"] = std::vector<std::string>(f.names.begin(), f.names.end());
        break;
    case FieldKind::text:
        out["type"] = "string";
        break;
    case FieldKind::names:
        out["type"] = "array";
        out["items"] = {{"enum", std::vector<std::string>(f.names.begin(), f.names.end())}};
        break;
    }
    out["description"] = f.help;
    return out;
}

template <class T>
Json objectSchema(std::vector<std::string> required = {}) {
    Json properties = Json::object();
    for (const Field<T>& f : fieldsOf<T>()) {
        properties[std::string(f.key)] = fieldSchema(f);
        if (f.required)
            required.emplace_back(f.key);
    }
    Json out{{"type", "object"}, {"properties", properties}};
    if (!required.empty())
        out["required"] = required;
    return out;
}

Json idSchema() {
    return {{"type", "string"}, {"pattern", "^[a-z0-9_.-]{1,64}$"}};
}
Json textSchema() {
    return {{"type", "string"}};
}
Json clockSchema() {
    return {{"type", "string"}, {"pattern", "^([01][0-9]|2[0-4]):[0-5][0-9]$"}};
}

Json pairsSchema(const Json& item, int atLeast) {
    return {{"type", "array"},
            {"minItems", atLeast},
            {"items", {{"type", "array"}, {"items", item}, {"minItems", 2}, {"maxItems", 2}}}};
}

Json refTo(const char* name) {
    return {{"$ref", std::string("#/definitions/") + name}};
}

Json cellSchema() {
    Json out = objectSchema<Cell>({"open_circuit_v"});
    const Json point{{"type", "number"}};
    out["properties"]["open_circuit_v"] = pairsSchema(point, 2);
    for (const char* key : {"capacity_by_c", "resistance_by_c", "resistance_by_charge"})
        out["properties"][key] = pairsSchema(point, 1);
    return out;
}

Json stageSchema() {
    Json out = objectSchema<Stage>({"id", "kind"});
    out["properties"]["id"] = idSchema();
    out["properties"]["kind"] = {{"enum", Json::array()}};
    for (const KindFacts& kind : kinds())
        out["properties"]["kind"]["enum"].push_back(kind.name);
    out["properties"]["label"] = textSchema();
    out["properties"]["make"] = textSchema();
    out["properties"]["fed_by"] = {
        {"anyOf",
         Json::array({idSchema(), {{"type", "array"}, {"items", idSchema()}, {"minItems", 1}}})}};
    out["properties"]["connector"] = refTo("connector");
    out["allOf"] = Json::array();
    for (const KindFacts& row : kinds()) {
        const std::string_view kind = row.name;
        const Part part = emptyPart(row.kind);
        Json then = std::visit([]<class P>(const P&) { return objectSchema<P>(); }, part);
        if (kind == "pack") {
            then["properties"]["cell"] = refTo("cell");
            then["required"].push_back("cell");
        }
        if (!row.source)
            then["required"].push_back("fed_by");
        if (kind == "wire")
            then["oneOf"] = Json::array({{{"required", {"area_mm2"}}}, {{"required", {"awg"}}}});
        out["allOf"].push_back(
            {{"if", {{"properties", {{"kind", {{"enum", Json::array({std::string(kind)})}}}}}}},
             {"then", then}});
    }
    return out;
}

Json modeSchema() {
    Json out = objectSchema<Mode>({"id"});
    out["properties"]["id"] = idSchema();
    out["properties"]["label"] = textSchema();
    out["properties"]["daily"] = pairsSchema(clockSchema(), 1);
    out["properties"]["within"] = idSchema();
    return out;
}

Json loadSchema() {
    Json draw = objectSchema<Draw>({"mode"});
    draw["properties"]["mode"] = idSchema();
    draw["oneOf"] = Json::array({{{"required", {"current_a"}}},
                                 {{"required", {"power_w"}}},
                                 {{"required", {"load_ohm"}}},
                                 {{"required", {"led_a"}}}});
    Json out = objectSchema<Load>({"id", "fed_by", "window"});
    out["properties"]["id"] = idSchema();
    out["properties"]["label"] = textSchema();
    out["properties"]["fed_by"] = idSchema();
    out["properties"]["connector"] = refTo("connector");
    out["properties"]["window"] = objectSchema<Window>();
    out["properties"]["draws"] = {{"type", "array"}, {"items", draw}};
    return out;
}

Json briefSchema() {
    Json out = objectSchema<Brief>();
    out["properties"]["start_time"] = clockSchema();
    out["properties"]["ambient_c"] = objectSchema<Ambient>();
    out["properties"]["room_mm"] = {{"type", "array"},
                                    {"items", {{"type", "number"}, {"exclusiveMinimum", 0}}},
                                    {"minItems", 3},
                                    {"maxItems", 3}};
    out["properties"]["refilled_by"] = {
        {"type", "array"}, {"items", {{"enum", {"swap", "socket", "adapter", "vehicle", "sun"}}}}};
    return out;
}

Json readingSchema() {
    Json out = objectSchema<Reading>({"id"});
    out["properties"]["id"] = idSchema();
    return out;
}

Json listOf(const char* name) {
    return {{"type", "array"}, {"items", refTo(name)}};
}

Json variantSchema() {
    return {{"type", "object"},
            {"required", {"name"}},
            {"properties",
             {{"name", textSchema()},
              {"modes", listOf("mode")},
              {"stages", listOf("stage")},
              {"loads", listOf("load")}}}};
}

using valijson::adapters::NlohmannJsonAdapter;

struct LoadedSchema {
    std::optional<Error> trouble;
    nlohmann::json document;
    valijson::Schema schema;
};

/// Read once: the file does not change under a running program.
const LoadedSchema& loadedSchema() {
    static LoadedSchema loaded;
    static std::once_flag once;
    std::call_once(once, [] {
        const auto path = dataFolder() / "schema" / "project.schema.json";
        const auto text = readFile(path);
        if (!text) {
            loaded.trouble = text.error();
            return;
        }
        const auto parsed = parseJson(text.value());
        if (!parsed) {
            loaded.trouble = parsed.error();
            loaded.trouble->file = path.string();
            return;
        }
        loaded.document = nlohmann::json(parsed.value());
        try {
            valijson::SchemaParser parser;
            parser.populateSchema(NlohmannJsonAdapter(loaded.document), loaded.schema);
        } catch (const std::exception& e) {
            loaded.trouble = Error{"schema", "", e.what(), "a JSON Schema", path.string()};
        }
    });
    return loaded;
}

/// `<root>[stages][0]` as a JSON pointer.
std::string pointerOf(const std::vector<std::string>& context) {
    std::string pointer;
    for (const std::string& step : context)
        if (step.size() > 2 && step.front() == '[')
            pointer += "/" + pointerStep(step.substr(1, step.size() - 2));
    return pointer;
}

} // namespace

Json projectSchema() {
    Json out = Json::object();
    out["$schema"] = "http://json-schema.org/draft-07/schema#";
    out["title"] = "Sipper project";
    out["type"] = "object";
    out["required"] = {"format", "version", "modes", "stages", "loads"};
    out["properties"] = {{"format", {{"enum", {"sipper"}}}},
                         {"version", {{"type", "number"}, {"minimum", 1}, {"maximum", 1}}},
                         {"name", textSchema()},
                         {"notes", textSchema()},
                         {"brief", refTo("brief")},
                         {"modes", listOf("mode")},
                         {"stages", listOf("stage")},
                         {"loads", listOf("load")},
                         {"readings", listOf("reading")},
                         {"variant", textSchema()},
                         {"variants", listOf("variant")}};
    out["definitions"] = {{"brief", briefSchema()},     {"mode", modeSchema()},
                          {"stage", stageSchema()},     {"load", loadSchema()},
                          {"cell", cellSchema()},       {"connector", objectSchema<Connector>()},
                          {"variant", variantSchema()}, {"reading", readingSchema()}};
    return out;
}

std::optional<Error> validateProject(const Json& document) {
    const LoadedSchema& loaded = loadedSchema();
    if (loaded.trouble)
        return loaded.trouble;
    const nlohmann::json plain(document);
    valijson::Validator validator(valijson::Validator::kStrongTypes);
    valijson::ValidationResults results;
    if (validator.validate(loaded.schema, NlohmannJsonAdapter(plain), &results))
        return std::nullopt;
    valijson::ValidationResults::Error error;
    valijson::ValidationResults::Error deepest;
    while (results.popError(error))
        if (error.context.size() >= deepest.context.size())
            deepest = error;
    const std::string pointer = pointerOf(deepest.context);
    const Json::json_pointer at(pointer);
    return Error{"schema", pointer, document.contains(at) ? foundText(document.at(at)) : "nothing",
                 "what the schema says: " + deepest.description, ""};
}

} // namespace sipper
