// sipper-cli: the core for scripts. Exit 0 done; 1 done, and `check` found something to stop for; 2
// could not, with one line on standard error.
#include "answers.hpp"
#include "line/sources.hpp"
#include "project/file.hpp"
#include "project/schema.hpp"
#include "project/variants.hpp"
#include "project/writer.hpp"
#include "quantity/read.hpp"

#include <CLI/CLI.hpp>
#include <cstdio>

namespace {

using namespace sipper;

constexpr int kDone = 0;
constexpr int kStop = 1;
constexpr int kCould = 2;

int refuse(const std::string& line) {
    std::string text = "sipper-cli: " + line;
    for (char& c : text)
        if (c == '\n' || c == '\r')
            c = ' ';
    fmt::print(stderr, "{}\n", text);
    return kCould;
}

void print(bool json, const Json& document, const std::string& text) {
    const std::string out =
        json ? document.dump(2, ' ', false, Json::error_handler_t::replace) + "\n" : text;
    std::fwrite(out.data(), 1, out.size(), stdout);
}

struct Options {
    std::string file;
    bool json = false;
    bool noRange = false;
    std::string charge = "1";
    std::string mode;
    std::string variant;
    std::vector<std::string> with;
};

int runtime(const Project& p, const Options& o) {
    const Runtime r = predictRuntime(p);
    const auto range = o.noRange ? std::nullopt : predictRange(p, r);
    print(o.json, cli::runtimeJson(p, r, range), o.json ? "" : cli::runtimeText(p, r, range));
    return kDone;
}

int operatingPoint(const Project& p, const Options& o) {
    const auto charge = readQuantity(o.charge, Unit::fraction);
    if (!charge)
        return refuse("--charge: " + charge.error().message());
    if (charge.value() < 0 || charge.value() > 1)
        return refuse("--charge: found \"" + o.charge + "\", expected a share from 0 to 1");
    std::size_t mode = p.baseMode();
    if (!o.mode.empty()) {
        const Mode* found = p.mode(o.mode);
        if (!found) {
            std::string ids;
            for (const Mode& m : p.modes)
                ids += (ids.empty() ? "" : ", ") + m.id;
            return refuse("--mode: found \"" + o.mode + "\", expected one of " + ids);
        }
        mode = static_cast<std::size_t>(found - p.modes.data());
    }
    Conditions conditions = typicalConditions(p);
    conditions.present = o.with;
    for (const std::string& id : o.with) {
        const Stage* stage = p.stage(id);
        if (!stage || !isSource(stage->part) || std::holds_alternative<Pack>(stage->part))
            return refuse("--with: found \"" + id +
                          "\", expected the id of an adapter, a socket or "
                          "another source besides the pack");
    }
    // Without a pack the other sources are all there is.
    if (!p.pack() && o.with.empty())
        for (const std::size_t i : mainsSources(p))
            conditions.present.push_back(p.stages[i].id);
    if (!p.pack() && conditions.present.empty())
        return refuse(o.file + ": /stages: found no source, expected one to operate from");
    const OperatingPoint point = operate(p, conditions, charge.value(), mode);
    print(o.json, cli::operateJson(p, point), cli::operateText(p, point));
    return kDone;
}

struct TraceOptions {
    std::string timeUnit;
    std::string currentUnit;
    std::size_t timeColumn = 0; ///< from 1; 0: to be found
    std::size_t currentColumn = 0;
};

int trace(const Options& o, const TraceOptions& t) {
    TraceFormat format;
    if (!t.timeUnit.empty() && !(format.timeScale = timeUnit(t.timeUnit)))
        return refuse("--time-unit: found \"" + t.timeUnit + "\", expected s, ms, us, min or h");
    if (!t.currentUnit.empty() && !(format.currentScale = currentUnit(t.currentUnit)))
        return refuse("--current-unit: found \"" + t.currentUnit + "\", expected A, mA, uA or nA");
    if (t.timeColumn > 0)
        format.time = t.timeColumn - 1;
    if (t.currentColumn > 0)
        format.current = t.currentColumn - 1;
    const auto text = readFile(o.file);
    if (!text)
        return refuse(text.error().message());
    const auto read = readTrace(text.value(), format);
    if (!read) {
        Error error = read.error();
        error.file = o.file;
        return refuse(error.message());
    }
    const TraceCut cut = cutTrace(read.value());
    print(o.json, cli::traceJson(read.value(), cut), cli::traceText(read.value(), cut));
    return kDone;
}

int sum(const std::string& name, const std::vector<std::string>& pairs, bool json) {
    std::map<std::string, std::string> arguments;
    for (const std::string& pair : pairs) {
        const auto at = pair.find('=');
        if (at == std::string::npos || at == 0)
            return refuse("sum " + name + ": found \"" + pair + "\", expected key=value");
        if (!arguments.emplace(pair.substr(0, at), pair.substr(at + 1)).second)
            return refuse("sum " + name + ": found " + pair.substr(0, at) +
                          " twice, expected it once");
    }
    const auto answer = runSum(name, arguments);
    if (!answer)
        return refuse("sum " + name + ": " + answer.error().message());
    print(json, cli::sumJson(answer.value()), cli::sumText(answer.value()));
    return kDone;
}

int levers(const Project& p, const Options& o) {
    const auto list = leversOf(p, loadLibrary());
    const auto pairs = leverPairs(p, list);
    print(o.json, cli::leversJson(list, pairs), cli::leversText(list, pairs));
    return kDone;
}

/// The number of the variant of this name; nothing, with `names` filled in, where there is none.
std::optional<std::size_t> variantNamed(const Project& document, const std::string& name,
                                        std::string& names) {
    for (std::size_t number = 0; number < variantCount(document); ++number) {
        if (variantName(document, number) == name)
            return number;
        names += (names.empty() ? "" : ", ") + variantName(document, number);
    }
    return std::nullopt;
}

int compare(const Project& document, const std::vector<std::string>& names, bool json) {
    std::vector<std::size_t> numbers;
    for (const std::string& name : names) {
        std::string all;
        const auto number = variantNamed(document, name, all);
        if (!number)
            return refuse("--only: found \"" + name + "\", expected one of " + all);
        numbers.push_back(*number);
    }
    const auto comparison = compareVariants(document, numbers);
    print(json, cli::compareJson(*comparison), json ? "" : cli::compareText(*comparison));
    return kDone;
}

int check(const Project& p, const Options& o) {
    const Runtime r = predictRuntime(p);
    const auto range = predictRange(p, r);
    const Looked looked = lookAt(p);
    auto findings = advise(solved(p, r, range, looked));
    weighCures(p, r, findings);
    print(o.json, cli::findingsJson(findings), cli::findingsText(findings));
    for (const Finding& f : findings)
        if (f.severity == Severity::stop)
            return kStop;
    return kDone;
}

} // namespace

int main(int argc, char** argv) {
    CLI::App app{"Predicts what a small supply does: from cells through regulators to loads.",
                 "sipper-cli"};
    app.require_subcommand(1);
    app.set_version_flag("--version", "sipper-cli 0.1.0");
    Options o;
    const auto withFile = [&](const char* name, const char* help) {
        CLI::App* sub = app.add_subcommand(name, help);
        sub->add_option("FILE", o.file, "a project, *.sipper")->required();
        sub->add_flag("--json", o.json, "print one JSON object");
        return sub;
    };
    CLI::App* runtimeCommand =
        withFile("runtime", "how long it runs, what ends it, where the energy goes");
    runtimeCommand->add_flag("--no-range", o.noRange, "leave out the range");
    CLI::App* operateCommand = withFile("operate", "every voltage and current at one moment");
    operateCommand->add_option("--charge", o.charge, "charge left, 0 to 1 or per cent (default 1)");
    operateCommand->add_option("--mode", o.mode, "id of the mode (default: the base mode)");
    operateCommand->add_option("--with", o.with, "ids of the sources plugged in besides the pack");
    CLI::App* checkCommand =
        withFile("check", "what is wrong or worth weighing; exit 1 when something must be mended");
    CLI::App* leversCommand =
        withFile("levers", "what would change the runtime most, each step really solved");
    for (CLI::App* sub : {runtimeCommand, operateCommand, checkCommand, leversCommand})
        sub->add_option("--variant", o.variant,
                        "name of the variant (default: the one at the top)");
    CLI::App* compareCommand = withFile("compare", "the document's variants side by side");
    std::vector<std::string> only;
    compareCommand->add_option("--only", only, "names of the variants, such as A C (default: all)");
    TraceOptions t;
    CLI::App* traceCommand = app.add_subcommand("trace", "cut a measured current (CSV) into modes");
    traceCommand->add_option("CSV", o.file, "time and current, any separator")->required();
    traceCommand->add_flag("--json", o.json, "print one JSON object");
    traceCommand->add_option("--time-unit", t.timeUnit,
                             "where the header does not say: s, ms, us, min, h");
    traceCommand->add_option("--current-unit", t.currentUnit,
                             "where the header does not say: A, mA, uA, nA");
    traceCommand->add_option("--time-column", t.timeColumn, "from 1");
    traceCommand->add_option("--current-column", t.currentColumn, "from 1");
    CLI::App* sumCommand =
        app.add_subcommand("sum", "a quick sum, such as: sum life capacity=2.2Ah current=18mA");
    std::string sumName;
    std::vector<std::string> sumArguments;
    sumCommand
        ->add_option("NAME", sumName,
                     "bank, pack, charger, wire, divider, linear, panel, sky, life or led")
        ->required();
    sumCommand->add_option("KEY=VALUE", sumArguments, "its fields");
    sumCommand->add_flag("--json", o.json, "print one JSON object with exact figures");
    CLI::App* tidyCommand = app.add_subcommand("tidy", "print the project as Sipper saves it");
    tidyCommand->add_option("FILE", o.file, "a project, *.sipper")->required();
    CLI::App* schemaCommand =
        app.add_subcommand("schema", "print the JSON Schema of a project file");
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& e) {
        if (e.get_exit_code() == 0)
            return app.exit(e);
        return refuse(e.what());
    }
    try {
        if (schemaCommand->parsed()) {
            print(true, projectSchema(), "");
            return kDone;
        }
        if (traceCommand->parsed())
            return trace(o, t);
        if (sumCommand->parsed())
            return sum(sumName, sumArguments, o.json);
        const auto read = loadProject(o.file);
        if (!read)
            return refuse(read.error().message());
        for (const std::string& warning : read.value().warnings)
            fmt::print(stderr, "sipper-cli: {}: {}\n", o.file, warning);
        const Project& document = read.value().project;
        if (tidyCommand->parsed()) {
            print(false, {}, projectText(document));
            return kDone;
        }
        if (compareCommand->parsed())
            return compare(document, only, o.json);
        std::string all;
        const auto number = o.variant.empty() ? std::optional<std::size_t>{0}
                                              : variantNamed(document, o.variant, all);
        if (!number)
            return refuse("--variant: found \"" + o.variant + "\", expected one of " + all);
        const Project p = variantProject(document, *number);
        if (runtimeCommand->parsed())
            return runtime(p, o);
        if (leversCommand->parsed())
            return levers(p, o);
        if (operateCommand->parsed())
            return operatingPoint(p, o);
        return check(p, o);
    } catch (const std::exception& e) {
        return refuse(std::string("could not go on: ") + e.what());
    }
}
