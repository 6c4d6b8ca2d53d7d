#include "advice/words.hpp"

#include "line/packmodel.hpp"
#include "parts/fields.hpp"
#include "project/build.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace sipper {

std::string voltsBeside(double v, double other) {
    if (volts(v) != volts(other))
        return volts(v);
    for (int decimals = 2; decimals < 6; ++decimals) {
        const std::string text = fmt::format("{:.{}f} V", v, decimals);
        if (text != fmt::format("{:.{}f} V", other, decimals))
            return text;
    }
    return volts(v);
}

std::string momentText(const Project& p, const Sighting& s) {
    const std::string mode = nameOf(p.modes[s.mode]);
    return fmt::format("in mode “{}”{}", mode, s.inBurst ? ", in a burst" : "");
}

std::vector<const Stage*> wayBack(const Project& p, std::string_view id) {
    std::vector<const Stage*> way;
    std::string at;
    if (const Load* load = p.load(id))
        at = load->fedBy;
    else if (const Stage* stage = p.stage(id); stage && !stage->fedBy.empty())
        at = stage->fedBy.front();
    while (!at.empty()) {
        const Stage* stage = p.stage(at);
        if (!stage)
            break;
        way.push_back(stage);
        at = stage->fedBy.empty() ? "" : stage->fedBy.front();
    }
    return way;
}

const Stage* regulatorBefore(const Project& p, std::string_view id) {
    for (const Stage* stage : wayBack(p, id))
        if (std::holds_alternative<Linear>(stage->part) ||
            std::holds_alternative<Switcher>(stage->part))
            return stage;
    return nullptr;
}

Finding finding(std::string_view rule, Severity severity, const std::string& subject,
                std::string title, std::string says, std::map<std::string, double> numbers) {
    Finding f;
    f.rule = rule;
    f.severity = severity;
    f.subject = subject;
    f.title = std::move(title);
    f.says = std::move(says);
    f.numbers = std::move(numbers);
    return f;
}

Cure figureCure(const Stage& stage, std::string_view key, const FieldValue& value,
                std::string label, std::string name) {
    Cure cure;
    cure.label = std::move(label);
    cure.name = std::move(name);
    cure.apply = [id = stage.id, key = std::string(key), value](const Project& project) {
        Project out = project;
        if (Stage* s = out.stage(id))
            setValue(s->part, key, value);
        return out;
    };
    return cure;
}

Cure replaceCure(const Stage& stage, std::string label, std::string name) {
    Cure cure;
    cure.label = std::move(label);
    cure.name = std::move(name);
    cure.apply = [stage](const Project& project) {
        Project out = project;
        if (Stage* s = out.stage(stage.id))
            *s = stage;
        return out;
    };
    return cure;
}

Cure insertCure(const Stage& fresh, const std::string& after, std::string label, std::string name) {
    Cure cure;
    cure.label = std::move(label);
    cure.name = std::move(name);
    cure.apply = [fresh, after](const Project& project) {
        return withStageBetween(project, fresh, after);
    };
    return cure;
}

Cure areaCure(const Stage& lead, double area) {
    Stage thicker = lead;
    auto& wire = std::get<Wire>(thicker.part);
    wire.awg.reset();
    wire.area = SquareMillimetres{area};
    return replaceCure(thicker, "Use " + writeExact(area, Unit::squareMillimetre),
                       fmt::format("thicken {}", nameOf(lead)));
}

Cure setPointCure(const Stage& stage, double volts) {
    const double rounded = std::round(volts * 100) / 100;
    const std::string text = writeExact(rounded, Unit::volt);
    return figureCure(stage, "set_v", rounded, "Set " + text,
                      fmt::format("set {} to {}", nameOf(stage), text));
}

} // namespace sipper
