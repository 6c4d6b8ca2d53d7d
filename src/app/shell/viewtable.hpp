// SPDX-License-Identifier: GPL-3.0-or-later
// The one table of views: window, steps, menus, `--view`, the keyboard and tools/shoot read it. A
// new view is a folder under views/ and a row here.
#pragma once

#include "session/session.hpp"

#include <QKeySequence>
#include <QWidget>
#include <span>
#include <vector>

namespace sipper::app {

/// What a step says of its own result.
struct StepLine {
    QString text;
    bool trouble = false;
};

/// One picture of docs/screenshots: its name and the program's options.
struct Shot {
    const char* name;
    const char* options;
};

struct ViewEntry {
    const char* name; ///< object name, and what `--view` takes
    const char* title;
    const char* menu; ///< with its mnemonic
    const char* keys;
    int step; ///< place among the steps on the left, from 1; 0: none
    QWidget* (*make)(Session& session);
    StepLine (*line)(const Session& session); ///< null: no step
    std::vector<Shot> shots;
};

/// In the order of the menus, the start page left out.
[[nodiscard]] std::span<const ViewEntry> viewTable();
[[nodiscard]] const ViewEntry* viewNamed(std::string_view name);
/// `start, brief, loads, …`: for messages.
[[nodiscard]] QString viewNames();

} // namespace sipper::app
