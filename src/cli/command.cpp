// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.hpp"

#include "project/tree.hpp"
#include "quantity/read.hpp"

#include "project/file.hpp"
#include "project/variants.hpp"
#include "solar/weather.hpp"
#include "text/text.hpp"

#include <cstdio>
#include <fmt/format.h>

namespace sipper::cli {

Outcome<Project> askedDocument(const Asked& asked) {
    auto read = loadProject(asked.file);
    if (!read)
        return read.error();
    for (const std::string& warning : read.value().warnings)
        fmt::print(stderr, "sipper-cli: {}\n", escapeForTerminal(asked.file + ": " + warning));
    Project document = std::move(read).value().project;
    return asked.json ? document : withEscapedText(std::move(document));
}

Outcome<Project> askedProject(const Asked& asked) {
    auto document = askedDocument(asked);
    // A climate that is not there would let the sun's rules fall silent.
    if (document && document.value().brief.climate)
        if (const auto climate = climateOf(document.value().brief.climate, 0); !climate) {
            Error error = climate.error();
            error.file = asked.file;
            return error;
        }
    return document ? variantNamed(document.value(), asked.variant) : document;
}

void addFile(CLI::App& app, Asked& asked) {
    app.add_option("FILE", asked.file, "a project, *.sipper")->required();
}

void addVariant(CLI::App& app, Asked& asked) {
    app.add_option("--variant", asked.variant, "name of the variant (default: the one at the top)");
}

Error badOption(const std::string& name, const std::string& found, const std::string& expected) {
    return {"option", name, "\"" + found + "\"", expected, ""};
}

Outcome<std::size_t> askedMode(const Project& p, const Asked& asked) {
    const std::size_t mode = asked.mode.empty() ? p.baseMode() : modeIndex(p, asked.mode);
    if (mode != kNotFound)
        return mode;
    std::string ids;
    for (const Mode& m : p.modes)
        ids += (ids.empty() ? "" : ", ") + m.id;
    return badOption("--mode", asked.mode, "one of " + ids);
}

Outcome<Celsius> askedAmbient(const Asked& asked) {
    const auto c = readQuantity(asked.ambient, Unit::celsius);
    if (!c || c.value() < -60 || c.value() > 120)
        return badOption("--ambient", asked.ambient, "-60 to 120 degrees Celsius");
    return Celsius{c.value()};
}

Outcome<double> askedShare(const std::string& option, const std::string& text) {
    const auto share = readQuantity(text, Unit::fraction);
    if (!share)
        return Error{"option", option, share.error().found, share.error().expected, ""};
    if (share.value() < 0 || share.value() > 1)
        return badOption(option, text, "a share from 0 to 1");
    return share.value();
}

} // namespace sipper::cli
