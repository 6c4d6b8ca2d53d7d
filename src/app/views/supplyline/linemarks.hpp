// SPDX-License-Identifier: GPL-3.0-or-later
// What is written on the laid-out supply line where it covers nothing.
#pragma once

#include "views/supplyline/linelayout.hpp"

namespace sipper::app {

/// Never-above marks beside the loads' brackets; one that would cover something is dropped.
void placeNeverMarks(LineLayout& out, double width, double scale);

/// The gravest finding of the line, beside what it is about; no box where there is no room.
void placeCallout(LineLayout& out, const Project& project, const std::vector<Finding>& findings,
                  double scale);

} // namespace sipper::app
