// SPDX-License-Identifier: GPL-3.0-or-later
// sipper-cli: the core for scripts. Exit 0 done; 1 done, and `check` found something to stop for; 2
// could not, with one line on standard error.
#include "command.hpp"

#include "text/text.hpp"

#include <array>
#include <cerrno>
#include <csignal>
#include <cstdio>
#include <cstring>
#include <fmt/core.h>
#include <sstream>

namespace {

using namespace sipper;
using namespace sipper::cli;

int refuse(const std::string& line) {
    fmt::print(stderr, "sipper-cli: {}\n", escapeForTerminal(line));
    return kCould;
}

/// All of it on standard output, or a line that says why not: a full disk, a closed or a broken
/// pipe.
int deliver(const std::string& text, int exit) {
    errno = 0;
    const bool written = std::fwrite(text.data(), 1, text.size(), stdout) == text.size();
    if (written && std::fflush(stdout) == 0)
        return exit;
    return refuse(std::string("standard output: ") + std::strerror(errno != 0 ? errno : EIO));
}

/// Help and version through the same door.
int say(const CLI::App& app, const CLI::ParseError& e) {
    std::ostringstream out;
    std::ostringstream err;
    const int code = app.exit(e, out, err);
    return deliver(out.str(), code);
}

} // namespace

int main(int argc, char** argv) {
    std::signal(SIGPIPE, SIG_IGN);
    CLI::App app{"Predicts what a small supply does: from cells through regulators to loads.",
                 "sipper-cli"};
    app.set_version_flag("--version", "sipper-cli " SIPPER_VERSION);
    const std::array commands{kRuntime, kOperate, kCheck,     kLevers,    kCompare, kCharge, kSun,
                              kProtect, kBench,   kDischarge, kCalibrate, kReport,  kTrace,  kSum,
                              kTidy,    kSchema,  kKinds,     kFind,      kWish,    kSweep};
    Asked asked;
    std::string names;
    for (const Command& command : commands) {
        CLI::App* sub = app.add_subcommand(command.name, command.help);
        command.options(*sub, asked);
        if (command.json)
            sub->add_flag("--json", asked.json, "print one JSON object");
        names += (names.empty() ? "" : ", ") + std::string(command.name);
    }
    const bool unknown = argc > 1 && argv[1][0] != '-' &&
                         std::none_of(commands.begin(), commands.end(), [&](const Command& c) {
                             return std::strcmp(c.name, argv[1]) == 0;
                         });
    if (unknown)
        return refuse("found the subcommand \"" + std::string(argv[1]) + "\", expected one of " +
                      names);
    if (argc < 2)
        return refuse("found no subcommand, expected one of " + names);
    app.require_subcommand(1);
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& e) {
        return e.get_exit_code() == 0 ? say(app, e) : refuse(e.what());
    }
    try {
        for (const Command& command : commands) {
            if (!app.got_subcommand(command.name))
                continue;
            auto answer = command.answer(asked);
            if (!answer)
                return refuse(answer.error().message());
            const Answer& a = answer.value();
            return deliver(asked.json
                               ? a.json.dump(2, ' ', false, Json::error_handler_t::replace) + "\n"
                               : a.text,
                           a.exit);
        }
    } catch (const std::exception& e) {
        return refuse(std::string("could not go on: ") + e.what());
    }
    return kCould;
}
