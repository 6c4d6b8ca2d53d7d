#include "runner.hpp"

int main(int argc, char** argv) {
    return runTests(argc, argv);
}
