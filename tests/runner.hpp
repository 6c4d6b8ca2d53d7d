#pragma once

/// Runs the tests of this program that the command line names; 0 where all pass.
int runTests(int argc, char** argv);
