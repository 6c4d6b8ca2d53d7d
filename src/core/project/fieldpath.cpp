// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/fieldpath.hpp"

#include "parts/kinds.hpp"
#include "project/edits.hpp"
#include "project/json.hpp"
#include "project/reader.hpp"
#include "project/writer.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

/// A thing with figures of its own, where it stands, and what it is called.
struct Owner {
    std::string pointer; ///< with ids
    std::string numbered;
    std::string name;
    bool nameIsAll = false; ///< of a draw: the label says nothing more
    std::vector<std::pair<FieldFacts, FieldValue>> fields;
};

template <class T>
void addFields(Owner& owner, const T& of) {
    for (const Field<T>& f : fieldsOf<T>())
        owner.fields.emplace_back(f, f.get(of));
}

template <class T>
Owner ownerOf(const std::string& pointer, const std::string& numbered, const std::string& name,
              const T& of) {
    Owner owner{pointer, numbered, name, false, {}};
    addFields(owner, of);
    return owner;
}

std::string placed(const char* list, std::size_t at) {
    return fmt::format("/{}/{}", list, at);
}

std::string named(const char* list, const std::string& id) {
    return fmt::format("/{}/{}", list, pointerStep(id));
}

void addStage(std::vector<Owner>& all, const Stage& stage, std::size_t at) {
    const std::string pointer = named("stages", stage.id);
    const std::string numbered = placed("stages", at);
    Owner owner = ownerOf(pointer, numbered, nameOf(stage), stage);
    std::visit([&](const auto& part) { addFields(owner, part); }, stage.part);
    all.push_back(std::move(owner));
    if (const auto* pack = std::get_if<Pack>(&stage.part))
        all.push_back(ownerOf(pointer + "/cell", numbered + "/cell", nameOf(stage), pack->cell));
}

void addLoad(std::vector<Owner>& all, const Project& p, const Load& load, std::size_t at) {
    const std::string pointer = named("loads", load.id);
    const std::string numbered = placed("loads", at);
    all.push_back(ownerOf(pointer, numbered, nameOf(load), load));
    all.push_back(ownerOf(pointer + "/window", numbered + "/window", nameOf(load), load.window));
    for (std::size_t i = 0; i < load.draws.size(); ++i) {
        const Draw& draw = load.draws[i];
        const Mode* mode = p.mode(draw.mode);
        Owner owner = ownerOf(
            pointer + "/draws/" + pointerStep(draw.mode), fmt::format("{}/draws/{}", numbered, i),
            fmt::format("{} in {}", nameOf(load), mode ? nameOf(*mode) : draw.mode), draw);
        owner.nameIsAll = true;
        all.push_back(std::move(owner));
    }
}

std::vector<Owner> ownersOf(const Project& p) {
    std::vector<Owner> all;
    all.push_back(ownerOf("/brief", "/brief", "", p.brief));
    all.push_back(ownerOf("/brief/ambient_c", "/brief/ambient_c", "Air",
                          p.brief.ambient.value_or(Ambient{})));
    for (std::size_t i = 0; i < p.modes.size(); ++i)
        all.push_back(ownerOf(named("modes", p.modes[i].id), placed("modes", i), nameOf(p.modes[i]),
                              p.modes[i]));
    for (std::size_t i = 0; i < p.stages.size(); ++i)
        addStage(all, p.stages[i], i);
    for (std::size_t i = 0; i < p.loads.size(); ++i)
        addLoad(all, p, p.loads[i], i);
    return all;
}

/// `Boost 5: set to`; of a draw in amps, watts or ohms the name alone.
std::string saysOf(const Owner& owner, const FieldFacts& facts) {
    std::string label(facts.label);
    if (owner.name.empty())
        return label;
    if (owner.nameIsAll && (facts.key == "current_a" || facts.key == "power_w"))
        return owner.name;
    if (label.size() > 1 && std::islower(static_cast<unsigned char>(label[1])))
        label[0] = static_cast<char>(std::tolower(static_cast<unsigned char>(label[0])));
    return owner.name + ": " + label;
}

FieldPlace placeOf(const Owner& owner, const FieldFacts& facts, const FieldValue& value) {
    FieldPlace place;
    place.pointer = fmt::format("{}/{}", owner.pointer, facts.key);
    place.numbered = fmt::format("{}/{}", owner.numbered, facts.key);
    place.says = saysOf(owner, facts);
    place.facts = facts;
    if (const auto* figure = std::get_if<double>(&value)) {
        place.now = *figure;
    } else if (const auto* preset = std::get_if<double>(&facts.preset)) {
        place.now = *preset;
        place.isDefault = true;
    } else {
        place.isDefault = true;
    }
    return place;
}

Error unknown(std::string_view pointer, const std::vector<Owner>& owners) {
    // Beside what it would be: the longest beginning that stands for something.
    const Owner* nearest = nullptr;
    for (const Owner& o : owners)
        if (pointer.starts_with(o.pointer + "/") &&
            (!nearest || o.pointer.size() > nearest->pointer.size()))
            nearest = &o;
    std::string expected = "a figure of the file, such as /brief/ambient_c/typical";
    if (nearest) {
        expected.clear();
        for (const auto& [facts, value] : nearest->fields)
            if (facts.kind == FieldKind::number)
                expected += (expected.empty() ? "one of " : ", ") + std::string(facts.key);
    } else {
        for (const Owner& o : owners)
            if (pointer.substr(0, pointer.find('/', 1)) ==
                o.pointer.substr(0, o.pointer.find('/', 1)))
                expected += (expected.ends_with("typical") ? "; here stand " : ", ") + o.pointer;
    }
    return {"field", "FIELD", '"' + std::string(pointer) + '"', expected, ""};
}

} // namespace

Outcome<FieldPlace> fieldAt(const Project& project, std::string_view pointer) {
    const std::vector<Owner> owners = ownersOf(project);
    for (const Owner& owner : owners) {
        if (!pointer.starts_with(owner.pointer + "/"))
            continue;
        const std::string_view key = pointer.substr(owner.pointer.size() + 1);
        for (const auto& [facts, value] : owner.fields)
            if (facts.key == key) {
                if (facts.kind != FieldKind::number)
                    return Error{"kind", "FIELD", '"' + std::string(pointer) + '"',
                                 "a number; this is " + expectedOf(facts), ""};
                return placeOf(owner, facts, value);
            }
    }
    return unknown(pointer, owners);
}

std::vector<FieldPlace> statedFields(const Project& project) {
    std::vector<FieldPlace> list;
    for (const Owner& owner : ownersOf(project))
        for (const auto& [facts, value] : owner.fields)
            if (facts.kind == FieldKind::number && std::holds_alternative<double>(value))
                list.push_back(placeOf(owner, facts, value));
    return list;
}

FieldEdit::FieldEdit(const Project& project, const FieldPlace& place)
    : m_file(std::make_unique<Json>(writeProject(project))), m_numbered(place.numbered),
      m_whole(place.whole()) {}

FieldEdit::~FieldEdit() = default;

Outcome<Project> FieldEdit::with(double value) const {
    Json file = *m_file;
    Json& at = file[Json::json_pointer(m_numbered)];
    if (m_whole && value == std::round(value))
        at = static_cast<std::int64_t>(value);
    else
        at = value;
    auto read = readProject(file);
    if (!read)
        return read.error();
    return std::move(read).value().project;
}

} // namespace sipper
