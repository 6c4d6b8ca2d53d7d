// SPDX-License-Identifier: GPL-3.0-or-later
// sipper-instruments: meter, electronic load and bench supply that behave like the open project, on
// the loopback alone.
#include "server.hpp"

#include "measure/plantedfault.hpp"
#include "project/file.hpp"
#include "project/variants.hpp"
#include "text/text.hpp"

#include <CLI/CLI.hpp>
#include <cstdio>
#include <fmt/core.h>

namespace {

struct Options {
    std::string file;
    sipper::instruments::Ports ports;
    double speed = 1;
    std::uint64_t seed = 1;
    double noise = 0.0005;
    double charge = -1;
    double ambient = 20;
    std::string at;
    std::string variant;
    std::vector<std::string> faults;
};

int refuse(const std::string& line) {
    fmt::print(stderr, "sipper-instruments: {}\n", sipper::escapeForTerminal(line));
    return 2;
}

void addOptions(CLI::App& app, Options& o) {
    app.set_version_flag("--version", "sipper-instruments " SIPPER_VERSION);
    app.add_option("FILE", o.file, "a project, *.sipper")->required();
    app.add_option("--meter", o.ports.meter, "port of the meter (default: any free one)");
    app.add_option("--load", o.ports.load, "port of the electronic load");
    app.add_option("--supply", o.ports.supply, "port of the bench supply");
    app.add_option("--speed", o.speed, "seconds of the bench in one of ours; 0: by command alone")
        ->check(CLI::Range(0.0, 1e5));
    app.add_option("--seed", o.seed, "of the noise");
    app.add_option("--noise", o.noise, "standard deviation of what is measured, a share")
        ->check(CLI::Range(0.0, 0.5));
    app.add_option("--charge", o.charge, "charge of the pack, 0 to 1 (default: as it says)")
        ->check(CLI::Range(0.0, 1.0));
    app.add_option("--ambient", o.ambient, "degrees Celsius (default 20)")
        ->check(CLI::Range(-60.0, 120.0));
    app.add_option("--variant", o.variant, "another variant by its name (default: the one on top)");
    app.add_option(
        "--fault", o.faults,
        "plants a fault: STAGE=short, STAGE=open or STAGE=mis_set[:VOLTS]; several times");
    app.add_option("--at", o.at, "id of the stage that the load hangs on (default: the source)");
}

int serve(const Options& o) {
    const auto read = sipper::loadProject(o.file);
    if (!read)
        return refuse(read.error().message());
    const auto picked = sipper::variantNamed(read.value().project, o.variant);
    if (!picked) {
        sipper::Error trouble = picked.error();
        trouble.file = o.file;
        return refuse(trouble.message());
    }
    const sipper::Project& project = picked.value();
    sipper::SimulatedOptions ask;
    ask.at = o.at;
    ask.ambient = sipper::Celsius{o.ambient};
    for (const std::string& text : o.faults) {
        const auto fault = sipper::readFault(project, text);
        if (!fault)
            return refuse(fault.error().message());
        ask.faults.push_back(fault.value());
    }
    if (project.pack())
        ask.charge = o.charge >= 0 ? o.charge : project.pack()->charge.value_or(1);
    const auto bench = sipper::SimulatedBench::make(project, ask);
    if (!bench) {
        sipper::Error trouble = bench.error();
        trouble.file = o.file;
        return refuse(trouble.message());
    }
    sipper::InstrumentSet instruments(*bench.value(), o.noise, o.seed);
    try {
        sipper::instruments::Server server(*bench.value(), instruments, o.ports, o.speed);
        const sipper::instruments::Ports ports = server.ports();
        fmt::print("{{\"meter\": {}, \"load\": {}, \"supply\": {}, \"speed\": {}, \"seed\": {}}}\n",
                   ports.meter, ports.load, ports.supply, o.speed, o.seed);
        std::fflush(stdout);
        server.run();
    } catch (const boost::system::system_error& e) {
        return refuse(std::string("a port can't be opened: ") + e.what());
    }
    return 0;
}

} // namespace

int main(int argc, char** argv) {
    CLI::App app{"Plays meter, electronic load and bench supply for a project.",
                 "sipper-instruments"};
    Options o;
    addOptions(app, o);
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& e) {
        return e.get_exit_code() == 0 ? app.exit(e) : refuse(e.what());
    }
    return serve(o);
}
