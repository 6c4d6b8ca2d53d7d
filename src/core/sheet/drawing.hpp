// SPDX-License-Identifier: GPL-3.0-or-later
// The supply line as boxes and leads on paper, and small drawings of plugs: shapes that SVG and the
// window's painter put on paper alike.
#pragma once

#include "sheet/sheet.hpp"

namespace sipper {

/// What a shape stands for, which is its colour.
enum class Ink { ink, muted, hairline, copper, charge, load, stop, card, shelf };

struct DrawnLine {
    std::vector<std::pair<double, double>> points;
    Ink ink = Ink::copper;
    double width = 2;
    bool dashed = false;
};
struct DrawnBox {
    double x = 0;
    double y = 0;
    double w = 0;
    double h = 0;
    double round = 4;
    Ink edge = Ink::ink;
    Ink fill = Ink::card;
    double width = 1;
};
struct DrawnText {
    double x = 0; ///< of its middle, or its left end
    double y = 0; ///< of its base line
    double size = 11;
    bool bold = false;
    bool left = false;
    Ink ink = Ink::ink;
    std::string text;
    double room = 0; ///< width it must keep to; 0: as it comes
};
struct Drawing {
    double width = 0;
    double height = 0;
    std::vector<DrawnLine> lines;
    std::vector<DrawnBox> boxes;
    std::vector<DrawnText> texts;
    /// Where each stage and load stands.
    std::vector<std::pair<std::string, DrawnBox>> places;
};

/// The line from its sources to its loads, one column for each thing on the way; a lead is a small
/// box with its number in the wiring table.
[[nodiscard]] Drawing lineDrawing(const Project& project, const Sheet& sheet);
/// A plug or holder: sleeve and centre, two pins, springs.
[[nodiscard]] Drawing plugDrawing(const SheetPlug& plug);

/// A colour of the day, `#B85F2B`.
[[nodiscard]] std::string_view inkColour(Ink ink);
/// The drawing as an SVG document that points to nothing outside itself.
[[nodiscard]] std::string svgText(const Drawing& drawing, const std::string& title);

} // namespace sipper
