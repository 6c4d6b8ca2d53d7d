// SPDX-License-Identifier: GPL-3.0-or-later
// What the rules of advice say.
#pragma once

#include "project/project.hpp"

#include <functional>
#include <map>

namespace sipper {

enum class Severity { stop, care, note };
[[nodiscard]] std::string_view severityName(Severity severity);

/// An edit that mends what a finding says: a function from a project to a project.
struct Fix {
    std::string label; ///< on the button: `Use a buck-boost`
    std::string name;  ///< of the edit, for undo: `use a buck-boost for Logic`
    std::function<Project(const Project&)> apply;
    bool forHours = false; ///< worth nothing unless it runs longer: dropped when it does not
};

struct Finding {
    std::string rule;
    Severity severity = Severity::note;
    std::string subject; ///< id of the stage or load; "project" for the whole
    std::string title;   ///< a few words
    std::string says;    ///< a sentence with numbers
    std::map<std::string, double> numbers;
    std::optional<Fix> fix;
    std::optional<double> gainHours; ///< what the fix gains, where that is hours
    std::string lead{}; ///< id of the lead that the fix thickens; empty where it does not
};

} // namespace sipper
