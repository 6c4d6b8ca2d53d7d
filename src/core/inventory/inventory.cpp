// SPDX-License-Identifier: GPL-3.0-or-later
#include "inventory/inventory.hpp"

#include "measure/checks.hpp"
#include "measure/logbook.hpp"
#include "parts/chemistry.hpp"
#include "project/file.hpp"
#include "project/json.hpp"
#include "quantity/write.hpp"
#include "trace/csvtext.hpp"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numeric>
#include <set>

namespace sipper {
namespace {

constexpr double kLeastHealth = 0.6;
constexpr double kMostResistance = 2; ///< of the type's
constexpr double kMostLoss = 0.10;    ///< a month
constexpr double kWeek = 7;           ///< days
constexpr double kMonth = 30.4375;    ///< days
constexpr double kMostFigure = 1e5;
constexpr double kGiveForOhms = 0.005; ///< of a group's capacity, for more equal resistances
constexpr std::size_t kMostCells = 10000;
constexpr std::size_t kRounds = 200;

Error bad(const std::string& where, const std::string& found, const std::string& expected) {
    return {"bad_cell", where, found, expected, ""};
}

/// A row or an entry is checked the same way.
std::optional<Error> trouble(const OwnedCell& c, const std::string& where) {
    if (c.id.empty())
        return bad(where + "/id", "nothing", "a name for the cell");
    for (const auto& [key, figure] : {std::pair{"label_ah", c.labelAh},
                                      std::pair{"capacity_ah", c.ah}, std::pair{"ohm", c.ohms}})
        if (figure && !(*figure > 0 && *figure < kMostFigure))
            return bad(where + "/" + key, fmt::format("{:g}", *figure), "a figure over 0");
    for (const RestingVolts& r : c.rests)
        if (!(r.volts >= 0 && r.volts < 1000) || !dayOf(r.when))
            return bad(where + "/rests", fmt::format("{:g} V on \"{}\"", r.volts, r.when),
                       "volts of one cell and a date as 2031-04-02");
    return std::nullopt;
}

Outcome<std::vector<OwnedCell>> checked(std::vector<OwnedCell> cells, const std::string& unit) {
    std::set<std::string> ids;
    for (std::size_t i = 0; i < cells.size(); ++i) {
        const std::string where = fmt::format("{}{}", unit, i);
        if (auto error = trouble(cells[i], where))
            return *error;
        if (!ids.insert(cells[i].id).second)
            return bad(where + "/id", '"' + cells[i].id + "\" twice", "a name for each cell");
    }
    return cells;
}

std::string quoted(const std::string& text) {
    if (text.find_first_of(",\"\n\r;") == std::string::npos)
        return text;
    std::string out = "\"";
    for (const char c : text)
        out += c == '"' ? "\"\"" : std::string(1, c);
    return out + '"';
}

std::string figureText(const std::optional<double>& figure) {
    return figure ? fmt::format("{:.6g}", *figure) : std::string();
}

struct Rows {
    std::vector<std::vector<std::string>> rows{{}};
};
void takeField(void* text, std::size_t length, void* data) {
    static_cast<Rows*>(data)->rows.back().emplace_back(static_cast<const char*>(text), length);
}
void takeRow(int, void* data) {
    static_cast<Rows*>(data)->rows.emplace_back();
}

} // namespace

std::string drawerText(const std::vector<OwnedCell>& cells) {
    Json list = Json::array();
    for (const OwnedCell& c : cells) {
        Json j{{"id", c.id}};
        for (const auto& [key, text] : {std::pair{"type", c.type}, std::pair{"size", c.size}})
            if (!text.empty())
                j[key] = text;
        j["chemistry"] = std::string(nameOf(c.chemistry));
        for (const auto& [key, figure] : {std::pair{"label_ah", c.labelAh},
                                          std::pair{"capacity_ah", c.ah}, std::pair{"ohm", c.ohms}})
            if (figure)
                j[key] = number(*figure);
        if (!c.rests.empty()) {
            Json rests = Json::array();
            for (const RestingVolts& r : c.rests)
                rests.push_back({{"when", r.when}, {"v", number(r.volts)}});
            j["rests"] = std::move(rests);
        }
        if (!c.when.empty())
            j["when"] = c.when;
        if (c.warm)
            j["warm"] = true;
        if (!c.note.empty())
            j["note"] = c.note;
        list.push_back(std::move(j));
    }
    return Json{{"format", "sipper-cells"}, {"version", 1}, {"cells", std::move(list)}}.dump(2) +
           "\n";
}

Outcome<std::vector<OwnedCell>> readDrawer(std::string_view text) {
    auto parsed = parseJson(text);
    if (!parsed)
        return parsed.error();
    const Json& doc = parsed.value();
    if (!doc.is_object() || !doc.contains("cells") || !doc["cells"].is_array())
        return bad("", foundText(doc), "an object with a list \"cells\"");
    if (doc["cells"].size() > kMostCells)
        return bad("/cells", fmt::format("{}", doc["cells"].size()), "at most 10000 cells");
    std::vector<OwnedCell> cells;
    for (const Json& j : doc["cells"]) {
        const std::string where = fmt::format("/cells/{}", cells.size());
        if (!j.is_object())
            return bad(where, foundText(j), "a cell");
        OwnedCell c;
        std::optional<Error> error;
        const auto textOf = [&](const char* key, std::string& into) {
            const auto at = j.find(key);
            if (at == j.end())
                return;
            if (at->is_string())
                into = at->get<std::string>();
            else
                error = bad(where + "/" + key, foundText(*at), "a text");
        };
        const auto figureOf = [&](const char* key, std::optional<double>& into) {
            const auto at = j.find(key);
            if (at == j.end())
                return;
            if (at->is_number())
                into = at->get<double>();
            else
                error = bad(where + "/" + key, foundText(*at), "a figure");
        };
        std::string chemistry;
        textOf("id", c.id);
        textOf("type", c.type);
        textOf("size", c.size);
        textOf("chemistry", chemistry);
        textOf("when", c.when);
        textOf("note", c.note);
        figureOf("label_ah", c.labelAh);
        figureOf("capacity_ah", c.ah);
        figureOf("ohm", c.ohms);
        if (const auto at = j.find("warm"); at != j.end() && at->is_boolean())
            c.warm = at->get<bool>();
        if (const auto at = j.find("rests"); at != j.end() && at->is_array())
            for (const Json& r : *at) {
                if (r.is_object() && r.contains("v") && r["v"].is_number() && r.contains("when") &&
                    r["when"].is_string())
                    c.rests.push_back({r["when"].get<std::string>(), r["v"].get<double>()});
                else
                    error = bad(where + "/rests", foundText(r), "{\"when\", \"v\"}");
            }
        if (!chemistry.empty()) {
            if (const auto known = valueOf<Chemistry>(chemistry))
                c.chemistry = *known;
            else
                error =
                    bad(where + "/chemistry", '"' + chemistry + '"', listed(namesOf<Chemistry>()));
        }
        if (error)
            return *error;
        cells.push_back(std::move(c));
    }
    return checked(std::move(cells), "/cells/");
}

std::string drawerCsv(const std::vector<OwnedCell>& cells) {
    std::string out = "id,type,size,chemistry,label_ah,capacity_ah,ohm,rest_v,rest_when,again_v,"
                      "again_when,when,warm,note\n";
    for (const OwnedCell& c : cells) {
        // The first and the last tell the most; JSON keeps them all.
        const RestingVolts* first = c.rests.empty() ? nullptr : &c.rests.front();
        const RestingVolts* last = c.rests.size() > 1 ? &c.rests.back() : nullptr;
        const auto restOf = [](const RestingVolts* r) {
            return r ? fmt::format("{:.6g},{}", r->volts, r->when) : std::string(",");
        };
        out += fmt::format("{},{},{},{},{},{},{},{},{},{},{},{}\n", quoted(c.id), quoted(c.type),
                           quoted(c.size), nameOf(c.chemistry), figureText(c.labelAh),
                           figureText(c.ah), figureText(c.ohms), restOf(first), restOf(last),
                           quoted(c.when), c.warm ? "yes" : "", quoted(c.note));
    }
    return out;
}

Outcome<std::vector<OwnedCell>> readDrawerCsv(std::string_view text) {
    const std::string_view head = text.substr(0, std::min(text.find('\n'), text.size()));
    const char separator = head.find(';') != std::string_view::npos ? ';' : ',';
    Rows rows;
    parseCsv(text, separator, rows, takeField, takeRow);
    while (!rows.rows.empty() && rows.rows.back().empty())
        rows.rows.pop_back();
    if (rows.rows.empty())
        return bad("row 1", "nothing", "a header that names id and capacity_ah");
    std::vector<std::string> names;
    for (const std::string& cell : rows.rows[0])
        names.push_back(lowered(cell));
    if (std::find(names.begin(), names.end(), "id") == names.end())
        return bad("row 1", "no column id", "a header that names id and capacity_ah");
    if (rows.rows.size() > kMostCells)
        return bad("row 1", fmt::format("{} rows", rows.rows.size()), "at most 10000 cells");
    std::vector<OwnedCell> cells;
    for (std::size_t r = 1; r < rows.rows.size(); ++r) {
        const std::vector<std::string>& row = rows.rows[r];
        const auto cell = [&](const char* name) -> std::string {
            for (std::size_t i = 0; i < names.size() && i < row.size(); ++i)
                if (names[i] == name)
                    return row[i];
            return {};
        };
        if (std::all_of(row.begin(), row.end(), [](const std::string& s) { return s.empty(); }))
            continue;
        std::optional<Error> error;
        const auto figure = [&](const char* name) -> std::optional<double> {
            const std::string word = cell(name);
            if (word.empty())
                return std::nullopt;
            auto value = cellNumber(word, '.');
            if (!value && separator == ';')
                value = cellNumber(word, ',');
            if (!value)
                error = bad(fmt::format("row {}, {}", r + 1, name), '"' + word + '"', "a figure");
            return value;
        };
        OwnedCell c;
        c.id = cell("id");
        c.type = cell("type");
        c.size = cell("size");
        c.when = cell("when");
        c.note = cell("note");
        c.labelAh = figure("label_ah");
        c.ah = figure("capacity_ah");
        c.ohms = figure("ohm");
        const std::string warm = lowered(cell("warm"));
        c.warm = warm == "yes" || warm == "true" || warm == "1" || warm == "warm";
        for (const auto& [volts, when] :
             {std::pair{"rest_v", "rest_when"}, std::pair{"again_v", "again_when"}})
            if (const auto v = figure(volts))
                c.rests.push_back({cell(when), *v});
        const std::string chemistry = cell("chemistry");
        if (!chemistry.empty()) {
            if (const auto known = valueOf<Chemistry>(chemistry))
                c.chemistry = *known;
            else
                error = bad(fmt::format("row {}, chemistry", r + 1), '"' + chemistry + '"',
                            listed(namesOf<Chemistry>()));
        }
        if (error)
            return *error;
        cells.push_back(std::move(c));
    }
    return checked(std::move(cells), "cell ");
}

Outcome<std::vector<OwnedCell>> readCells(std::string_view text) {
    const std::size_t first = text.find_first_not_of(" \t\r\n");
    return first != std::string_view::npos && text[first] == '{' ? readDrawer(text)
                                                                 : readDrawerCsv(text);
}

Outcome<std::vector<OwnedCell>> readCellFile(const std::filesystem::path& path) {
    const auto text = readFile(path);
    if (!text)
        return text.error();
    auto cells = readCells(text.value());
    if (cells)
        return cells;
    Error error = cells.error();
    error.file = path.string();
    return error;
}

const LibraryPart* typeOf(const OwnedCell& cell, const Library& library) {
    const LibraryPart* best = nullptr;
    double least = 0;
    for (const LibraryPart& part : library.parts) {
        const auto* pack = std::get_if<Pack>(&part.stage.part);
        if (!pack || pack->series != 1 || pack->parallel != 1)
            continue;
        if (!cell.type.empty() && (part.name == cell.type || pack->cell.id == cell.type))
            return &part;
        if (pack->cell.chemistry != cell.chemistry)
            continue;
        const double wanted = cell.labelAh.value_or(cell.ah.value_or(pack->cell.capacity.value()));
        // Another size is worse than any other capacity.
        const double off = std::abs(std::log(pack->cell.capacity.value() / wanted)) +
                           (lowered(pack->cell.size) == lowered(cell.size) ? 0 : 100);
        if (!best || off < least) {
            best = &part;
            least = off;
        }
    }
    return best;
}

std::optional<double> selfDischargeOf(const OwnedCell& cell, const LibraryPart* type) {
    if (!type || cell.rests.size() < 2)
        return std::nullopt;
    const RestingVolts& a = cell.rests.front();
    const RestingVolts& b = cell.rests.back();
    const auto from = dayOf(a.when);
    const auto to = dayOf(b.when);
    if (!from || !to || *to - *from < kWeek)
        return std::nullopt;
    const Pack& pack = std::get<Pack>(type->stage.part);
    const double lost = leastChargeAt(pack, a.volts) - leastChargeAt(pack, b.volts);
    return std::max(0.0, lost) * kMonth / (*to - *from);
}

CellAssessment judge(const OwnedCell& cell, const Library& library) {
    CellAssessment v;
    const LibraryPart* type = typeOf(cell, library);
    const Pack* pack = type ? &std::get<Pack>(type->stage.part) : nullptr;
    const bool same = pack && (cell.type == pack->cell.id || cell.type == type->name ||
                               lowered(pack->cell.size) == lowered(cell.size));
    std::optional<double> label = cell.labelAh;
    if (!label && pack && same && !cell.type.empty())
        label = pack->cell.capacity.value();
    if (cell.ah && label) {
        v.health = *cell.ah / *label;
        if (*v.health < kLeastHealth)
            v.discardReasons.push_back(fmt::format("holds {} of its label", writeShare(*v.health)));
    }
    if (cell.ohms && same && pack->cell.resistance) {
        // A smaller cell has more: by the capacities, where they differ.
        const double usual =
            pack->cell.resistance->value() * (label ? pack->cell.capacity.value() / *label : 1);
        if (*cell.ohms > kMostResistance * usual)
            v.discardReasons.push_back(fmt::format("{} where {} is usual",
                                                   writeQuantity(*cell.ohms, Unit::ohm),
                                                   writeQuantity(usual, Unit::ohm)));
    }
    if (cell.warm)
        v.discardReasons.emplace_back("grows warm");
    v.lossPerMonth = selfDischargeOf(cell, type);
    if (v.lossPerMonth && *v.lossPerMonth > kMostLoss)
        v.discardReasons.push_back(
            fmt::format("loses {} a month by itself", writeShare(*v.lossPerMonth)));
    return v;
}

Outcome<CellMatch> matchCells(const std::vector<OwnedCell>& cells,
                              const std::vector<std::size_t>& among, std::size_t series,
                              std::size_t parallel) {
    std::vector<std::size_t> chosen;
    for (const std::size_t i : among)
        if (i < cells.size() && cells[i].ah)
            chosen.push_back(i);
    const std::size_t wanted = series * parallel;
    if (wanted == 0 || chosen.size() < wanted)
        return Error{"too_few", "", fmt::format("{} cells that were measured", chosen.size()),
                     fmt::format("{} for {} groups of {}", wanted, series, parallel), ""};
    std::stable_sort(chosen.begin(), chosen.end(),
                     [&](std::size_t a, std::size_t b) { return *cells[a].ah > *cells[b].ah; });
    chosen.resize(wanted);
    CellMatch m;
    m.groups.resize(series);
    m.ah.assign(series, 0);
    // The strongest first, each into the emptiest group that has room.
    for (const std::size_t i : chosen) {
        std::size_t best = series;
        for (std::size_t g = 0; g < series; ++g)
            if (m.groups[g].size() < parallel && (best == series || m.ah[g] < m.ah[best]))
                best = g;
        m.groups[best].push_back(i);
        m.ah[best] += *cells[i].ah;
    }
    const auto conductance = [&](std::size_t i) { return cells[i].ohms ? 1 / *cells[i].ohms : 0; };
    const auto sumOf = [&](std::size_t g) {
        double sum = 0;
        for (const std::size_t i : m.groups[g])
            sum += conductance(i);
        return sum;
    };
    double mean = 0;
    for (const double ah : m.ah)
        mean += ah / static_cast<double>(series);
    std::vector<double> siemens(series);
    for (std::size_t g = 0; g < series; ++g)
        siemens[g] = sumOf(g);
    // Single cells change places for as long as that is better.
    const auto exchange = [&](const auto& better) {
        bool any = true;
        for (std::size_t round = 0; any && round < kRounds; ++round) {
            any = false;
            for (std::size_t g = 0; g < series; ++g)
                for (std::size_t h = g + 1; h < series; ++h)
                    for (std::size_t& a : m.groups[g])
                        for (std::size_t& b : m.groups[h]) {
                            const double d = *cells[b].ah - *cells[a].ah;
                            const double s = conductance(b) - conductance(a);
                            if (!better(g, h, d, s))
                                continue;
                            std::swap(a, b);
                            m.ah[g] += d;
                            m.ah[h] -= d;
                            siemens[g] += s;
                            siemens[h] -= s;
                            any = true;
                        }
        }
    };
    const auto unequal = [&](double a, double b) {
        return (a - mean) * (a - mean) + (b - mean) * (b - mean);
    };
    exchange([&](std::size_t g, std::size_t h, double d, double) {
        return unequal(m.ah[g] + d, m.ah[h] - d) < unequal(m.ah[g], m.ah[h]) - 1e-12 * mean * mean;
    });
    // And where that costs next to no capacity, resistances.
    const double floor = *std::min_element(m.ah.begin(), m.ah.end()) - kGiveForOhms * mean;
    exchange([&](std::size_t g, std::size_t h, double d, double s) {
        const double apart = siemens[g] - siemens[h];
        return m.ah[g] + d >= floor && m.ah[h] - d >= floor &&
               std::abs(apart + 2 * s) < std::abs(apart) * (1 - 1e-9);
    });
    for (std::size_t g = 0; g < series; ++g) {
        const bool known = std::all_of(m.groups[g].begin(), m.groups[g].end(),
                                       [&](std::size_t i) { return cells[i].ohms.has_value(); });
        m.ohms.push_back(known && siemens[g] > 0 ? 1 / siemens[g] : 0);
        std::stable_sort(m.groups[g].begin(), m.groups[g].end(),
                         [&](std::size_t a, std::size_t b) { return *cells[a].ah > *cells[b].ah; });
    }
    m.weakest = static_cast<std::size_t>(std::min_element(m.ah.begin(), m.ah.end()) - m.ah.begin());
    m.packAh = m.ah[m.weakest];
    m.lostShare = mean > 0 ? 1 - m.packAh / mean : 0;
    return m;
}

Pack packOf(const std::vector<OwnedCell>& cells, const CellMatch& match, const LibraryPart& type) {
    Pack pack = std::get<Pack>(type.stage.part);
    pack.series = static_cast<double>(match.groups.size());
    pack.parallel = static_cast<double>(match.groups.front().size());
    double ah = 0;
    double ohms = 0;
    bool known = true;
    for (const auto& group : match.groups)
        for (const std::size_t i : group) {
            ah += *cells[i].ah;
            known = known && cells[i].ohms;
            ohms += cells[i].ohms.value_or(0);
        }
    const double count = pack.series * pack.parallel;
    // The label stays: what is left of it is the health that was measured.
    pack.health = ah / count / pack.cell.capacity.value();
    if (pack.health > 1) {
        pack.cell.capacity = AmpHours{ah / count};
        pack.health = 1;
    }
    if (known)
        pack.measuredResistance = Ohms{ohms / count};
    if (pack.series > 1)
        pack.weakestGroup = AmpHours{match.packAh};
    return pack;
}

} // namespace sipper
