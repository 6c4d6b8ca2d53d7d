// SPDX-License-Identifier: GPL-3.0-or-later
// The ways out of the build sheet: PDF, print, and the files that the core writes.
#pragma once

#include "sheet/report.hpp"
#include "views/sheet/sheetpaper.hpp"

class QPrinter;

namespace sipper::app {

/// A file of the kind that its ending names; nothing when it is written, else the reason.
[[nodiscard]] std::optional<Error> writeReport(const QString& path, const Project& project,
                                               const SheetPaper& paper, PaperSize size);
/// Every page on a printer, as it is set.
void printPaper(QPrinter& printer, const SheetPaper& paper);
/// The sheet of a project with what the workshop's settings say, today.
[[nodiscard]] SheetOptions sheetAsk();

} // namespace sipper::app
