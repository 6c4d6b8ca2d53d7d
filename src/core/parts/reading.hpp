// SPDX-License-Identifier: GPL-3.0-or-later
// Readings of the bench: what a meter said about one check (docs/model.md: Bench: readings and
// checks).
#pragma once

#include "parts/extras.hpp"
#include "parts/names.hpp"
#include "quantity/units.hpp"

#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace sipper {

/// One reading. It is never changed: a correction is a later entry whose `supersedes` names it.
/// Exactly one of the three values is there, of the unit that the check has.
struct Reading {
    std::string id;
    CheckKind checks = CheckKind::point;
    std::string at;   ///< id of a stage or load
    std::string mode; ///< id; empty where the check has none, or idle leaves it out
    std::optional<PointQuantity> quantity; ///< of a `point`
    std::optional<Volts> volts;
    std::optional<Amps> amps;
    std::optional<Celsius> celsius;
    std::optional<double> light;    ///< W/m2 on the panel meanwhile, of a charge by one
    std::optional<double> accuracy; ///< share of the value, in place of the meter's usual one
    std::string when;               ///< `2031-04-02T12:15`; empty is the earliest
    std::string meter;
    std::string note;
    std::string supersedes;
    Extras extras;
    bool operator==(const Reading&) const = default;

    /// The value, in the check's unit.
    [[nodiscard]] double value() const;
};

/// The unit that a reading of this check is in; of a point, that of its quantity.
[[nodiscard]] Unit unitRead(CheckKind check, std::optional<PointQuantity> quantity);

/// A list that many copies of a project share: a log of years costs an edit nothing. Equal when
/// the readings are.
class Readings {
  public:
    Readings() = default;
    explicit Readings(std::vector<Reading> list)
        : m_list(std::make_shared<const std::vector<Reading>>(std::move(list))) {}
    [[nodiscard]] const std::vector<Reading>& all() const;
    /// The list with one more at its end; nothing that is there changes.
    [[nodiscard]] Readings with(Reading reading) const;
    bool operator==(const Readings& other) const;

  private:
    std::shared_ptr<const std::vector<Reading>> m_list;
};

} // namespace sipper
