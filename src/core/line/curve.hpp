// SPDX-License-Identifier: GPL-3.0-or-later
// Curves and straight-line tables in one variable.
#pragma once

#include "parts/cell.hpp"

namespace sipper {

/// A monotone cubic through points (PCHIP): slopes inside by the weighted harmonic mean (Fritsch
/// and Butland 1984), at the ends by the limited three-point formula; outside the points it runs on
/// in a straight line at the end slope. x must rise strictly; one point is a constant, none is 0.
class Curve {
  public:
    Curve() = default;
    explicit Curve(const Table& points);

    [[nodiscard]] double at(double x) const;
    [[nodiscard]] double slope(double x) const;
    /// The exact integral from a to b.
    [[nodiscard]] double integral(double a, double b) const;

  private:
    struct Piece {
        double x, y, slope, square, cube; ///< y + slope d + square d^2 + cube d^3, d = x - piece.x
    };
    [[nodiscard]] const Piece& piece(double x) const;
    [[nodiscard]] double primitive(double x) const;

    std::vector<Piece> m_pieces; ///< the last one is the straight line behind the table
    std::vector<double> m_sums;  ///< integral from the first point to each piece's start
};

/// Straight lines between points, clamped outside; 1 for an empty table.
[[nodiscard]] double factorAt(const Table& table, double x);

} // namespace sipper
