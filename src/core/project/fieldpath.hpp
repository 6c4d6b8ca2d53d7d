// SPDX-License-Identifier: GPL-3.0-or-later
// One figure of a project by its place in the file, a JSON pointer with ids in place of numbers:
// `/stages/boost5/set_v`, `/loads/lamp/draws/lit/current_a`, `/brief/ambient_c/typical`.
#pragma once

#include "parts/fields.hpp"
#include "project/jsonfwd.hpp"
#include "project/project.hpp"

#include <memory>

namespace sipper {

/// A figure that is somewhere in a project's file, or may be.
struct FieldPlace {
    std::string pointer;  ///< as it was asked for, with ids
    std::string numbered; ///< the same as RFC 6901 has it, with places in lists
    std::string says;     ///< `Lamp in Lit`, `Boost 5: set to`
    FieldFacts facts;     ///< its unit, limits and words
    std::optional<double>
        now;                ///< what the file says, else the default; nothing where nothing holds
    bool isDefault = false; ///< the file leaves it out
    [[nodiscard]] bool whole() const { return facts.unit == Unit::count; }
};

/// Numbers alone. Errors: "field" where the project has no such figure (`expected` names those that
/// stand beside it), "kind" where it is no number.
[[nodiscard]] Outcome<FieldPlace> fieldAt(const Project& project, std::string_view pointer);

/// Every figure that `fieldAt` finds and the file states, in the order of the file.
[[nodiscard]] std::vector<FieldPlace> statedFields(const Project& project);

/// A project whose one figure is written anew, as if its file said so.
class FieldEdit {
  public:
    FieldEdit(const Project& project, const FieldPlace& place);
    ~FieldEdit();
    /// With `value` in the field; the error of the file's reader where it refuses that.
    [[nodiscard]] Outcome<Project> with(double value) const;

  private:
    std::unique_ptr<Json> m_file;
    std::string m_numbered;
    bool m_whole;
};

} // namespace sipper
