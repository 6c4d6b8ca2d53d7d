// Small helpers that the rules share.
#pragma once

#include "advice/advice.hpp"
#include "line/unloaded.hpp"
#include "parts/fields.hpp"
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
[[nodiscard]] std::string momentText(const Project& project, const Sighting& s);

/// Stages between the pack and this stage or load, the nearest first; ends at the source.
[[nodiscard]] std::vector<const Stage*> wayBack(const Project& project, std::string_view id);

/// The nearest converter on the way back (linear or switching); null when there is none.
[[nodiscard]] const Stage* regulatorBefore(const Project& project, std::string_view id);

/// A finding without cure or gain.
[[nodiscard]] Finding finding(std::string_view rule, Severity severity, const std::string& subject,
                              std::string title, std::string says,
                              std::map<std::string, double> numbers = {});

/// One figure of a part set to a value, as a cure.
[[nodiscard]] Cure figureCure(const Stage& stage, std::string_view key, const FieldValue& value,
                              std::string label, std::string name);
/// Another stage in the place of the one with its id, as a cure.
[[nodiscard]] Cure replaceCure(const Stage& stage, std::string label, std::string name);
/// A new stage put between one stage and all that it feeds but chargers, as a cure.
[[nodiscard]] Cure insertCure(const Stage& fresh, const std::string& after, std::string label,
                              std::string name);

/// A lead of this cross-section (mm2) in the place of a lead, as a cure.
[[nodiscard]] Cure areaCure(const Stage& lead, double areaMm2);

/// The stage's set-point moved to `volts`, as a cure.
[[nodiscard]] Cure setPointCure(const Stage& stage, double volts);

} // namespace sipper
