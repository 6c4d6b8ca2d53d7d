// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.hpp"

#include "measure/calibrate.hpp"
#include "pieces.hpp"
#include "project/file.hpp"
#include "quantity/write.hpp"

#include <fmt/format.h>

namespace sipper::cli {
namespace {

Json tunedJson(const std::vector<CalibratedParameter>& list) {
    Json out = Json::array();
    for (const CalibratedParameter& t : list)
        out.push_back({{"id", t.id},
                       {"before", t.before},
                       {"after", t.after},
                       {"sigma", t.sigma},
                       {"basis", nameOf(t.basis)},
                       {"share", t.keeps}});
    return out;
}

Json knownHours(const std::optional<double>& h) {
    return h ? Json(*h) : Json();
}

Json calibrationJson(const Calibration& c) {
    Json out{
        {"parameters", tunedJson(c.parameters)},
        {"nuisance", tunedJson(c.nuisance)},
        {"left_alone", Json::array()},
        {"runs", Json::array()},
        {"predicted_h", knownHours(c.predicted)},
        {"measured_h", knownHours(c.measured)},
        {"calibrated_h", knownHours(c.calibrated)},
        {"goodness", {{"chi2", c.chi2}, {"observations", c.observations}, {"reduced", c.reduced}}}};
    for (const auto& [id, why] : c.notFitted)
        out["left_alone"].push_back({{"id", id}, {"why", why}});
    for (const CalibratedRun& run : c.runs)
        out["runs"].push_back({{"file", run.file},
                               {"predicted_h", run.predicted},
                               {"measured_h", run.measured},
                               {"calibrated_h", run.calibrated}});
    return out;
}

std::string calibrationText(const Calibration& c) {
    std::string out;
    for (const CalibratedParameter& t : c.parameters)
        out += fmt::format("{:<28} {:.3f} -> {:.3f} ± {:.3f}\n", t.id, t.before, t.after, t.sigma);
    for (const auto& [id, why] : c.notFitted)
        out += fmt::format("{:<28} left alone: {}\n", id, why);
    if (c.predicted && c.calibrated)
        out += fmt::format("runs {} as it stood, {} as calibrated{}\n", writeHours(*c.predicted),
                           writeHours(*c.calibrated),
                           c.measured ? ", " + writeHours(*c.measured) + " measured" : "");
    return out;
}

Outcome<Calibration> byLogs(const Project& p, const Asked& asked, Celsius ambient) {
    CalibrateOptions ask;
    ask.at = asked.at;
    ask.ambient = ambient;
    const auto from = askedShare("--from", asked.startCharge);
    if (!from)
        return from.error();
    ask.from = from.value();
    const auto tester = askedTester(asked);
    if (!tester)
        return tester.error();
    ask.tester = tester.value();
    const auto logs = askedLogs(asked);
    if (!logs)
        return logs.error();
    return calibrateByDischarge(p, logs.value(), ask);
}

Outcome<Answer> answerCalibrate(const Asked& asked) {
    const auto project = askedProject(asked);
    if (!project)
        return project.error();
    const auto ambient = askedAmbient(asked);
    if (!ambient)
        return ambient.error();
    if (asked.byReadings == !asked.logs.empty())
        return badOption("--readings", asked.byReadings ? "both" : "neither",
                         "either --readings or --discharge with logs");
    BenchOptions bench;
    bench.ambient = ambient.value();
    if (!asked.benchCharge.empty()) {
        const auto charge = askedShare("--charge", asked.benchCharge);
        if (!charge)
            return charge.error();
        bench.charge = charge.value();
    }
    const auto fit = asked.byReadings ? calibrateByReadings(project.value(), bench)
                                      : byLogs(project.value(), asked, ambient.value());
    if (!fit) {
        Error trouble = fit.error();
        if (trouble.file.empty())
            trouble.file = asked.file;
        return trouble;
    }
    return Answer{calibrationJson(fit.value()), calibrationText(fit.value())};
}

void optionsCalibrate(CLI::App& app, Asked& asked) {
    addFile(app, asked);
    addVariant(app, asked);
    app.add_flag("--readings", asked.byReadings, "learn from the readings of the project");
    app.add_option("--discharge", asked.logs, "learn from logs of discharges, CSV");
    app.add_option("--at", asked.at, "id of the stage that was drawn from (default: the pack)");
    app.add_option("--charge", asked.benchCharge, "with --readings: charge of the pack");
    app.add_option("--from", asked.startCharge, "charge at the start of the logs (default 1)");
    app.add_option("--own-w", asked.ownWatts, "what the tester takes itself, in W (default 0)");
    app.add_option("--cut", asked.cutVolts, "where the runs were to end, in V");
    app.add_option("--ambient", asked.ambient, "degrees Celsius of the bench (default 20)");
}

} // namespace

const Command kCalibrate{"calibrate", "What readings or discharges teach the model",
                         optionsCalibrate, answerCalibrate};

} // namespace sipper::cli
