// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/differences.hpp"

#include "parts/fields.hpp"
#include "parts/kinds.hpp"
#include "project/edits.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr const char* kNone = "–";

std::string valueText(const FieldFacts& facts, const FieldValue& value) {
    if (const auto* figure = std::get_if<double>(&value))
        return writeExact(*figure, facts.unit);
    if (const auto* flag = std::get_if<bool>(&value))
        return *flag ? "yes" : "no";
    if (const auto* text = std::get_if<std::string>(&value); text && !text->empty())
        return *text;
    return kNone;
}

/// One thing of one project: what it is, and its figures as text.
struct Thing {
    std::string id;
    std::string name;
    std::string is; ///< the kind: things of another kind are not compared figure by figure
    struct Entry {
        std::string key;
        std::string label;
        std::string text;
    };
    std::vector<Entry> entries;
};

template <class T>
void addFields(Thing& thing, const T& owner) {
    for (const Field<T>& f : fieldsOf<T>())
        thing.entries.push_back(
            {std::string(f.key), std::string(f.label), valueText(f, f.get(owner))});
}

Thing thingOf(const Stage& stage) {
    Thing thing{stage.id, nameOf(stage), std::string(kindName(stage.part)), {}};
    if (const Pack* pack = std::get_if<Pack>(&stage.part))
        thing.entries.push_back(
            {"cell", "Cell", pack->cell.label.empty() ? pack->cell.id : pack->cell.label});
    std::string feeds;
    for (const std::string& feed : stage.fedBy)
        feeds += (feeds.empty() ? "" : ", ") + feed;
    if (!feeds.empty())
        thing.entries.push_back({"fed_by", "Fed by", feeds});
    std::visit([&](const auto& part) { addFields(thing, part); }, stage.part);
    addFields(thing, stage);
    return thing;
}

Thing thingOf(const Mode& mode) {
    Thing thing{mode.id, nameOf(mode), "mode", {}};
    addFields(thing, mode);
    thing.entries.push_back({"daily", "Daily", mode.daily.empty() ? kNone : windowsText(mode)});
    thing.entries.push_back({"within", "Within", mode.within.empty() ? kNone : mode.within});
    return thing;
}

Thing thingOf(const Project& p, const Load& load) {
    Thing thing{load.id, nameOf(load), "load", {}};
    thing.entries.push_back({"fed_by", "Fed by", load.fedBy});
    addFields(thing, load.window);
    addFields(thing, load);
    for (std::size_t m = 0; m < p.modes.size(); ++m) {
        const Draw* draw = drawIn(p, load, m);
        thing.entries.push_back({"draw." + p.modes[m].id, "Draws in " + nameOf(p.modes[m]),
                                 draw ? drawText(*draw) : kNone});
        thing.entries.push_back(
            {"burst." + p.modes[m].id, "Burst in " + nameOf(p.modes[m]),
             draw && draw->burst       ? writeExact(draw->burst->value(), Unit::ampere)
             : draw && draw->burstOhms ? writeExact(draw->burstOhms->value(), Unit::ohm)
                                       : kNone});
    }
    return thing;
}

std::vector<Thing> thingsOf(const Project& p) {
    std::vector<Thing> things;
    for (const Stage& stage : p.stages)
        things.push_back(thingOf(stage));
    for (const Mode& mode : p.modes)
        things.push_back(thingOf(mode));
    for (const Load& load : p.loads)
        things.push_back(thingOf(p, load));
    return things;
}

bool isMode(const Thing& thing) {
    return thing.is == "mode";
}

/// The same id may name a mode and a stage.
const Thing* find(const std::vector<Thing>& things, const Thing& like) {
    const auto at = std::find_if(things.begin(), things.end(), [&](const Thing& t) {
        return t.id == like.id && isMode(t) == isMode(like);
    });
    return at == things.end() ? nullptr : &*at;
}

const Thing::Entry* entryOf(const Thing& thing, const std::string& key) {
    const auto at = std::find_if(thing.entries.begin(), thing.entries.end(),
                                 [&](const Thing::Entry& e) { return e.key == key; });
    return at == thing.entries.end() ? nullptr : &*at;
}

bool allSame(const std::vector<std::string>& values) {
    return std::all_of(values.begin(), values.end(),
                       [&](const std::string& v) { return v == values.front(); });
}

class Finder {
  public:
    explicit Finder(const std::vector<Project>& projects) {
        for (const Project& p : projects)
            m_all.push_back(thingsOf(p));
    }
    std::vector<Difference> run() {
        std::vector<Thing> seen;
        for (const auto& things : m_all)
            for (const Thing& thing : things)
                if (!find(seen, thing)) {
                    seen.push_back(thing);
                    compare(thing);
                }
        return std::move(m_found);
    }

  private:
    void compare(const Thing& thing) {
        std::vector<const Thing*> here;
        std::vector<std::string> names;
        bool alike = true;
        for (const auto& things : m_all) {
            const Thing* found = find(things, thing);
            here.push_back(found);
            names.push_back(found ? found->name : kNone);
            alike = alike && found && found->is == thing.is;
        }
        if (!alike || !allSame(names))
            m_found.push_back({thing.id, thing.name, "", isMode(thing) ? "Mode" : "Part", names});
        if (!alike)
            return;
        std::vector<std::string> keys;
        for (const Thing* t : here)
            for (const Thing::Entry& e : t->entries)
                if (std::find(keys.begin(), keys.end(), e.key) == keys.end())
                    keys.push_back(e.key);
        for (const std::string& key : keys) {
            std::vector<std::string> values;
            std::string label;
            for (const Thing* t : here) {
                const Thing::Entry* e = entryOf(*t, key);
                values.push_back(e ? e->text : kNone);
                if (e && label.empty())
                    label = e->label;
            }
            if (!allSame(values))
                m_found.push_back({thing.id, thing.name, key, label, std::move(values)});
        }
    }

    std::vector<std::vector<Thing>> m_all;
    std::vector<Difference> m_found;
};

} // namespace

std::vector<Difference> differencesOf(const std::vector<Project>& projects) {
    return Finder(projects).run();
}

} // namespace sipper
