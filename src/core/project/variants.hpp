// SPDX-License-Identifier: GPL-3.0-or-later
// Several supplies for one brief in one document: `A` at its top, the others in its variants.
// Numbers count the one at the top as 0. In a file a variant leaves out the lists that are as at
// the top.
#pragma once

#include "project/project.hpp"

namespace sipper {

[[nodiscard]] std::size_t variantCount(const Project& document);
/// `A` for the one at the top where it has no name.
[[nodiscard]] std::string variantName(const Project& document, std::size_t number);

/// The variant as a project of its own, without the others: name, notes, brief and readings are the
/// document's. Past the last one: the one at the top.
[[nodiscard]] Project variantProject(const Project& document, std::size_t number);

/// The variant of this name as a project of its own; the one at the top for an empty name. Error
/// "option" for an unknown one, with the names that there are.
[[nodiscard]] Outcome<Project> variantNamed(const Project& document, const std::string& name);

/// The document after `edited` has replaced the variant: modes, stages and loads are the variant's,
/// name, notes, brief and readings everyone's.
[[nodiscard]] Project withVariant(const Project& document, std::size_t number,
                                  const Project& edited);

/// The document with another variant behind the last, as `supply` has it, named by the next letter
/// that is free.
[[nodiscard]] Project withVariantAdded(const Project& document, const Project& supply);
[[nodiscard]] Project withVariantNamed(const Project& document, std::size_t number,
                                       const std::string& name);
/// Without this one; where it stood at the top the next one takes its place. The last one stays.
[[nodiscard]] Project withoutVariant(const Project& document, std::size_t number);

} // namespace sipper
