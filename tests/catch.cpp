// SPDX-License-Identifier: GPL-3.0-or-later
// The body of the test framework, compiled once for all test programs.
#define CATCH_CONFIG_RUNNER
#include "runner.hpp"

#include <catch2/catch.hpp>

int runTests(int argc, char** argv) {
    return Catch::Session().run(argc, argv);
}
