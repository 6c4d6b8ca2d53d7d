// SPDX-License-Identifier: GPL-3.0-or-later
#include "advice/fixes.hpp"

#include "line/packmodel.hpp"
#include "parts/fields.hpp"
#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/build.hpp"

#include <algorithm>
#include <fmt/format.h>

namespace sipper {
namespace {
constexpr double kNothing = 1e-3; ///< of what it stands beside: it reads as nothing
}

std::string voltsBeside(double v, double other) {
    if (std::abs(v) < kNothing * std::abs(other))
        return "0 V";
    if (volts(v) != volts(other))
        return volts(v);
    for (int decimals = 2; decimals < 6; ++decimals) {
        std::string text = fmt::format("{:.{}f} V", v, decimals);
        if (text != fmt::format("{:.{}f} V", other, decimals))
            return text;
    }
    return volts(v);
}

std::string momentText(const Project& p, const Occurrence& s) {
    const std::string mode = nameOf(p.modes[s.mode]);
    return fmt::format("in mode “{}”{}", mode, s.inBurst ? ", in a burst" : "");
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

Fix editFix(std::string label, std::string name, std::function<Project(const Project&)> apply) {
    Fix cure;
    cure.label = std::move(label);
    cure.name = std::move(name);
    cure.apply = std::move(apply);
    return cure;
}

Fix replaceFix(const Stage& stage, std::string label, std::string name) {
    return editFix(std::move(label), std::move(name), [stage](const Project& project) {
        Project out = project;
        if (Stage* s = out.stage(stage.id))
            *s = stage;
        return out;
    });
}

Fix insertFix(const Stage& fresh, const std::string& after, std::string label, std::string name) {
    return editFix(std::move(label), std::move(name), [fresh, after](const Project& project) {
        return withStageBetween(project, fresh, after);
    });
}

Fix areaFix(const Stage& lead, double area) {
    Stage thicker = lead;
    auto& wire = std::get<Wire>(thicker.part);
    wire.awg.reset();
    wire.area = SquareMillimetres{area};
    return replaceFix(thicker, "Use " + writeExact(area, Unit::squareMillimetre),
                      fmt::format("thicken {}", nameOf(lead)));
}

Fix setPointFix(const Stage& stage, double volts) {
    const double rounded = std::round(volts * 100) / 100;
    const std::string text = writeExact(rounded, Unit::volt);
    return editFix("Set " + text, fmt::format("set {} to {}", nameOf(stage), text),
                   [id = stage.id, rounded](const Project& project) {
                       Project out = project;
                       if (Stage* s = out.stage(id))
                           static_cast<void>(setPointTo(s->part, Volts{rounded}));
                       return out;
                   });
}

} // namespace sipper
