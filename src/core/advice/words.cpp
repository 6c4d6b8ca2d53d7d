#include "advice/words.hpp"

#include "line/curve.hpp"
#include "parts/fields.hpp"

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

double fullVolts(const Pack& pack) {
    const double open = Curve(pack.cell.openCircuit).at(1);
    return pack.series * std::max(open, pack.cell.full.value_or(Volts{0}).value());
}

Flows unloadedAtFull(const Project& p) {
    Flows flows;
    const Network network(p, p.brief.air().usual());
    network.solve(network.idle(), fullVolts(*p.pack()), 0, flows);
    return flows;
}

Cure setPointCure(const Stage& stage, double volts) {
    const double rounded = std::round(volts * 100) / 100;
    Cure cure;
    cure.label = "Set " + writeExact(rounded, Unit::volt);
    cure.name = fmt::format("set {} to {}", nameOf(stage), writeExact(rounded, Unit::volt));
    cure.apply = [id = stage.id, rounded](const Project& project) {
        Project out = project;
        if (Stage* s = out.stage(id))
            setValue(s->part, "set_v", rounded);
        return out;
    };
    return cure;
}

} // namespace sipper
