#include "project/build.hpp"

#include "parts/chemistry.hpp"
#include "parts/fields.hpp"
#include "project/library.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <set>

namespace sipper {
namespace {

constexpr double kReconnectOver = 1.13; ///< cut-off to reconnect of a fresh guard

void replaceFeed(Project& p, std::string_view from, std::string_view to, bool chargersToo) {
    for (Stage& s : p.stages)
        if (chargersToo || !std::holds_alternative<Charger>(s.part))
            std::replace(s.fedBy.begin(), s.fedBy.end(), std::string(from), std::string(to));
    for (Load& l : p.loads)
        if (l.fedBy == from)
            l.fedBy = to;
}

void insertAfter(Project& p, Stage fresh, std::string_view after) {
    const auto at = std::find_if(p.stages.begin(), p.stages.end(),
                                 [&](const Stage& s) { return s.id == after; });
    p.stages.insert(at == p.stages.end() ? at : at + 1, std::move(fresh));
}

/// Everything behind a stage, itself included.
std::set<std::string> behind(const Project& p, std::string_view id) {
    std::set<std::string> all{std::string(id)};
    for (bool more = true; more;) {
        more = false;
        for (const Stage& s : p.stages)
            for (const std::string& feed : s.fedBy)
                if (all.contains(feed) && all.insert(s.id).second)
                    more = true;
    }
    return all;
}

const Load* firstLoadBehind(const Project& p, std::string_view id) {
    if (const Load* load = p.load(id))
        return load;
    const auto all = behind(p, id);
    for (const Load& l : p.loads)
        if (all.contains(l.fedBy))
            return &l;
    return p.loads.empty() ? nullptr : &p.loads.front();
}

} // namespace

Project withStageBetween(Project p, Stage fresh, std::string_view after) {
    if (!p.stage(after))
        return p;
    const std::string on(after);
    replaceFeed(p, on, fresh.id, false);
    fresh.fedBy = {on};
    insertAfter(p, std::move(fresh), on);
    return p;
}

Project withStageBefore(Project p, Stage fresh, std::string_view before) {
    std::string on;
    if (Stage* s = p.stage(before); s && !s->fedBy.empty()) {
        on = s->fedBy.front();
        s->fedBy.front() = fresh.id;
    } else if (Load* l = p.load(before)) {
        on = l->fedBy;
        l->fedBy = fresh.id;
    } else {
        return p;
    }
    fresh.fedBy = {on};
    insertAfter(p, std::move(fresh), on);
    return p;
}

Project withBranch(Project p, Stage fresh, std::string_view on) {
    if (!p.stage(on))
        return p;
    fresh.fedBy = {std::string(on)};
    p.stages.push_back(std::move(fresh));
    return p;
}

Project withSource(Project p, Stage fresh) {
    fresh.fedBy.clear();
    p.stages.push_back(std::move(fresh));
    return p;
}

Project withSelect(Project p, std::string_view before, std::string_view first) {
    Stage select = freshStage(p, "select", before);
    std::string on;
    if (Stage* s = p.stage(before); s && !s->fedBy.empty()) {
        on = s->fedBy.front();
        s->fedBy.front() = select.id;
    } else if (Load* l = p.load(before)) {
        on = l->fedBy;
        l->fedBy = select.id;
    }
    if (on.empty() || !p.stage(first) || on == first)
        return p;
    select.fedBy = {std::string(first), on};
    select.feedsListed = true;
    p.stages.push_back(std::move(select));
    return p;
}

Project withoutStage(Project p, std::string_view which) {
    const Stage* stage = p.stage(which);
    if (!stage)
        return p;
    const std::string id(which);
    if (!isSource(stage->part)) {
        const std::string on = stage->fedBy.empty() ? std::string() : stage->fedBy.front();
        replaceFeed(p, id, on, true);
        std::erase_if(p.stages, [&](const Stage& s) { return s.id == id; });
        // A list that now names one feed twice names it once.
        for (Stage& s : p.stages) {
            std::set<std::string> seen;
            std::erase_if(s.fedBy, [&](const std::string& f) { return !seen.insert(f).second; });
        }
        return p;
    }
    // A source takes with it what nothing else feeds.
    std::set<std::string> gone{id};
    for (bool more = true; more;) {
        more = false;
        for (Stage& s : p.stages) {
            if (gone.contains(s.id))
                continue;
            const bool fed = !s.fedBy.empty();
            std::erase_if(s.fedBy, [&](const std::string& f) { return gone.contains(f); });
            const auto* charger = std::get_if<Charger>(&s.part);
            if ((fed && s.fedBy.empty()) || (charger && gone.contains(charger->charges)))
                more = gone.insert(s.id).second || more;
        }
    }
    std::erase_if(p.stages, [&](const Stage& s) { return gone.contains(s.id); });
    std::erase_if(p.loads, [&](const Load& l) { return gone.contains(l.fedBy); });
    return p;
}

std::optional<std::string> whyNotMove(const Project& p, std::string_view id, int by) {
    const Stage* stage = p.stage(id);
    if (!stage || isSource(stage->part))
        return "A source stays at the beginning.";
    if (std::holds_alternative<Select>(stage->part) || std::holds_alternative<Charger>(stage->part))
        return "What has several feeds stays where they meet.";
    if (by < 0) {
        const Stage* feeder = p.stage(stage->fedBy.front());
        if (!feeder || isSource(feeder->part))
            return "It is the first behind its source.";
        if (p.fedFrom(feeder->id).size() != 1)
            return "The line branches before it.";
        if (feeder->fedBy.size() != 1)
            return "Several feeds meet before it.";
        return std::nullopt;
    }
    const auto next = p.fedFrom(id);
    if (next.size() != 1)
        return next.empty() ? "Nothing hangs behind it." : "The line branches behind it.";
    const Stage* child = p.stage(next.front());
    if (!child)
        return "A load is the end of the line.";
    if (child->fedBy.size() != 1)
        return "Several feeds meet behind it.";
    return std::nullopt;
}

Project withStageMoved(Project p, std::string_view id, int by) {
    if (whyNotMove(p, id, by))
        return p;
    // `front` stands before `back`; they trade places.
    const std::string front = by < 0 ? p.stage(id)->fedBy.front() : std::string(id);
    const std::string back = by < 0 ? std::string(id) : p.fedFrom(id).front();
    const std::string root = p.stage(front)->fedBy.front();
    replaceFeed(p, back, front + "\n", true); // what hung on the back one hangs on the front one
    p.stage(back)->fedBy = {root};
    p.stage(front)->fedBy = {back};
    replaceFeed(p, front + "\n", front, true);
    // In the file too, so that the order stays that of the line.
    const auto a = p.stage(front) - p.stages.data();
    const auto b = p.stage(back) - p.stages.data();
    if (a < b)
        std::swap(p.stages[static_cast<std::size_t>(a)], p.stages[static_cast<std::size_t>(b)]);
    return p;
}

Project withFeed(Project p, std::string_view id, std::string_view feed) {
    if (Stage* s = p.stage(id); s && !s->fedBy.empty())
        s->fedBy.front() = feed;
    else if (Load* l = p.load(id))
        l->fedBy = feed;
    return p;
}

Project withPart(Project p, std::string_view id, const Stage& other) {
    Stage* stage = p.stage(id);
    if (!stage)
        return p;
    const FieldValue set = valueOf(stage->part, "set_v");
    const Part before = stage->part;
    stage->part = other.part;
    stage->label = other.label;
    stage->price = other.price;
    stage->mass = other.mass;
    stage->extras = other.extras;
    if (std::holds_alternative<double>(set) &&
        std::holds_alternative<double>(valueOf(stage->part, "set_v")))
        setValue(stage->part, "set_v", set);
    // A guard keeps its thresholds, a fuse its rating, a wire its way, a pack its S, P and age.
    for (const char* key :
         {"cutoff_v", "reconnect_v", "length_m", "series", "parallel", "connection_ohm", "charge"})
        if (const FieldValue v = valueOf(before, key); std::holds_alternative<double>(v))
            if (kindOf(before) == kindOf(stage->part))
                setValue(stage->part, key, v);
    return p;
}

std::optional<std::string> whyNotRemove(const Project& p, std::string_view id) {
    const Stage* stage = p.stage(id);
    if (!stage)
        return "There is nothing chosen.";
    if (isSource(stage->part) && p.stages.size() > 1) {
        std::size_t sources = 0;
        for (const Stage& s : p.stages)
            sources += isSource(s.part);
        if (sources == 1)
            return "It is the only source: swap it, or take out what hangs on it first.";
    }
    return std::nullopt;
}

std::optional<std::string> whyNotAfter(const Project& p, std::string_view id) {
    if (p.load(id))
        return "A load is the end of the line.";
    const Stage* stage = p.stage(id);
    if (!stage)
        return "There is nothing chosen.";
    if (std::holds_alternative<Charger>(stage->part))
        return "A charger feeds its pack only.";
    if (std::holds_alternative<Panel>(stage->part))
        return "A panel feeds a charger only.";
    return std::nullopt;
}

std::vector<std::string> possibleFeeds(const Project& p, std::string_view id) {
    std::vector<std::string> list;
    const auto own = behind(p, id);
    for (const Stage& s : p.stages)
        if (!own.contains(s.id) && !whyNotAfter(p, s.id))
            list.push_back(s.id);
    return list;
}

Stage freshStage(const Project& p, std::string_view kind, std::string_view near) {
    Stage stage;
    stage.part = *partOfKind(kind);
    std::string id(kind);
    std::replace(id.begin(), id.end(), '_', '-');
    stage.id = freeId(p, id);
    const Load* load = firstLoadBehind(p, near);
    const double wanted = load ? load->window.middle().value() : 5.0;
    const auto set = [&](const char* key, FieldValue value) { setValue(stage.part, key, value); };
    if (kind == "linear") {
        set("dropout_v", 0.3);
        set("dropout_kind", std::string("fet"));
        set("rated_current_a", 0.5);
        set("ground_a", 5e-5);
        set("thermal_c_per_w", 60.0);
        set("max_part_c", 125.0);
    } else if (kind == "buck" || kind == "boost" || kind == "buck_boost") {
        set("quiescent_a", 3e-5);
        set("fixed_w", 0.02);
        set("drop_v", 0.08);
        set("resistance_ohm", 0.1);
        set("skip_below_a", 0.03);
        set("switch_limit_a", 3.0);
        set("thermal_c_per_w", 50.0);
        set("max_part_c", 105.0);
    } else if (kind == "guard") {
        double cutoff = 3.0;
        if (const Pack* pack = p.pack()) {
            const double cell =
                schoolCutoff(pack->cell.chemistry, p.brief.cellCare.value_or(CellCare::balanced));
            cutoff = pack->series * (cell > 0 ? cell : voltsOf(pack->cell.chemistry).empty);
        }
        set("cutoff_v", std::round(cutoff * 100) / 100);
        set("reconnect_v", std::round(cutoff * kReconnectOver * 100) / 100);
        set("delay_s", 0.1);
        set("resistance_ohm", 0.03);
        set("quiescent_a", 3e-6);
    } else if (kind == "wire") {
        set("length_m", 0.2);
        set("area_mm2", 0.5);
        set("contacts_ohm", 0.02);
    } else if (kind == "fuse") {
        set("rating_a", 2.0);
        set("resistance_ohm", 0.03);
    } else if (kind == "switch" || kind == "ideal_diode") {
        set("resistance_ohm", 0.02);
    } else if (kind == "filter") {
        set("resistance_ohm", 0.2);
    } else if (kind == "diode") {
        set("drop_v", 0.35);
        set("resistance_ohm", 0.05);
    } else if (kind == "select") {
        set("resistance_ohm", 0.03);
        set("blocks_back", true);
    } else if (kind == "adapter") {
        set("set_v", std::max(5.0, std::ceil(wanted)));
        set("tolerance", 0.05);
        set("limit_a", 2.0);
        set("beyond_limit", std::string("hiccup"));
    } else if (kind == "usb") {
        set("advertises_a", 1.5);
    } else if (kind == "pack") {
        set("series", 1.0);
        set("parallel", 1.0);
    }
    if (std::holds_alternative<Linear>(stage.part) || std::holds_alternative<Switcher>(stage.part))
        set("set_v", wanted);
    return stage;
}

} // namespace sipper
