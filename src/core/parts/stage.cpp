#include "parts/stage.hpp"

#include <array>

namespace sipper {
namespace {

constexpr std::array<std::string_view, 18> kKinds{
    "pack",   "adapter", "usb",  "vehicle", "panel",       "guard",
    "fuse",   "switch",  "wire", "diode",   "ideal_diode", "filter",
    "select", "linear",  "buck", "boost",   "buck_boost",  "charger"};

template <class... F>
struct Overloaded : F... {
    using F::operator()...;
};

Switcher switcher(Topology topology) {
    Switcher part;
    part.topology = topology;
    return part;
}

} // namespace

std::string_view kindOf(const Part& part) {
    return std::visit(
        Overloaded{[](const Pack&) -> std::string_view { return "pack"; },
                   [](const Adapter&) -> std::string_view { return "adapter"; },
                   [](const Usb&) -> std::string_view { return "usb"; },
                   [](const Vehicle&) -> std::string_view { return "vehicle"; },
                   [](const Panel&) -> std::string_view { return "panel"; },
                   [](const Guard&) -> std::string_view { return "guard"; },
                   [](const Fuse&) -> std::string_view { return "fuse"; },
                   [](const Switch&) -> std::string_view { return "switch"; },
                   [](const Wire&) -> std::string_view { return "wire"; },
                   [](const Diode&) -> std::string_view { return "diode"; },
                   [](const IdealDiode&) -> std::string_view { return "ideal_diode"; },
                   [](const Filter&) -> std::string_view { return "filter"; },
                   [](const Select&) -> std::string_view { return "select"; },
                   [](const Linear&) -> std::string_view { return "linear"; },
                   [](const Switcher& s) { return nameOf(s.topology); },
                   [](const Charger&) -> std::string_view { return "charger"; }},
        part);
}

std::optional<Part> partOfKind(std::string_view kind) {
    if (kind == "pack")
        return Pack{};
    if (kind == "adapter")
        return Adapter{};
    if (kind == "usb")
        return Usb{};
    if (kind == "vehicle")
        return Vehicle{};
    if (kind == "panel")
        return Panel{};
    if (kind == "guard")
        return Guard{};
    if (kind == "fuse")
        return Fuse{};
    if (kind == "switch")
        return Switch{};
    if (kind == "wire")
        return Wire{};
    if (kind == "diode")
        return Diode{};
    if (kind == "ideal_diode")
        return IdealDiode{};
    if (kind == "filter")
        return Filter{};
    if (kind == "select")
        return Select{};
    if (kind == "linear")
        return Linear{};
    if (kind == "buck")
        return switcher(Topology::buck);
    if (kind == "boost")
        return switcher(Topology::boost);
    if (kind == "buck_boost")
        return switcher(Topology::buckBoost);
    if (kind == "charger")
        return Charger{};
    return std::nullopt;
}

std::span<const std::string_view> stageKinds() {
    return kKinds;
}

bool isSource(const Part& part) {
    return std::holds_alternative<Pack>(part) || std::holds_alternative<Adapter>(part) ||
           std::holds_alternative<Usb>(part) || std::holds_alternative<Vehicle>(part) ||
           std::holds_alternative<Panel>(part);
}

std::string kindText(const Part& part) {
    return std::visit(
        Overloaded{
            [](const Pack&) { return "cells"; }, [](const Adapter&) { return "wall adapter"; },
            [](const Usb&) { return "5 V socket"; },
            [](const Vehicle&) { return "vehicle supply"; },
            [](const Panel&) { return "solar panel"; },
            [](const Guard&) { return "cut-off guard"; }, [](const Fuse&) { return "fuse"; },
            [](const Switch&) { return "switch"; }, [](const Wire&) { return "lead"; },
            [](const Diode&) { return "diode"; }, [](const IdealDiode&) { return "ideal diode"; },
            [](const Filter&) { return "filter"; }, [](const Select&) { return "source selector"; },
            [](const Linear&) { return "linear regulator"; },
            [](const Switcher& s) {
                return s.topology == Topology::buck    ? "buck regulator"
                       : s.topology == Topology::boost ? "boost regulator"
                                                       : "buck-boost regulator";
            },
            [](const Charger&) { return "charger"; }},
        part);
}

std::string nameOf(const Stage& stage) {
    return stage.label.empty() ? stage.id : stage.label;
}

} // namespace sipper
