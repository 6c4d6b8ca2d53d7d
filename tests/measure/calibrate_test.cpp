// SPDX-License-Identifier: GPL-3.0-or-later
// Calibration: the references, and a truth that is planted and found.
#include "measure/calibrate.hpp"
#include "measure/fit.hpp"
#include "support.hpp"

#include <nlohmann/json.hpp>

using namespace sipper;

namespace {

const Json* entryOf(const Json& list, const std::string& id) {
    for (const Json& e : list)
        if (e["id"] == id)
            return &e;
    return nullptr;
}

void compare(const std::vector<CalibratedParameter>& found, const Json& expected,
             const Json& tolerance) {
    REQUIRE(found.size() == expected.size());
    for (const CalibratedParameter& t : found) {
        INFO(t.id);
        const Json* e = entryOf(expected, t.id);
        REQUIRE(e);
        const double sigma = (*e)["sigma"];
        const double after = (*e)["after"];
        CHECK(
            t.before ==
            Approx((*e)["before"].get<double>()).epsilon(tolerance["before"]["rel"].get<double>()));
        // Far inside what the case allows.
        CHECK(std::abs(t.after - after) < tolerance["after_sigmas"].get<double>() * sigma +
                                              tolerance["after_rel"].get<double>() * after);
        CHECK(t.sigma == Approx(sigma).epsilon(tolerance["sigma"]["rel"].get<double>()));
        CHECK(nameOf(t.basis) == (*e)["basis"].get<std::string>());
    }
}

/// A discharge as the model gives it, sampled every 20 s.
DischargeLog planted(const Project& p, double amps, double cut) {
    const PackModel m(*p.pack(), Celsius{20});
    DischargeLog log;
    Wells wells = m.level(1);
    double v1 = 0;
    const auto row = [&](double t, double i) {
        log.seconds.push_back(t);
        log.amps.push_back(i);
        const double v = m.series * (m.openCircuitAt(m.height(wells)) - v1 -
                                     i / m.parallel * m.resistanceAt(m.height(wells))) -
                         i * m.connection;
        log.volts.push_back(v);
        return v;
    };
    row(0, 0);
    double t = 20;
    while (row(t, amps) > cut && t < 1e6) {
        const double cell = amps / m.parallel;
        wells = m.drained(wells, cell, 20 / 3600.0);
        v1 = cell * m.relaxation + (v1 - cell * m.relaxation) * std::exp(-20 / m.tau);
        t += 20;
    }
    row(t + 20, 0);
    log.file = "planted.csv";
    return log;
}

} // namespace

TEST_CASE("calibrations of the references", "[bench][reference]") {
    for (const char* name : {"orrery-drive", "paper-bellows"}) {
        const Project p = test::reference(name);
        const Json file =
            test::json(test::file(std::string("reference/") + name + ".calibrate.expected.json"));
        for (const Json& run : file["runs"]) {
            INFO(run["about"].get<std::string>());
            std::vector<DischargeLog> logs;
            CalibrateOptions ask;
            bool readings = false;
            const Json& args = run["args"];
            for (std::size_t i = 0; i < args.size(); ++i) {
                const std::string arg = args[i];
                if (arg == "--readings")
                    readings = true;
                else if (arg == "--own-w")
                    ask.tester.ownWatts = std::stod(args[++i].get<std::string>());
                else if (arg == "--cut")
                    ask.tester.cutVolts = std::stod(args[++i].get<std::string>());
                else if (arg == "--at")
                    ask.at = args[++i];
                else if (arg != "--discharge") {
                    const auto text = readFile(test::file("reference/" + arg));
                    REQUIRE(text);
                    logs.push_back(readDischarge(text.value(), arg).value());
                }
            }
            const auto fit = readings ? calibrateByReadings(p) : calibrateByDischarge(p, logs, ask);
            REQUIRE(fit);
            const Calibration& c = fit.value();
            const Json& e = run["expect"];
            const Json& tolerance = run["tolerance"];
            compare(c.parameters, e["parameters"], tolerance);
            compare(c.nuisance, e["nuisance"], tolerance);
            REQUIRE(c.notFitted.size() == e["left_alone"].size());
            for (const auto& [id, why] : c.notFitted) {
                INFO(id);
                const Json* left = entryOf(e["left_alone"], id);
                REQUIRE(left);
                CHECK(why == (*left)["why"].get<std::string>());
            }
            CHECK(c.observations == e["goodness"]["observations"].get<std::size_t>());
            CHECK(c.reduced ==
                  Approx(e["goodness"]["reduced"].get<double>()).epsilon(0.05).margin(0.005));
            CHECK(*c.predicted == Approx(e["predicted_h"].get<double>()).epsilon(0.005));
            CHECK(*c.calibrated == Approx(e["calibrated_h"].get<double>()).epsilon(0.005));
            CHECK(c.measured.has_value() == !e["measured_h"].is_null());
            REQUIRE(c.runs.size() == e["runs"].size());
            for (std::size_t i = 0; i < c.runs.size(); ++i) {
                CHECK(c.runs[i].predicted ==
                      Approx(e["runs"][i]["predicted_h"].get<double>()).epsilon(0.005));
                CHECK(c.runs[i].measured ==
                      Approx(e["runs"][i]["measured_h"].get<double>()).epsilon(1e-5));
                CHECK(c.runs[i].calibrated ==
                      Approx(e["runs"][i]["calibrated_h"].get<double>()).epsilon(0.005));
            }
        }
    }
}

TEST_CASE("health and resistance that are planted in a log are found", "[bench]") {
    const Project p = test::reference("paper-bellows");
    Project truth = p;
    auto& pack = std::get<Pack>(truth.stage("cells")->part);
    pack.health = 0.88;
    pack.resistanceFactor = 1.4;
    const std::vector<DischargeLog> logs{planted(truth, 1, 6), planted(truth, 3, 6)};
    const auto fit = calibrateByDischarge(p, logs);
    REQUIRE(fit);
    const Calibration& c = fit.value();
    REQUIRE(c.parameters.size() == 2);
    CHECK(c.parameters[0].id == "health");
    CHECK(c.parameters[0].after == Approx(0.88).epsilon(0.01));
    CHECK(c.parameters[1].after == Approx(1.4).epsilon(0.05));
    CHECK(c.parameters[0].sigma < 0.01);
    for (const CalibratedRun& run : c.runs)
        CHECK(run.calibrated == Approx(run.measured).epsilon(0.01));
    // Taken over, the project says so itself, and the model has learned.
    const auto& learned = *c.project.pack();
    CHECK(learned.health.value() == Approx(c.parameters[0].after));
    CHECK(learned.resistanceFactor.value() == Approx(c.parameters[1].after));
    CHECK_FALSE(checkProject(c.project));
    const auto again = calibrateByDischarge(c.project, logs);
    REQUIRE(again);
    CHECK(again.value().parameters[0].after ==
          Approx(again.value().parameters[0].before).epsilon(0.01));
}

TEST_CASE("no more is learned than the data tell", "[bench]") {
    // Two knobs that do the same: one of them goes, as tied.
    std::vector<FitParameter> knobs(3);
    knobs[0] = {"a", 0.4, Basis::guess, false, false, 1};
    knobs[1] = {"b", 0.5, Basis::guess, false, false, 1};
    knobs[2] = {"unseen", 0.4, Basis::guess, false, false, 1};
    const FitResult tied = fitParameters(knobs, [](const std::vector<double>& u) {
        return std::vector<double>{(u[0] + u[1] - 0.1) / 0.001};
    });
    REQUIRE(tied.out.size() == 2);
    CHECK(tied.out[0] == std::pair<std::size_t, std::string>{2, "not_seen"});
    CHECK(tied.out[1].second == "tied");
    CHECK(tied.u[0] + tied.u[1] == Approx(0.1).epsilon(1e-3));
    // One that the data hardly hold: weak.
    const FitResult weak = fitParameters({knobs[0]}, [](const std::vector<double>& u) {
        return std::vector<double>{(u[0] - 0.1) / 1.0};
    });
    REQUIRE(weak.out.size() == 1);
    CHECK(weak.out[0].second == "weak");
    // The closed form of one reading against one prior.
    const FitResult one = fitParameters({knobs[0]}, [](const std::vector<double>& u) {
        return std::vector<double>{(u[0] - 0.1) / 0.05};
    });
    const double s = 0.4 / std::sqrt(3.0);
    CHECK(one.u[0] == Approx(0.1 * s * s / (s * s + 0.05 * 0.05)).epsilon(1e-4));
    CHECK(one.sigma[0] == Approx(1 / std::sqrt(1 / (s * s) + 1 / (0.05 * 0.05))).epsilon(1e-4));
}

TEST_CASE("what can't be calibrated says why", "[bench]") {
    Project p = test::reference("paper-bellows");
    CHECK(calibrateByReadings(p).error().code == "no_readings");
    DischargeLog idle;
    idle.seconds = {0, 10, 20};
    idle.volts = {8, 8, 8};
    idle.amps = {0, 0, 0};
    CHECK(calibrateByDischarge(p, {idle}).error().code == "no_runs");
    // A clock of nonsense is no reason to run for ever.
    DischargeLog wild = planted(p, 1, 6);
    wild.seconds.back() = 1e30;
    wild.seconds[wild.seconds.size() - 2] = 1e20;
    CHECK(calibrateByDischarge(p, {wild}).ok());
    CalibrateOptions ask;
    ask.at = "nowhere";
    CHECK(calibrateByDischarge(p, {planted(p, 1, 6)}, ask).error().code == "dangling_id");
    p.stages.clear();
    p.loads.clear();
    CHECK(calibrateByReadings(p).error().code == "no_pack");
}
