// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.hpp"

#include "project/schema.hpp"
#include "project/writer.hpp"

namespace sipper::cli {
namespace {

Outcome<Answer> tidy(const Asked& asked) {
    Asked raw = asked;
    raw.json = true; // as it stands in the file, labels and all
    const auto document = askedDocument(raw);
    if (!document)
        return document.error();
    return Answer{{}, projectText(document.value())};
}

void tidyOptions(CLI::App& app, Asked& asked) {
    app.add_option("FILE", asked.file, "a project, *.sipper")->required();
}

Outcome<Answer> schema(const Asked&) {
    return Answer{{}, projectSchema().dump(2, ' ', false, Json::error_handler_t::replace) + "\n"};
}

void schemaOptions(CLI::App&, Asked&) {}

} // namespace

const Command kTidy{"tidy", "print the project as Sipper saves it", tidyOptions, tidy, false};
const Command kSchema{"schema", "print the JSON Schema of a project file", schemaOptions, schema,
                      false};

} // namespace sipper::cli
