// SPDX-License-Identifier: GPL-3.0-or-later
// What a subcommand is: its options, and a function from what was asked to an answer. Nothing is
// computed here that the core does not offer.
#pragma once

#include "project/jsonfwd.hpp"
#include "project/project.hpp"

#include <CLI/CLI.hpp>
#include <nlohmann/json.hpp>

namespace sipper::cli {

/// Everything that can be asked for; each command reads what it has added.
struct Asked {
    std::string file;
    bool json = false;
    bool noRange = false;
    std::string charge = "1";
    std::string mode;
    std::string variant;
    std::string from = "0.1";
    std::string source;
    std::string charger;
    std::string weather;
    std::string light;
    std::string years = "1";
    std::string seed = "1";
    bool map = false;
    std::string benchCharge; ///< empty: as the pack says
    std::string ambient = "20";
    std::string output;
    std::vector<std::string> logs;
    bool totals = false;
    std::string ownWatts = "0";
    std::string labelWh;
    std::string cutVolts;
    bool byReadings = false;
    std::string at;
    std::string startCharge = "1";
    std::string series = "E24";
    std::vector<std::string> with;
    std::string mostGrams;
    std::string mostPrice;
    std::string leastHours;
    std::vector<std::string> cells;
    bool all = false;
    std::string take;
    bool withCharger = false;
    bool adviseAll = false;
    bool choices = false;
    std::vector<std::string> needs;
    std::string hours = "8";
    std::string wishFrom = "cells";
    std::string setting = "portable";
    bool rechargeable = false;
    std::vector<std::string> only;
    std::string timeUnit;
    std::string currentUnit;
    std::size_t timeColumn = 0; ///< from 1; 0: to be found
    std::size_t currentColumn = 0;
    std::string sum;
    std::string field; ///< a pointer with ids
    std::string sweepTo;
    std::size_t points = 41;
    bool logarithmic = false;
    std::vector<std::string> show;
    std::vector<std::string> arguments;
};

inline constexpr int kDone = 0;
inline constexpr int kStop = 1;  ///< done, and something has to be mended
inline constexpr int kCould = 2; ///< could not

struct Answer {
    Json json;
    std::string text;
    int exit = kDone;
};

struct Command {
    const char* name;
    const char* help;
    void (*options)(CLI::App& app, Asked& asked);
    Outcome<Answer> (*answer)(const Asked& asked);
    bool json = true; ///< it takes --json; false: what it prints is a document of its own
};

/// The project that `asked.file` and `asked.variant` name; for a text answer with its labels tamed.
/// Warnings go to standard error.
[[nodiscard]] Outcome<Project> askedProject(const Asked& asked);
/// The same with all its variants.
[[nodiscard]] Outcome<Project> askedDocument(const Asked& asked);

/// The mode that `--mode` names; the base mode where nothing is asked for.
[[nodiscard]] Outcome<std::size_t> askedMode(const Project& project, const Asked& asked);
/// What an option says as a share from 0 to 1.
[[nodiscard]] Outcome<double> askedShare(const std::string& option, const std::string& text);

/// The warmth that `--ambient` names, -60 to 120 degrees Celsius.
[[nodiscard]] Outcome<Celsius> askedAmbient(const Asked& asked);

/// The options that many commands share.
void addFile(CLI::App& app, Asked& asked);
void addVariant(CLI::App& app, Asked& asked);

/// `--name: found "x", expected y`: a word of the command line that means nothing.
[[nodiscard]] Error badOption(const std::string& name, const std::string& found,
                              const std::string& expected);

extern const Command kRuntime;
extern const Command kOperate;
extern const Command kCheck;
extern const Command kLevers;
extern const Command kCompare;
extern const Command kTrace;
extern const Command kSum;
extern const Command kCharge;
extern const Command kSun;
extern const Command kProtect;
extern const Command kBench;
extern const Command kReport;
extern const Command kDischarge;
extern const Command kCalibrate;
extern const Command kTidy;
extern const Command kSchema;
extern const Command kKinds;
extern const Command kFind;
extern const Command kWish;
extern const Command kSweep;

} // namespace sipper::cli
