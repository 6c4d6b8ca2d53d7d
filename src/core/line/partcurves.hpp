// SPDX-License-Identifier: GPL-3.0-or-later
// One regulator looked at by itself: efficiency, heat and what it can give, over current and input.
#pragma once

#include "line/operating.hpp"

namespace sipper {

/// The stage alone between an ideal source of `volts` and a load of `amps`.
struct PartPoint {
    bool works = false; ///< it holds or nearly holds its set-point: no collapse, nothing off
    StageFlow flow;
    [[nodiscard]] double efficiency() const {
        const double in = flow.vIn * flow.iIn;
        return in > 0 ? flow.vOut * flow.iOut / in : 0;
    }
};
[[nodiscard]] PartPoint partAt(const Stage& stage, double volts, double amps);

/// Where a regulator's losses go at one moment, in watts (docs/model.md: Stages).
struct LossSplit {
    double quiescent = 0; ///< own use, or ground current
    double fixed = 0;
    double drop = 0;       ///< drop_v x inductor current; of a linear regulator the whole drop
    double resistance = 0; ///< resistance_ohm x inductor current squared
    [[nodiscard]] double total() const { return quiescent + fixed + drop + resistance; }
};
[[nodiscard]] LossSplit lossSplit(const Stage& stage, const StageFlow& flow);
/// The loss terms of a part of this kind at `out` amps from vIn to vOut, no pulse skipped: what it
/// would burn at another current than it has.
[[nodiscard]] LossSplit lossAt(const Part& part, double vIn, double vOut, double out,
                               double inductor);

/// Largest output current at this input: the least of its output, power and switch limits, and
/// where it loses its set-point or can't be carried. `searchUpTo` bounds the search; to a
/// thousandth.
[[nodiscard]] double mostOutput(const Stage& stage, double volts, double searchUpTo = 100);

/// Output current at which the part reaches its limit in this ambient, at this input; infinity
/// where nothing is said or it never does below `searchUpTo`.
[[nodiscard]] double coolUpTo(const Stage& stage, double volts, Celsius ambient,
                              double searchUpTo = 100);

/// What the figures on a module's label mean at an input: in sentences. `labelAmps`, `labelWatts`,
/// `labelEfficiency` (0-1) as printed; nothing for what is not printed.
struct Label {
    std::optional<double> amps;
    std::optional<double> watts;
    std::optional<double> efficiency;
};
/// Reads `5 A, 40 W, 95 %` in any order; code "label" where a word is none of the three.
[[nodiscard]] Outcome<Label> readLabel(std::string_view text);
[[nodiscard]] std::string labelMeans(const Stage& stage, const Label& label, double volts);

} // namespace sipper
