// SPDX-License-Identifier: GPL-3.0-or-later
// Small helpers that the rules share.
#pragma once

#include "advice/advice.hpp"
#include "line/unloaded.hpp"
#include "project/tree.hpp"
#include "quantity/write.hpp"

namespace sipper {

/// `3.35 V`
[[nodiscard]] inline std::string volts(double v) {
    return writeQuantity(v, Unit::volt);
}
/// `v` with as many digits as it takes to tell it from `other`: `11.17 V` beside 11.20 V.
[[nodiscard]] std::string voltsBeside(double v, double other);
[[nodiscard]] inline std::string amps(double a) {
    return writeQuantity(a, Unit::ampere);
}

/// The mode's name in the middle of a sentence, with `in a burst` where it is one: `while Sending,
/// in a burst`.
[[nodiscard]] std::string momentText(const Project& project, const Occurrence& s);

/// A finding without fix or gain.
[[nodiscard]] Finding finding(std::string_view rule, Severity severity, const std::string& subject,
                              std::string title, std::string says,
                              std::map<std::string, double> numbers = {});

/// Any edit, as a fix.
[[nodiscard]] Fix editFix(std::string label, std::string name,
                          std::function<Project(const Project&)> apply);
/// The stage with one figure changed, as a fix: `figureFix(*guard, &Guard::cutoff, Volts{3}, …)`.
/// The stage must hold such a part.
template <class P, class Figure, class Value>
[[nodiscard]] Fix figureFix(const Stage& stage, Figure P::*figure, Value value, std::string label,
                            std::string name) {
    return editFix(std::move(label), std::move(name),
                   [id = stage.id, figure, value](const Project& project) {
                       Project out = project;
                       if (Stage* s = out.stage(id))
                           if (P* part = std::get_if<P>(&s->part))
                               part->*figure = value;
                       return out;
                   });
}
/// Another stage in the place of the one with its id, as a fix.
[[nodiscard]] Fix replaceFix(const Stage& stage, std::string label, std::string name);
/// A new stage put between one stage and all that it feeds but chargers, as a fix.
[[nodiscard]] Fix insertFix(const Stage& fresh, const std::string& after, std::string label,
                            std::string name);

/// A lead of this cross-section (mm2) in the place of a lead, as a fix.
[[nodiscard]] Fix areaFix(const Stage& lead, double areaMm2);

/// The stage's set-point moved to `volts`, as a fix.
[[nodiscard]] Fix setPointFix(const Stage& stage, double volts);

} // namespace sipper
