// SPDX-License-Identifier: GPL-3.0-or-later
// The build sheet: what to buy, wire, set and check, made from a solved project. Every figure on it
// is one of Quick or Deep, so that paper, window and command line agree.
#pragma once

#include "analysis/analysis.hpp"
#include "measure/checks.hpp"

#include <set>

namespace sipper {

/// What colours leads have in the user's own workshop.
struct LeadColours {
    std::string plus = "red";
    std::string minus = "black";
    std::string switched = "orange"; ///< plus behind a guard, a switch or a regulator that switches
    std::string charge = "green";    ///< plus on its way into a pack
    bool operator==(const LeadColours&) const = default;
};

struct SheetOptions {
    std::string date; ///< `2031-04-02`; on the paper, and nothing is made of it
    LeadColours colours;
};

/// One line of the list to buy.
struct SheetPart {
    std::string key; ///< what a tick is kept by: the id, or `id/upper` of a resistor
    std::string id;  ///< of the stage or load
    double count = 1;
    bool metres = false; ///< `count` is a length
    std::string name;    ///< what to buy
    std::string place;   ///< what it is called on the line, where that is another name
    std::string figures;
    std::optional<double> grams; ///< of all of them
    std::optional<double> price;
    bool have = false;
};

/// One connection, a pair of plus and minus.
struct SheetWire {
    std::string label; ///< `W1`
    std::string id;    ///< of the lead; of what it leads to where none is in the project
    std::string from;
    std::string to;
    std::string size;      ///< `0.75 mm²`, `22 AWG`
    bool proposed = false; ///< the project has no lead there: the size is a proposal
    std::string colours;   ///< `red/black`
    std::optional<double> metres;
    std::string plug;          ///< connector and polarity; empty where the project has none there
    bool askPlug = false;      ///< two things meet at a plug whose polarity is not stated
    double amps = 0;           ///< the most that flows, bursts included
    double dropVolts = 0;      ///< at that
    double areaMm2 = 0;        ///< of copper; 0: several in parallel
    double fuseAmps = 0;       ///< of the fuse that protects it, there or proposed; 0: none does
    bool fuseProposed = false; ///< the project has no such fuse: it goes in with the lead
    double shortAmps = 0;      ///< that a source can push into a short of it; 0: not told
    std::string remark;        ///< `fuse within a hand's breadth of the pack`
};

/// Why a connection must not be built as it stands, by its own figures alone; empty where it may.
/// Written apart from what proposes it: ampacity over what flows, fuse under the ampacity, what a
/// short lets flow over the fuse.
[[nodiscard]] std::string wireFault(const SheetWire& wire);

/// Something to set or to fit before anything hangs on it.
struct SheetSet {
    std::string id;
    std::string what;
    std::string how;
    bool proposal = false; ///< resistors that the project does not have yet
};

struct SheetStep {
    std::string id;
    std::string text;
};

struct SheetCheck {
    BenchCheck check;
    std::string what;
    std::string where;
    std::string band;
};

struct SheetCaution {
    std::string title;
    std::string text;
};

struct SheetOpen {
    std::string rule;
    std::string subject;
    Severity severity = Severity::care;
    std::string title;
    std::string says;
};

/// A plug or a holder that is drawn.
struct SheetPlug {
    enum class Shape { barrel, twoPin, holder };
    std::string id;
    Shape shape = Shape::twoPin;
    std::string name; ///< `Adapter 12 V: barrel 5.5 × 2.1`
    Polarity centre = Polarity::unknown;
    int cells = 0; ///< of a holder, in series
};

struct Sheet {
    std::string title;
    std::string variant;
    std::string date;
    std::string
        code; ///< of what is built: the same for the same supply, whatever was read or ticked
    std::string summary;
    std::string said; ///< what it was said to run and to refill, to be held against it later
    std::string notes;
    std::vector<SheetPart> parts;
    double grams = 0; ///< of the whole, as the verdict has it
    double price = 0;
    double priceLeft = 0; ///< without what is ticked
    std::vector<SheetWire> wires;
    std::vector<SheetPlug> plugs;
    std::vector<SheetSet> sets;
    std::vector<SheetStep> steps;
    std::vector<SheetCheck> checks;
    std::vector<SheetCaution> cautions;
    std::vector<SheetOpen> open;
};

/// `deep` may be null while it is being computed: range and gains are then left out.
[[nodiscard]] Sheet sheetOf(const Project& project, const QuickAnalysis& quick,
                            const DeepAnalysis* deep, const SheetOptions& ask = {});

/// Eight letters and digits, four and four, for a supply: of its brief, modes, stages and loads,
/// not of readings, ticks or other variants. FNV-1a, 64 bits, in Crockford's base 32.
[[nodiscard]] std::string contentCode(const Project& project);

/// The keys of what is bought already (`x-have` of the project).
[[nodiscard]] std::set<std::string> haveOf(const Project& project);
/// The project with a key ticked, or not.
[[nodiscard]] Project withHave(Project project, const std::string& key, bool have);

/// A lead's size as it was given: `30 AWG`, or `0.75 mm²`.
[[nodiscard]] std::string leadSizeText(const Wire& wire);

// The pieces, each by itself.
[[nodiscard]] std::vector<SheetPart> partsFor(const Project& project);
[[nodiscard]] std::vector<SheetWire> wiresFor(const Project& project, const QuickAnalysis& quick,
                                              const LeadColours& colours);
[[nodiscard]] std::vector<SheetPlug> plugsFor(const Project& project);
[[nodiscard]] std::vector<SheetSet> setsFor(const Project& project, const QuickAnalysis& quick);
[[nodiscard]] std::vector<SheetStep> stepsFor(const Project& project, double worstAmps);
[[nodiscard]] std::vector<SheetCaution> cautionsFor(const Project& project);

/// One section of the paper as a table: what every way out shows.
struct SheetRow {
    std::string id; ///< of the stage or load; empty
    std::string key;
    std::vector<std::string> cells;
    bool quiet = false; ///< in small letters under what stands above it
    bool sum = false;   ///< of what stands above it
};
struct SheetSection {
    enum class Mark { none, box, have };
    std::string name; ///< `parts`, `wiring`, `sets`, `steps`, `checks`, `cautions`, `open`
    std::string title;
    std::string note;
    std::vector<std::string> headings; ///< empty: no line of headings
    std::vector<double> widths;        ///< shares of the width
    std::vector<bool> right;           ///< set to the right
    std::vector<bool> bold;
    Mark mark = Mark::none; ///< a box to tick before each row
    bool blank = false;     ///< a line to write on behind each row
    std::vector<SheetRow> rows;
};
[[nodiscard]] std::vector<SheetSection> sectionsOf(const Sheet& sheet);

} // namespace sipper
