// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

/// Runs the tests of this program that the command line names; 0 where all pass.
int runTests(int argc, char** argv);
