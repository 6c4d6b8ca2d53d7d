// SPDX-License-Identifier: GPL-3.0-or-later
#include "measure/pins.hpp"

#include "parts/chemistry.hpp"
#include "project/extralist.hpp"
#include "project/json.hpp"
#include "quantity/write.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr const char* kPinsKey = "x-pins";
constexpr double kSame = 0.02;      ///< V: one node
constexpr double kJoined = 2;       ///< ohm: leads and contacts
constexpr double kLeastSense = 100; ///< ohm
constexpr double kMostSense = 2e6;  ///< ohm
constexpr double kOfCell = 0.2;     ///< of a cell, that a tap may be off
constexpr double kNoVolts = 0.05;   ///< V: nothing but what the meter picks up

std::string volts(double v) {
    return writeQuantity(v, Unit::volt);
}

} // namespace

PinAnalysis analysePins(const PinSurvey& survey) {
    PinAnalysis look;
    struct At {
        std::string id;
        std::optional<double> volts;
        std::optional<double> ohms;
    };
    std::vector<At> all{{survey.against, 0, 0}};
    for (const PinReading& p : survey.pins)
        all.push_back({p.id, p.volts, p.ohms});
    double lowest = 0;
    double highest = 0;
    for (const At& a : all) {
        lowest = std::min(lowest, a.volts.value_or(0));
        highest = std::max(highest, a.volts.value_or(0));
    }
    const double span = highest - lowest;
    const bool live = span > kNoVolts;
    const ChemistryVolts& chemistry = voltsOf(survey.chemistry);
    if (chemistry.fresh > 0) {
        look.window = {survey.series * chemistry.empty, survey.series * chemistry.fresh};
        look.inWindow = span >= look.window->first && span <= look.window->second * 1.01;
    }
    if (live)
        look.volts = span;
    const double cell = span / std::max(1.0, survey.series);
    for (const At& a : all) {
        PinFound f;
        f.id = a.id;
        f.volts = a.volts.value_or(0) - lowest;
        // A voltage of none against the black lead with no way to it says nothing by itself.
        const bool known = a.id == survey.against || (a.volts && std::abs(*a.volts) > kNoVolts);
        const bool joinedToBlack = a.ohms && *a.ohms <= kJoined;
        const bool sense = a.ohms && *a.ohms >= kLeastSense && *a.ohms <= kMostSense;
        if (!live) {
            f.role = sense ? PinRole::senseResistor : PinRole::unknown;
            f.says = sense ? fmt::format("{} to {}: a resistor that something reads",
                                         writeQuantity(*a.ohms, Unit::ohm), survey.against)
                           : "no volts anywhere: the pack may be asleep, or flat";
        } else if (!a.volts) {
            f.role = PinRole::unknown;
            f.says = "not read";
        } else if (!known && sense) {
            f.role = PinRole::senseResistor;
            f.says = fmt::format("{} to {}: a thermistor or a code that the device reads",
                                 writeQuantity(*a.ohms, Unit::ohm), survey.against);
        } else if (!known && !joinedToBlack) {
            f.role = PinRole::nothing;
            f.says = a.ohms ? "no volts and no way through: data, or not connected"
                            : "no volts; its resistance would tell a sense resistor from data";
        } else if (f.volts <= kSame) {
            f.role = PinRole::minus;
            f.says = "minus";
        } else if (highest - a.volts.value_or(0) <= std::max(kSame, span * 0.005)) {
            f.role = PinRole::plus;
            f.says = "plus, " + volts(f.volts);
        } else {
            const double count = f.volts / cell;
            const double whole = std::round(count);
            if (survey.series > 1 && whole >= 1 && whole < survey.series &&
                std::abs(count - whole) <= kOfCell) {
                f.role = PinRole::tap;
                f.cells = static_cast<int>(whole);
                f.says = fmt::format("sense, over cell {:.0f} of {:.0f} ({})", whole, survey.series,
                                     volts(f.volts));
            } else {
                f.role = PinRole::unknown;
                f.says = fmt::format("{}: data or a supply of its own, never a place to draw from",
                                     volts(f.volts));
            }
        }
        look.pins.push_back(std::move(f));
    }
    for (const PinRole role : {PinRole::minus, PinRole::plus}) {
        std::vector<std::string> node;
        for (const PinFound& f : look.pins)
            if (f.role == role)
                node.push_back(f.id);
        if (node.size() > 1)
            look.joined.push_back(std::move(node));
    }
    const bool any = std::any_of(look.pins.begin(), look.pins.end(),
                                 [](const PinFound& f) { return f.role == PinRole::nothing; });
    if (!live)
        look.cannotKnow.emplace_back("which is plus: some packs stay dark until a pin is pulled");
    if (any)
        look.cannotKnow.emplace_back("whether a pin without volts is data or not connected");
    look.cannotKnow.emplace_back("what a pin may carry: a sense lead shows the full voltage and "
                                 "burns at an ampere");
    if (look.window && live && !look.inWindow)
        look.cannotKnow.push_back(
            fmt::format("whether it is such a pack at all: {} is outside {} to {}", volts(span),
                        volts(look.window->first), volts(look.window->second)));
    return look;
}

std::vector<PinSurvey> pinSurveysOf(const Project& project) {
    std::vector<PinSurvey> list;
    for (const Json& json : extraList(project, kPinsKey)) {
        PinSurvey s;
        s.connector = keptText(json, "connector");
        s.against = keptText(json, "against");
        s.series = std::clamp(keptFigure(json, "series").value_or(1), 1.0, 1000.0);
        s.chemistry = valueOf<Chemistry>(keptText(json, "chemistry")).value_or(Chemistry::other);
        const auto pins = json.find("pins");
        if (pins != json.end() && pins->is_array())
            for (const Json& pin : *pins)
                if (pin.is_object())
                    s.pins.push_back(
                        {keptText(pin, "id"), keptFigure(pin, "v"), keptFigure(pin, "ohm")});
        list.push_back(std::move(s));
    }
    return list;
}

Project withPinSurveys(const Project& project, const std::vector<PinSurvey>& surveys) {
    Json list = Json::array();
    for (const PinSurvey& s : surveys) {
        Json pins = Json::array();
        for (const PinReading& p : s.pins) {
            Json pin{{"id", p.id}};
            if (p.volts)
                pin["v"] = number(*p.volts);
            if (p.ohms)
                pin["ohm"] = number(*p.ohms);
            pins.push_back(std::move(pin));
        }
        list.push_back({{"connector", s.connector},
                        {"against", s.against},
                        {"series", number(s.series)},
                        {"chemistry", std::string(nameOf(s.chemistry))},
                        {"pins", std::move(pins)}});
    }
    return withExtraList(project, kPinsKey, list);
}

} // namespace sipper
