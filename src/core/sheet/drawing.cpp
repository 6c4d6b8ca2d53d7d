// SPDX-License-Identifier: GPL-3.0-or-later
#include "sheet/drawing.hpp"

#include "parts/figures.hpp"
#include "parts/kinds.hpp"
#include "project/tree.hpp"
#include "quantity/write.hpp"
#include "sheet/escape.hpp"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

namespace sipper {
namespace {

constexpr double kColumn = 106;
constexpr double kRow = 50;
constexpr double kBoxWidth = 84;
constexpr double kBoxHeight = 36;
constexpr double kLeadWidth = 84;
constexpr double kMargin = 12;
constexpr double kTitleSize = 11;
constexpr double kDetailSize = 9.5;

/// What stands under the name in a box.
std::string detailOf(const Stage& stage) {
    const Part& part = stage.part;
    if (const auto* pack = std::get_if<Pack>(&part))
        return pack->series > 1 && pack->parallel > 1
                   ? fmt::format("{:.0f} × {:.0f} cells", pack->series, pack->parallel)
               : pack->series > 1   ? fmt::format("{:.0f} in series", pack->series)
               : pack->parallel > 1 ? fmt::format("{:.0f} in parallel", pack->parallel)
                                    : "one cell";
    if (const auto* guard = std::get_if<Guard>(&part))
        return guard->reconnect
                   ? fmt::format("{:g} / {:g} V", guard->cutoff.value(), guard->reconnect->value())
                   : fmt::format("{:g} V", guard->cutoff.value());
    if (const auto amps = setCurrentOf(part))
        return writeExact(amps->value(), Unit::ampere) + " held";
    if (const auto set = setPointOf(part))
        return "to " + writeExact(set->value(), Unit::volt);
    if (const auto* charger = std::get_if<Charger>(&part))
        return charger->chargeVoltage ? writeExact(charger->chargeVoltage->value(), Unit::volt)
                                      : "charger";
    if (const auto* store = std::get_if<Capacitor>(&part))
        return writeExact(store->farad.value(), Unit::farad);
    if (const auto amps = labelAmps(part))
        return writeExact(*amps, Unit::ampere);
    return kindText(part);
}

/// Columns by the longest way from a source, rows by branch.
class Layout {
  public:
    Layout(const Project& project, const Sheet& sheet) : m_project(project), m_sheet(sheet) {}

    Drawing draw() {
        for (const Stage& stage : m_project.stages)
            column(stage.id);
        for (const Stage& stage : m_project.stages)
            if (isSource(stage.part) && !m_rows.contains(stage.id))
                place(stage.id);
        for (const Stage& stage : m_project.stages)
            box(stage);
        for (const Load& load : m_project.loads)
            box(load);
        for (const Stage& stage : m_project.stages) {
            // Several feeds come in apart from each other, the upper one above.
            std::vector<std::string> feeds = stage.fedBy;
            std::stable_sort(feeds.begin(), feeds.end(),
                             [&](const std::string& one, const std::string& other) {
                                 const DrawnBox* x = boxOf(one);
                                 const DrawnBox* y = boxOf(other);
                                 return x && y && x->y < y->y;
                             });
            for (std::size_t k = 0; k < feeds.size(); ++k)
                connect(feeds[k], stage.id,
                        isCharger(stage.part) || chargerBefore(m_project, stage.id) ? Ink::charge
                                                                                    : Ink::copper,
                        static_cast<double>(k + 1) / static_cast<double>(feeds.size() + 1));
        }
        for (const Load& load : m_project.loads)
            connect(load.fedBy, load.id, Ink::copper);
        for (const Stage& stage : m_project.stages)
            if (const auto* charger = std::get_if<Charger>(&stage.part)) {
                const auto leg = chargeLeg(m_project, stage.id);
                charges(leg.empty() ? stage.id : leg.back()->id, charger->charges);
            }
        m_out.width = 2 * kMargin + (m_last + 1) * kColumn - (kColumn - kBoxWidth);
        m_out.height = 2 * kMargin + std::max(1, m_next) * kRow - (kRow - kBoxHeight) +
                       (m_charging ? kMargin : 0);
        return std::move(m_out);
    }

  private:
    double column(const std::string& id) {
        if (const auto known = m_columns.find(id); known != m_columns.end())
            return known->second;
        m_columns[id] = 0; // a loop is refused elsewhere
        double most = 0;
        if (const Stage* stage = m_project.stage(id))
            for (const std::string& feed : stage->fedBy)
                most = std::max(most, column(feed) + 1);
        m_last = std::max(m_last, most);
        return m_columns[id] = most;
    }
    /// Rows from the leaves: the first branch goes on level, each further one takes a row of its
    /// own.
    void place(const std::string& id) {
        if (m_rows.contains(id))
            return;
        m_rows[id] = m_next;
        bool first = true;
        for (const std::string& next : m_project.fedFrom(id)) {
            if (m_rows.contains(next))
                continue;
            if (!first)
                ++m_next;
            first = false;
            if (m_project.stage(next)) {
                const int before = m_next;
                place(next);
                m_rows[next] = before;
            } else {
                m_rows[next] = m_next;
                m_columns[next] = m_columns[id] + 1;
                m_last = std::max(m_last, m_columns[next]);
            }
        }
        if (m_project.stage(id) && isSource(m_project.stage(id)->part))
            ++m_next;
    }
    [[nodiscard]] DrawnBox at(const std::string& id, double width) const {
        DrawnBox b;
        b.w = width;
        b.h = kBoxHeight;
        b.x = kMargin + m_columns.at(id) * kColumn + (kBoxWidth - width) / 2;
        b.y = kMargin + m_rows.at(id) * kRow;
        return b;
    }
    void say(const DrawnBox& b, const std::string& title, const std::string& detail, Ink ink) {
        m_out.texts.push_back(
            {b.x + b.w / 2, b.y + 15, kTitleSize, true, false, Ink::ink, title, b.w - 6});
        m_out.texts.push_back(
            {b.x + b.w / 2, b.y + 28, kDetailSize, false, false, ink, detail, b.w - 4});
    }
    void box(const Stage& stage) {
        if (!m_rows.contains(stage.id))
            return;
        const bool lead = std::holds_alternative<Wire>(stage.part);
        DrawnBox b = at(stage.id, lead ? kLeadWidth : kBoxWidth);
        if (lead) {
            b.fill = Ink::shelf;
            b.edge = Ink::hairline;
            b.round = 10;
        }
        m_out.boxes.push_back(b);
        m_out.places.emplace_back(stage.id, b);
        if (!lead) {
            say(b, nameOf(stage), detailOf(stage), Ink::muted);
            return;
        }
        const auto row = std::find_if(m_sheet.wires.begin(), m_sheet.wires.end(),
                                      [&](const SheetWire& w) { return w.id == stage.id; });
        if (row != m_sheet.wires.end())
            say(b, row->label,
                row->size + (row->metres ? fmt::format(" {:g} m", *row->metres) : ""), Ink::muted);
    }
    void box(const Load& load) {
        if (!m_rows.contains(load.id))
            return;
        DrawnBox b = at(load.id, kBoxWidth);
        b.edge = Ink::load;
        m_out.boxes.push_back(b);
        m_out.places.emplace_back(load.id, b);
        say(b, nameOf(load),
            fmt::format("{:g}–{:g} V", load.window.min.value(), load.window.max.value()),
            Ink::load);
    }
    [[nodiscard]] const DrawnBox* boxOf(const std::string& id) const {
        const auto found = std::find_if(m_out.places.begin(), m_out.places.end(),
                                        [&](const auto& entry) { return entry.first == id; });
        return found == m_out.places.end() ? nullptr : &found->second;
    }
    /// Does a box stand on the level of `a`, between it and `x`?
    [[nodiscard]] bool passesBox(const DrawnBox& a, double x) const {
        return std::any_of(m_out.places.begin(), m_out.places.end(), [&](const auto& entry) {
            const DrawnBox& b = entry.second;
            return std::abs(b.y - a.y) < 0.5 && b.x > a.x + a.w && b.x < x;
        });
    }
    void connect(const std::string& from, const std::string& to, Ink ink, double share = 0.5) {
        const DrawnBox* a = boxOf(from);
        const DrawnBox* b = boxOf(to);
        if (!a || !b)
            return;
        const double ya = a->y + a->h / 2;
        const double yb = b->y + b->h * share;
        // Feeds that come in apart also come down apart.
        const double bend = b->x - (kColumn - kBoxWidth) * (0.6 + (0.5 - share) * 1.2);
        DrawnLine line;
        line.ink = ink;
        line.points = {{a->x + a->w, ya}};
        if (passesBox(*a, bend)) {
            // Over the boxes that stand on its way, not through them: they are not on this wire.
            const double out = a->x + a->w + (kColumn - kBoxWidth) * 0.25;
            const double over = a->y - (kRow - kBoxHeight) * 0.4;
            line.points.emplace_back(out, ya);
            line.points.emplace_back(out, over);
            line.points.emplace_back(bend, over);
            line.points.emplace_back(bend, yb);
        } else if (std::abs(ya - yb) > 0.5) {
            // Down right behind what it comes from, so that nothing on the level way is crossed.
            const double early = a->x + a->w + (kColumn - kBoxWidth) * 0.4;
            const double x = b->x - a->x > 1.5 * kColumn && a->y < b->y ? early : bend;
            line.points.emplace_back(x, ya);
            line.points.emplace_back(x, yb);
        }
        line.points.emplace_back(b->x, yb);
        m_out.lines.push_back(std::move(line));
    }
    void charges(const std::string& charger, const std::string& pack) {
        const DrawnBox* a = boxOf(charger);
        const DrawnBox* b = boxOf(pack);
        if (!a || !b)
            return;
        m_charging = true;
        const bool below = a->y > b->y;
        const double ya = below ? a->y + a->h : a->y;
        const double turn = below ? ya + kMargin * 0.7 : ya - kMargin * 0.5;
        const double left = b->x - kMargin * 0.5;
        DrawnLine line;
        line.ink = Ink::charge;
        line.dashed = true;
        line.points = {{a->x + a->w / 2, ya},
                       {a->x + a->w / 2, turn},
                       {left, turn},
                       {left, b->y + b->h / 2},
                       {b->x, b->y + b->h / 2}};
        m_out.lines.push_back(std::move(line));
    }

    const Project& m_project;
    const Sheet& m_sheet;
    Drawing m_out;
    std::map<std::string, double> m_columns;
    std::map<std::string, int> m_rows;
    double m_last = 0;
    int m_next = 0;
    bool m_charging = false;
};

void ring(Drawing& d, double x, double y, double radius, Ink edge, Ink fill, double width) {
    d.boxes.push_back({x - radius, y - radius, 2 * radius, 2 * radius, radius, edge, fill, width});
}

void word(Drawing& d, double x, double y, const std::string& text, bool bold = true,
          Ink ink = Ink::ink) {
    d.texts.push_back({x, y, 10, bold, true, ink, text, 0});
}

void barrel(Drawing& d, Polarity centre) {
    const char* inner = centre == Polarity::positive   ? "+"
                        : centre == Polarity::negative ? "−"
                                                       : "?";
    const char* outer = centre == Polarity::positive   ? "−"
                        : centre == Polarity::negative ? "+"
                                                       : "?";
    const Ink sure = centre == Polarity::unknown ? Ink::stop : Ink::ink;
    ring(d, 30, 32, 22, Ink::ink, Ink::shelf, 2);
    ring(d, 30, 32, 13, Ink::ink, Ink::card, 1);
    ring(d, 30, 32, 4, Ink::copper, Ink::copper, 1);
    d.lines.push_back({{{34, 32}, {66, 22}}, Ink::muted, 1, false});
    d.lines.push_back({{{48, 42}, {66, 48}}, Ink::muted, 1, false});
    word(d, 70, 26, std::string("centre ") + inner, true, sure);
    word(d, 70, 52, std::string("sleeve ") + outer, true, sure);
}

void twoPin(Drawing& d, Polarity first) {
    d.boxes.push_back({8, 16, 44, 32, 4, Ink::ink, Ink::shelf, 1.5});
    ring(d, 21, 32, 5, Ink::ink, Ink::copper, 1);
    ring(d, 39, 32, 5, Ink::ink, Ink::card, 1);
    d.lines.push_back({{{8, 20}, {4, 20}, {4, 44}, {8, 44}}, Ink::ink, 1, false});
    const bool known = first != Polarity::unknown;
    const bool plus = first == Polarity::positive;
    word(d, 60, 26,
         !known ? "pin by the key: ?"
         : plus ? "pin by the key: +"
                : "pin by the key: −",
         true, known ? Ink::ink : Ink::stop);
    word(d, 60, 46,
         !known ? "measure it first"
         : plus ? "the other: −"
                : "the other: +",
         known, known ? Ink::ink : Ink::stop);
}

void holder(Drawing& d, int cells) {
    const int shown = std::min(std::max(cells, 1), 6);
    const double width = 26;
    d.boxes.push_back({6, 8, 8 + shown * width, 50, 3, Ink::ink, Ink::shelf, 1.5});
    for (int i = 0; i < shown; ++i) {
        const double x = 11 + i * width;
        const bool up = i % 2 == 0; // each turned against the one before it
        d.boxes.push_back({x, 17, 20, 30, 3, Ink::ink, Ink::card, 1});
        d.boxes.push_back({x + 6, up ? 13.0 : 47.0, 8, 4, 1, Ink::ink, Ink::copper, 1});
        const double spring = up ? 47 : 10;
        d.lines.push_back({{{x + 4, spring + 3},
                            {x + 7, spring},
                            {x + 10, spring + 6},
                            {x + 13, spring},
                            {x + 16, spring + 3}},
                           Ink::muted,
                           1,
                           false});
        d.texts.push_back({x + 10, 35, 11, true, false, Ink::ink, up ? "+" : "−", 0});
    }
    word(d, 22 + shown * width, 28, "spring: −", true);
    if (cells > shown)
        word(d, 22 + shown * width, 46, fmt::format("and {} more", cells - shown), false,
             Ink::muted);
}

} // namespace

Drawing lineDrawing(const Project& project, const Sheet& sheet) {
    return Layout(project, sheet).draw();
}

Drawing plugDrawing(const SheetPlug& plug) {
    Drawing d;
    d.height = 64;
    d.width = 150;
    switch (plug.shape) {
    case SheetPlug::Shape::barrel:
        barrel(d, plug.centre);
        break;
    case SheetPlug::Shape::twoPin:
        twoPin(d, plug.centre);
        d.width = 170;
        break;
    case SheetPlug::Shape::holder:
        holder(d, plug.cells);
        d.width = 90 + std::min(std::max(plug.cells, 1), 6) * 26;
        break;
    }
    return d;
}

std::string_view inkColour(Ink ink) {
    static constexpr std::array<std::string_view, 9> colours{"#23282E", "#6B655B", "#D8D1C3",
                                                             "#B85F2B", "#1E7B78", "#35507E",
                                                             "#B3261E", "#FFFFFF", "#F3EFE6"};
    return colours[static_cast<std::size_t>(ink)];
}

std::string svgText(const Drawing& d, const std::string& title) {
    std::string out = fmt::format(
        "<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 {:.0f} {:.0f}\" width=\"{:.0f}\" "
        "height=\"{:.0f}\" role=\"img\" font-family=\"sans-serif\">\n<title>{}</title>\n",
        d.width, d.height, d.width, d.height, escaped(title));
    for (const DrawnLine& line : d.lines) {
        std::string points;
        for (const auto& [x, y] : line.points)
            points += fmt::format("{}{:.1f},{:.1f}", points.empty() ? "" : " ", x, y);
        out += fmt::format("<polyline points=\"{}\" fill=\"none\" stroke=\"{}\" "
                           "stroke-width=\"{:g}\" stroke-linejoin=\"round\"{}/>\n",
                           points, inkColour(line.ink), line.width,
                           line.dashed ? " stroke-dasharray=\"5 4\"" : "");
    }
    for (const DrawnBox& b : d.boxes)
        out +=
            fmt::format("<rect x=\"{:.1f}\" y=\"{:.1f}\" width=\"{:.1f}\" height=\"{:.1f}\" "
                        "rx=\"{:g}\" fill=\"{}\" stroke=\"{}\" stroke-width=\"{:g}\"/>\n",
                        b.x, b.y, b.w, b.h, b.round, inkColour(b.fill), inkColour(b.edge), b.width);
    for (const DrawnText& t : d.texts)
        out += fmt::format("<text x=\"{:.1f}\" y=\"{:.1f}\" font-size=\"{:g}\"{}{} fill=\"{}\">{}"
                           "</text>\n",
                           t.x, t.y, t.size, t.bold ? " font-weight=\"bold\"" : "",
                           t.left ? "" : " text-anchor=\"middle\"", inkColour(t.ink),
                           escaped(shortened(t.text, t.room, t.size)));
    return out + "</svg>\n";
}

} // namespace sipper
