// SPDX-License-Identifier: GPL-3.0-or-later
// Two or three resistors that set a threshold, a set-point or what a converter input reads.
#pragma once

#include "project/project.hpp"

namespace sipper {

/// What a divider is for.
enum class DividerUse {
    threshold, ///< a guard's cut-off, or a regulator's lock-out: the tap compares the input
    setPoint,  ///< a regulator's feedback: the tap compares the output
    watch      ///< a converter input reads the battery
};

/// What is wanted of a divider.
struct DividerOptions {
    DividerUse use = DividerUse::setPoint;
    double reference = 1.25;     ///< V at the tap; of a watch, the input's full scale
    double target = 5;           ///< V: where it switches going down, regulates, or is full scale
    std::optional<double> upper; ///< V: where it switches back going up; a feedback resistor then
    double outputVolts = 0;     ///< V that the comparator's output gives when it is high (feedback)
    bool outputFollows = false; ///< that output is what is measured, while it is on: a guard's
    std::string series = "E24";
    double drawsAtMost = 1e-4;  ///< A at the target: sets the least total
    double tapOhmsAtMost = 1e5; ///< ohm that the tap shows: noise and leakage set it
    double tolerance = 0.01;    ///< of the resistors
    double referenceTolerance = 0.02;
};

/// One way to build it.
struct Divider {
    double upper = 0;               ///< ohm, from what is measured to the tap
    double lower = 0;               ///< ohm, from the tap to ground
    std::optional<double> feedback; ///< ohm, from the output to the tap
    double actual = 0;              ///< V
    double error = 0;               ///< (gives - target) / target
    double least = 0;               ///< V with every tolerance at its worst
    double most = 0;
    std::optional<double> givesUpper; ///< V going up, with feedback
    double draws = 0;                 ///< A at the target
    double tapOhms = 0;               ///< upper and lower in parallel
    double voltsPerCount = 0; ///< V at the target for one part in 1024 of full scale (a watch)
};

/// The best first, at most `count`: by error, of equal ones (within 1e-9) the larger total, none
/// that draws more or shows more ohms than asked, resistors from 1 ohm to 10 Mohm (IEC 60063;
/// docs/model.md: Protection). `gives = v_ref (1 + upper/lower)`. With feedback: falling, the
/// output is high and lifts the tap; rising, it is low and loads it. Empty where none fits. Errors
/// are left to `whyNoDivider`.
[[nodiscard]] std::vector<Divider> dividersFor(const DividerOptions& ask, std::size_t count = 5);
/// Why there is none, in words: `the target lies under the reference`.
[[nodiscard]] std::string whyNoDivider(const DividerOptions& ask);

/// The best five by error, with those among them that nothing beats in both error and draw marked.
[[nodiscard]] std::vector<bool> undominated(const std::vector<Divider>& dividers);

/// Things on the line that a divider can set.
struct DividerPlace {
    std::string id; ///< of the stage
    DividerUse use = DividerUse::setPoint;
    std::string says;           ///< `Guard cuts off at 15.0 V`
    DividerOptions ask;         ///< what it needs, with what the project says already
    std::optional<Divider> has; ///< the one in the project
};
[[nodiscard]] std::vector<DividerPlace> dividerPlaces(const Project& project);

/// The project with the divider in the part's keys, and the threshold or set-point moved to what
/// it gives. Of a watch without a stage of its own: a new one at the pack.
[[nodiscard]] Project withDivider(const Project& project, const DividerPlace& place,
                                  const Divider& divider);

} // namespace sipper
