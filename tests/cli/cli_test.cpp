// SPDX-License-Identifier: GPL-3.0-or-later
// sipper-cli as a script sees it: exit codes, one line of error, JSON keys.
#include "analysis/analysis.hpp"
#include "project/variants.hpp"
#include "project/writer.hpp"
#include "randomprojects.hpp"
#include "support.hpp"

#include <array>
#include <cctype>
#include <cstdio>
#include <map>
#include <set>
#include <sys/wait.h>

using namespace sipper;

namespace {

struct Ran {
    int exit = -1;
    std::string out;
    std::string err;
};

Ran run(const std::string& arguments) {
    const std::string errors =
        std::filesystem::temp_directory_path() / ("sipper-cli-" + std::to_string(::getpid()));
    const std::string command =
        std::string("'") + SIPPER_CLI + "' " + arguments + " 2>'" + errors + "'";
    Ran r;
    FILE* pipe = ::popen(command.c_str(), "r");
    std::array<char, 4096> block{};
    while (const std::size_t n = std::fread(block.data(), 1, block.size(), pipe))
        r.out.append(block.data(), n);
    r.exit = WEXITSTATUS(::pclose(pipe));
    std::ifstream in(errors);
    r.err.assign(std::istreambuf_iterator<char>(in), {});
    std::filesystem::remove(errors);
    return r;
}

std::string quoted(const std::filesystem::path& path) {
    return "'" + path.string() + "'";
}

} // namespace

TEST_CASE("runtime prints the agreed keys, and the core's figures", "[cli]") {
    const auto path = test::file("reference/street-choir.sipper");
    const Ran r = run("runtime " + quoted(path) + " --json");
    REQUIRE(r.exit == 0);
    CHECK(r.err.empty());
    const Json j = Json::parse(r.out);
    const Runtime expected = predictRuntime(test::load(path));
    CHECK(j["runtime_h"] == expected.hours->value());
    CHECK(j["range_h"].size() == 3);
    CHECK(j["ended_by"]["reason"] == "cutoff");
    CHECK(j["worst"]["mode"] == "loud");
    for (const char* key :
         {"nameplate", "cold_and_age", "left_in_pack", "pack_loss", "self_discharge"})
        CHECK(j["ledger_wh"][key].is_number());
    CHECK(j["ledger_wh"]["stages"].contains("buck"));
    CHECK(j["ledger_wh"]["loads"].contains("amplifier"));
    double last = -1;
    for (const Json& point : j["curve"]) {
        CHECK(point[0].get<double>() >= last);
        last = point[0];
    }
    CHECK(last == j["runtime_h"]);
    CHECK_FALSE(
        Json::parse(run("runtime " + quoted(path) + " --no-range --json").out).contains("range_h"));
    CHECK_THAT(run("runtime " + quoted(path)).out, Catch::Contains("runs for   27 h"));
}

TEST_CASE("runtime of what does not run down is null with a reason", "[cli]") {
    Json document = test::json(test::file("reference/stall-lantern.sipper"));
    const test::Folder folder;
    const auto path = folder.file("sipper-cli-null.sipper");
    const auto answer = [&] {
        std::ofstream(path) << document.dump();
        const Ran r = run("runtime " + quoted(path) + " --json");
        REQUIRE(r.exit == 0);
        return Json::parse(r.out);
    };
    document["loads"][0]["draws"][0]["current_a"] = 0;
    document["stages"][1]["quiescent_a"] = 0;
    document["stages"][2]["quiescent_a"] = 0;
    CHECK(answer()["runtime_h"].is_null());
    CHECK(answer()["ended_by"]["reason"] == "never");
    document["stages"][0] = {{"id", "cells"}, {"kind", "adapter"}, {"set_v", 4}};
    CHECK(answer()["ended_by"]["reason"] == "mains");
}

TEST_CASE("charge answers with every key, from a share and a mode", "[cli]") {
    const std::string path = quoted(test::file("reference/sluice-lamp.sipper"));
    const Json j = Json::parse(run("charge " + path + " --from 3% --mode dark --json").out);
    for (const char* key : {"hours_to_80", "hours_to_full", "never", "phases", "input_wh",
                            "stored_wh", "peak_loss_w", "peak_part_c", "curve"})
        CHECK(j.contains(key));
    CHECK(j["never"].is_null());
    CHECK(j["phases"][0]["limit"] == "source");
    CHECK(j["curve"][0].size() == 5);
    CHECK(j["curve"][0][1] == Approx(0.03));
    const Json trap = Json::parse(run("charge " + path + " --from 0.5 --mode lit --json").out);
    CHECK(trap["never"] == "end_trap");
    CHECK(trap["hours_to_full"].is_null());
    CHECK(trap["phases"].back()["to_h"].is_null());
    const auto text = run("charge " + path);
    CHECK(text.exit == 0);
    CHECK_THAT(text.out, Catch::Contains("Held back by the socket"));
    // Bent, the whole answer is still one object.
    Json document = test::json(test::file("reference/sluice-lamp.sipper"));
    for (Json& stage : document["stages"])
        if (stage["kind"] == "pack")
            stage["cell"]["rechargeable"] = false;
    const test::Folder folder;
    std::ofstream(folder.file("once.sipper")) << document.dump();
    const Json once =
        Json::parse(run("charge " + quoted(folder.file("once.sipper")) + " --json").out);
    CHECK(once["never"] == "not_rechargeable");
    CHECK(once["phases"].empty());
}

TEST_CASE("sun answers with every key, by weather or by climate", "[cli]") {
    const std::string path = quoted(test::file("reference/tram-clock.sipper"));
    const std::string weather =
        " --weather " + quoted(test::file("reference/tram-line.weather.csv"));
    const Json j = Json::parse(run("sun " + path + weather + " --json").out);
    for (const char* key :
         {"years", "unmet_h", "longest_unmet_h", "longest_dark_h", "least_charge", "worst_day",
          "panel_wh", "available_wh", "lost_wh", "charged_wh", "load_wh", "forbidden_charge_h",
          "hours_full", "worst_month", "months", "days", "ledger_wh", "plan"}) {
        INFO(key);
        CHECK(j.contains(key));
    }
    CHECK(j["unmet_h"] == Approx(158.9).margin(2));
    CHECK(j["worst_month"] == 1);
    CHECK(j["months"].size() == 12);
    CHECK(j["days"].size() == 365);
    CHECK(j["days"][4].size() == 24);
    const Json& lost = j["lost_wh"];
    CHECK(j["panel_wh"].get<double>() + lost["full"].get<double>() + lost["knee"].get<double>() +
              lost["temperature"].get<double>() + lost["limit"].get<double>() ==
          Approx(j["available_wh"].get<double>()));
    CHECK(j["plan"]["program_ohm"].is_null());
    CHECK_FALSE(j.contains("map"));
    // The stand-in says that it is one; the same seed the same, another another.
    const auto standIn = [&](const std::string& options) {
        return Json::parse(run("sun " + path + options + " --json").out);
    };
    const Json seven = standIn(" --seed 7 --years 2");
    CHECK(seven["stand_in"] == true);
    CHECK(seven["weather"] == "stand-in, Maritime, seed 7");
    CHECK(seven["years"] == 2);
    CHECK(seven["panel_wh"] == standIn(" --seed 7 --years 2")["panel_wh"]);
    CHECK(seven["panel_wh"] != standIn(" --seed 8 --years 2")["panel_wh"]);
    const auto text = run("sun " + path + weather);
    CHECK(text.exit == 0);
    CHECK_THAT(text.out,
               Catch::Contains("6 d 15 h missed in the year") && Catch::Contains("Rule of thumb"));
}

TEST_CASE("protect answers with every key, for guards, fuses and faults", "[cli]") {
    const auto path = std::filesystem::path(SIPPER_SOURCE) / "data/examples/hedge-lantern.sipper";
    const Ran r = run("protect " + quoted(path) + " --json");
    REQUIRE(r.exit == 0);
    const Json j = Json::parse(r.out);
    REQUIRE(j["guards"].size() == 1);
    const Json& guard = j["guards"][0];
    CHECK(guard["id"] == "guard");
    CHECK(guard["chatters"] == false);
    CHECK(guard["period_s"].is_null());
    CHECK(guard["rebound_v"].get<double>() > guard["cutoff_v"].get<double>());
    CHECK(guard["least_difference_v"].get<double>() >=
          guard["rebound_v"].get<double>() - guard["cutoff_v"].get<double>());
    CHECK(guard["after"]["draws_a"].is_number());
    CHECK(guard["proof"]["hours"].get<double>() > 0);
    const Project p = test::load(path);
    for (const Json& fuse : j["fuses"])
        for (const char* key : {"id", "least_a", "most_a", "choose_a"})
            CHECK(fuse.contains(key));
    std::set<std::string> kinds;
    for (const Json& fault : j["faults"]) {
        kinds.insert(fault["fault"].get<std::string>());
        CHECK(p.stage(fault["stage"].get<std::string>()));
        CHECK(fault["loads"].size() == p.loads.size());
        for (const Json& id : fault["over"])
            CHECK((fault["loads"].contains(id.get<std::string>()) ||
                   id.get<std::string>() == p.packStage()->id)); // what is hurt, the pack among it
    }
    CHECK(kinds == std::set<std::string>{"short", "open", "mis_set", "reversed"});
    for (const Json& place : j["dividers"])
        CHECK(place["best"].size() <= 5);
    // As text: the verdict first, and every guard by its name.
    const Ran text = run("protect " + quoted(path));
    CHECK_THAT(text.out, Catch::StartsWith("holds: ") && Catch::Contains("Pack board") &&
                             Catch::Contains("One fault at a time"));
    CHECK(run("protect " + quoted(path) + " --series E97").exit == 2);
    // A guard that chatters says how often.
    Project bent = p;
    auto& part = std::get<Guard>(bent.stage("guard")->part);
    part.reconnect = part.cutoff + Volts{0.05};
    const test::Folder folder;
    REQUIRE_FALSE(saveProject(folder.file("bent.sipper").string(), bent));
    const Json again =
        Json::parse(run("protect " + quoted(folder.file("bent.sipper")) + " --json").out);
    CHECK(again["guards"][0]["chatters"] == true);
    CHECK(again["guards"][0]["period_s"].get<double>() ==
          Approx(again["guards"][0]["off_s"].get<double>() +
                 again["guards"][0]["on_s"].get<double>()));
}

TEST_CASE("bench answers with every key, and exits 2 on what it can't take", "[cli]") {
    const std::filesystem::path file = test::file("reference/orrery-drive.sipper");
    const Ran r = run("bench --json " + quoted(file));
    REQUIRE(r.exit == 0);
    const Json out = Json::parse(r.out);
    CHECK(out["charge"].get<double>() == Approx(0.9285).margin(0.005));
    CHECK(out["superseded"] == Json{"r4"});
    CHECK(out["unmatched"] == Json{"r14"});
    REQUIRE(out["checks"].size() == 16);
    for (const Json& check : out["checks"])
        for (const char* key : {"id", "check", "at", "quantity", "mode", "expect", "low", "high",
                                "verdict", "value", "reading"})
            CHECK(check.contains(key));
    CHECK(out["checks"][0]["id"] == "open_circuit/cells");
    CHECK(out["checks"][3]["value"].is_null());
    const Json warm = Json::parse(run("bench --json --ambient 35 " + quoted(file)).out);
    CHECK(warm["checks"][12]["expect"].get<double>() >
          out["checks"][12]["expect"].get<double>() + 14);
    CHECK(run("bench --charge 2 " + quoted(file)).exit == 2);
    CHECK(run("bench --ambient 500 " + quoted(file)).exit == 2);
}

TEST_CASE("report writes the sheet as page, list, drawing and data", "[cli]") {
    const std::filesystem::path file =
        std::filesystem::path(SIPPER_SOURCE) / "data/examples/moth-counter.sipper";
    const test::Folder folder;
    for (const char* ending : {"html", "csv", "svg", "json"}) {
        INFO(ending);
        const auto path = folder.file(std::string("sheet.") + ending);
        REQUIRE(run("report " + quoted(file) + " -o " + quoted(path)).exit == 0);
        CHECK(std::filesystem::file_size(path) > 300);
    }
    const Json data = test::json(folder.file("sheet.json"));
    const Project p = test::load(file);
    CHECK(data["mass_g"].get<double>() == p.massGrams());
    CHECK(data["price"].get<double>() == p.totalPrice());
    CHECK(data["parts"].size() >= p.stages.size());
    // The bands are those of the bench, to the last digit.
    const Json bench = Json::parse(run("bench --json " + quoted(file)).out);
    for (std::size_t i = 0; i < data["checks"].size(); ++i) {
        CHECK(data["checks"][i]["id"] == bench["checks"][i]["id"]);
        CHECK(data["checks"][i]["low"] == bench["checks"][i]["low"]);
        CHECK(data["checks"][i]["high"] == bench["checks"][i]["high"]);
    }
    const Json advice = Json::parse(run("check --json " + quoted(file)).out);
    std::size_t open = 0;
    for (const Json& f : advice["findings"])
        open += f["severity"] != "note" ? 1 : 0;
    CHECK(data["open"].size() == open);
    const Ran odd = run("report " + quoted(file) + " -o sheet.docx");
    CHECK(odd.exit == 2);
    CHECK_THAT(odd.err, Catch::Contains(".html, .csv, .svg or .json"));
    CHECK(run("report " + quoted(file) + " -o " + quoted("/nowhere/at/all.html")).exit == 2);
}

TEST_CASE("operate answers for a charge and a mode", "[cli]") {
    const std::string path = quoted(test::file("reference/street-choir.sipper"));
    const Json j = Json::parse(run("operate " + path + " --charge 30% --mode loud --json").out);
    CHECK(j["stages"]["buck"]["state"] == "stepping_down");
    CHECK(j["stages"]["cells"]["v_in"].get<double>() == Approx(18.0));
    CHECK(j["loads"]["amplifier"]["inside"] == true);
    CHECK(Json::parse(run("operate " + path + " --charge 0.3 --mode loud --json").out) == j);
}

TEST_CASE("a tethered project is answered for by its sources", "[cli]") {
    const auto recipe =
        std::filesystem::path(SIPPER_SOURCE) / "data/recipes/adapter-and-buck.sipper";
    const Json runtime = Json::parse(run("runtime " + quoted(recipe) + " --json").out);
    CHECK(runtime["runtime_h"].is_null());
    CHECK(runtime["ended_by"]["reason"] == "mains");
    const Json& brick = runtime["sources"]["brick"];
    CHECK(brick["limit_a"] == 2.0);
    CHECK(brick["trips"] == false);
    CHECK(brick["worst_w"].get<double>() == Approx(brick["worst_a"].get<double>() * 12));
    const Json point = Json::parse(run("operate " + quoted(recipe) + " --mode work --json").out);
    CHECK(point["stages"]["brick"]["state"] == "on");
    CHECK(point["stages"]["brick"]["v_out"].get<double>() == Approx(12));
    CHECK(point["loads"]["device"]["inside"] == true);
    // Beside the cells another source is there only when it is named.
    const auto both =
        std::filesystem::path(SIPPER_SOURCE) / "data/recipes/socket-cell-power-path.sipper";
    const Json alone = Json::parse(run("operate " + quoted(both) + " --json").out);
    const Json plugged = Json::parse(run("operate " + quoted(both) + " --with socket --json").out);
    CHECK(alone["stages"]["socket"]["state"] == "off");
    CHECK(plugged["stages"]["socket"]["state"] == "on");
    CHECK(plugged["stages"]["cells"]["i_out"].get<double>() <
          alone["stages"]["cells"]["i_out"].get<double>());
    const Ran wrong = run("operate " + quoted(both) + " --with cells");
    CHECK(wrong.exit == 2);
    CHECK_THAT(wrong.err, Catch::Contains("expected the id of an adapter, a socket"));
}

TEST_CASE("levers, envelope, causes of the range and sums are answered", "[cli]") {
    const auto box =
        std::filesystem::path(SIPPER_SOURCE) / "data/examples/nest-box-listener.sipper";
    const Json levers = Json::parse(run("levers " + quoted(box) + " --json").out);
    REQUIRE(levers["levers"].size() > 4);
    double before = 1e9;
    for (const Json& lever : levers["levers"]) {
        CHECK(lever["gain_h"].get<double>() <= before);
        before = lever["gain_h"].get<double>();
    }
    CHECK_FALSE(levers["pairs"].empty());
    CHECK_THAT(run("levers " + quoted(box)).out, Catch::Contains("one more in parallel"));
    const Json runtime = Json::parse(run("runtime " + quoted(box) + " --json").out);
    for (const Json& e : runtime["envelope"]) {
        double left = e["hours"].get<double>();
        for (const auto& [key, term] : e["terms_h"].items())
            left -= term.get<double>();
        CHECK(left == Approx(runtime["runtime_h"].get<double>()).epsilon(1e-3));
    }
    CHECK(runtime["range_causes"].size() > 3);
    const Json sum = Json::parse(run("sum life capacity=2200mAh current=18mA --json").out);
    CHECK(sum["h"].get<double>() == Approx(122.222222222));
    CHECK_THAT(run("sum life capacity=2200mAh current=18mA").out,
               Catch::Contains("2.20 Ah / 18.0 mA"));
    for (const char* bad :
         {"sum", "sum flux a=1", "sum life capacity=1", "sum life capacity",
          "sum life capacity=1 capacity=2 current=1", "sum life capacity=1,500 current=1"}) {
        INFO(bad);
        const Ran r = run(bad);
        CHECK(r.exit == 2);
        CHECK(r.out.empty());
        CHECK(std::count(r.err.begin(), r.err.end(), '\n') == 1);
    }
}

TEST_CASE("check exits 1 when something must be mended", "[cli]") {
    const auto example =
        std::filesystem::path(SIPPER_SOURCE) / "data/examples/nest-box-listener.sipper";
    const Ran r = run("check " + quoted(example) + " --json");
    CHECK(r.exit == 1);
    const Json j = Json::parse(r.out);
    CHECK(j["findings"][0]["rule"] == "drop_out");
    CHECK(j["findings"][0]["severity"] == "stop");
    CHECK(j["findings"][0]["subject"] == "logic33");
    CHECK(j["findings"][0]["numbers"].is_object());
    const Ran fine = run("check " + quoted(std::filesystem::path(SIPPER_SOURCE) /
                                           "data/recipes/adapter-and-buck.sipper"));
    CHECK(fine.exit == 0);
    CHECK(fine.out == "nothing to mend, nothing to weigh\n");
}

TEST_CASE("what can't be done exits 2 with one line that says where", "[cli]") {
    struct Case {
        std::string arguments;
        const char* says;
    };
    const std::string good = quoted(test::file("reference/stall-lantern.sipper"));
    const std::vector<Case> cases{
        {"", "subcommand"},
        {"fly " + good, "found the subcommand \"fly\", expected one of runtime"},
        {"runtime", "FILE"},
        {"runtime /no/such.sipper", "/no/such.sipper: found no such file"},
        {"runtime " + quoted(test::file("bad/loop.sipper")), "which is fed by it in turn"},
        {"runtime " + quoted(test::file("bad/brackets.sipper")), "nested over 64 deep"},
        {"check " + quoted(test::file("bad/newer-version.sipper")),
         "/version: found 2, expected 1"},
        {"operate " + good + " --mode dance", "expected one of lit"},
        {"operate " + good + " --charge 1.5", "a share from 0 to 1"},
        {"charge " + good, "a stage of kind charger"},
        {"charge " + quoted(test::file("reference/sluice-lamp.sipper")) + " --source wall",
         "one of socket"},
        {"charge " + quoted(test::file("reference/sluice-lamp.sipper")) + " --from 2",
         "a share from 0 to 1"},
        {"charge " + quoted(test::file("reference/sluice-lamp.sipper")) + " --mode gone",
         "one of dark, lit"},
        {"sun " + good, "a panel and a charger on it"},
        {"sun " + quoted(test::file("reference/tram-clock.sipper")) + " --years many",
         "a whole number from 1 to 100"},
        {"sun " + quoted(test::file("reference/tram-clock.sipper")) + " --seed -3",
         "a whole number from 0"},
        {"sun " + quoted(test::file("reference/tram-clock.sipper")) + " --weather /no/such.csv",
         "/no/such.csv: found nothing that can be read"},
        {"sun " + quoted(test::file("reference/tram-clock.sipper")) + " --charger fuse",
         "a charger that a panel feeds"},
        {"operate " + good + " --charge full", "--charge"},
        {"runtime " + good + " --quickly", "quickly"},
    };
    for (const Case& c : cases) {
        INFO(c.arguments);
        const Ran r = run(c.arguments);
        CHECK(r.exit == 2);
        CHECK(r.out.empty());
        CHECK_THAT(r.err, Catch::Contains(c.says));
        CHECK(std::count(r.err.begin(), r.err.end(), '\n') == 1);
    }
}

TEST_CASE("trace prints the agreed keys, and asks for what it can't tell", "[cli]") {
    const auto folder = std::filesystem::path(SIPPER_SOURCE) / "data/traces";
    const Ran r = run("trace " + quoted(folder / "vent-motor.csv") + " --json");
    REQUIRE(r.exit == 0);
    const Json j = Json::parse(r.out);
    CHECK(j["rows"] == 36000);
    CHECK(j["span_s"].get<double>() == Approx(1800).epsilon(0.001));
    CHECK(j["peak_a"].get<double>() > j["mean_a"].get<double>());
    REQUIRE(j["modes"].size() == 3);
    for (const char* key : {"current_a", "spread_a", "peak_a", "share", "typical_duration_s",
                            "every_s", "charge_share"})
        CHECK(j["modes"][1].contains(key));
    CHECK(j["modes"][2]["current_a"].get<double>() == Approx(1.35).epsilon(0.03));

    const auto bare = std::filesystem::temp_directory_path() / "sipper-cli-bare.csv";
    std::ofstream(bare) << "0,12\n1,15\n2,12\n3,14\n";
    const Ran asks = run("trace " + quoted(bare));
    CHECK(asks.exit == 2);
    CHECK_THAT(asks.err, Catch::Contains("the unit of the time"));
    CHECK(run("trace " + quoted(bare) + " --time-unit s --current-unit mA").exit == 0);
    CHECK_THAT(run("trace " + quoted(bare) + " --time-unit fortnights").err,
               Catch::Contains("expected s, ms"));
    std::filesystem::remove(bare);
    CHECK(run("trace /no/such.csv").exit == 2);
}

TEST_CASE("compare lays the variants side by side", "[cli]") {
    Project more = test::example("nest-box-listener");
    std::get<Pack>(more.stage("cells")->part).parallel = 5;
    const Project two = withVariantAdded(test::example("nest-box-listener"), more);
    const auto path = std::filesystem::temp_directory_path() /
                      ("sipper-compare-" + std::to_string(::getpid()) + ".sipper");
    REQUIRE_FALSE(saveProject(path, two));
    const Ran both = run("compare " + quoted(path) + " --json");
    REQUIRE(both.exit == 0);
    const Json out = Json::parse(both.out);
    REQUIRE(out["variants"].size() == 2);
    const Ran alone = run("runtime " + quoted(path) + " --json");
    const Json a = Json::parse(alone.out);
    CHECK(out["variants"][0]["runtime_h"] == a["runtime_h"]);
    CHECK(out["variants"][0]["range_h"] == a["range_h"]);
    CHECK(out["variants"][0]["ended_by"] == a["ended_by"]);
    CHECK(out["variants"][1]["runtime_h"].get<double>() > a["runtime_h"].get<double>());
    CHECK(out["variants"][1]["mass_g"].get<double>() ==
          Approx(out["variants"][0]["mass_g"].get<double>() + 94));
    REQUIRE(out["differences"].size() == 1);
    CHECK(out["differences"][0]["values"] == Json{{"A", "3"}, {"B", "5"}});
    CHECK(a["cycle_life"]["rule_of_thumb"] == true);
    CHECK(a["shelf"]["starts_for_months"].get<double>() > 0);
    CHECK(a["worth"]["rated_ah"] == 9.0);
    const Json b = Json::parse(run("runtime --variant B --json " + quoted(path)).out);
    CHECK(b["runtime_h"] == out["variants"][1]["runtime_h"]);
    CHECK(Json::parse(run("runtime --variant A --json " + quoted(path)).out) == a);
    const Ran none = run("check --variant C " + quoted(path));
    CHECK(none.exit == 2);
    CHECK_THAT(none.err, Catch::Contains("--variant: found \"C\", expected one of A, B"));
    const Ran text = run("compare " + quoted(path) + " --only B");
    CHECK(text.exit == 0);
    CHECK_THAT(text.out, Catch::Contains("no difference"));
    const Ran wrong = run("compare " + quoted(path) + " --only Z");
    CHECK(wrong.exit == 2);
    CHECK_THAT(wrong.err, Catch::Contains("expected one of A, B"));
    // A document without variants is one.
    const Ran one =
        run("compare " + quoted(test::file("reference/stall-lantern.sipper")) + " --json");
    CHECK(Json::parse(one.out)["variants"].size() == 1);
}

TEST_CASE("what can't be written is said, in every subcommand", "[cli]") {
    const std::string file = quoted(test::file("reference/stall-lantern.sipper"));
    const std::string trace =
        quoted(std::filesystem::path(SIPPER_SOURCE) / "data/traces/vent-motor.csv");
    for (const std::string& command :
         {"runtime --no-range " + file, "operate " + file, "check " + file, "levers " + file,
          "compare " + file, "tidy " + file, std::string("schema"), "trace " + trace,
          "sun " + quoted(test::file("reference/tram-clock.sipper")),
          std::string("sum life capacity=2.2Ah current=18mA"), std::string("--help"),
          std::string("--version")})
        for (const char* to : {">/dev/full", ">&-"}) {
            INFO(command << " " << to);
            const Ran r = run(command + " " + to);
            CHECK(r.exit == 2);
            CHECK_THAT(r.err, Catch::StartsWith("sipper-cli: standard output: "));
            CHECK(std::count(r.err.begin(), r.err.end(), '\n') == 1);
        }
    // Nobody reads: a full pipe that breaks.
    const Ran broken = run("schema >/dev/null; { (trap '' PIPE; sleep 0.2; '" +
                           std::string(SIPPER_CLI) + "' schema; echo $? >&2) | true; }");
    CHECK_THAT(broken.err, Catch::Contains("standard output: Broken pipe"));
    CHECK_THAT(broken.err, Catch::EndsWith("2\n"));
}

TEST_CASE("a label can't fake a line or clear the terminal", "[cli]") {
    const test::Folder folder;
    const auto path = folder.file("evil.sipper");
    const std::string evil = "Lamp\nstop  all is well \x1b[2J\u009b"
                             "31m\u202e";
    Json document = test::json(test::file("reference/street-choir.sipper"));
    document["name"] = evil;
    for (Json& load : document["loads"])
        load["label"] = evil;
    for (Json& stage : document["stages"])
        stage["label"] = evil;
    for (Json& mode : document["modes"])
        mode["label"] = evil;
    std::ofstream(path) << document.dump();
    for (const char* command :
         {"runtime --no-range ", "operate ", "check ", "levers ", "compare "}) {
        const Ran r = run(command + quoted(path));
        INFO(command << r.out);
        CHECK(r.out.find('\x1b') == std::string::npos);
        CHECK(r.out.find("\u009b") == std::string::npos);
        CHECK(r.out.find("\u202e") == std::string::npos);
        CHECK(r.out.find("\nstop  all is well") == std::string::npos);
        CHECK_THAT(r.out, Catch::Contains("Lamp\\nstop  all is well \\x1b[2J\\u009b31m\\u202e"));
    }
    // As data they stay what they are.
    CHECK(Json::parse(run("tidy " + quoted(path)).out)["name"] == evil);
}

TEST_CASE("a wish is written as a project with its variants", "[cli]") {
    const test::Folder folder;
    const std::string out = quoted(folder.path() / "wish.sipper");
    const Ran r = run("wish --need \"5 V at 200 mA\" --hours \"8 h\" -o " + out + " --json");
    REQUIRE(r.exit == 0);
    const Json j = Json::parse(r.out);
    CHECK(j["variants"].size() == 3);
    CHECK(j["kept"].get<int>() > 0);
    for (const auto& name : j["variants"]) {
        const Json hours = Json::parse(
            run("runtime " + out + " --no-range --json --variant " + name.get<std::string>()).out);
        CHECK(hours["runtime_h"].get<double>() >= 8);
    }
    for (const auto& [arguments, says] :
         {std::pair{"--need 5", "--need: found \"5\""}, std::pair{"--from moon", "tool_pack"},
          std::pair{"--setting under_water", "portable"}, std::pair{"--hours soon", "8 h or 2 d"},
          std::pair{"--need \"230 V at 1 A\"", "0.8 to 48 V"},
          std::pair{"--from hand", "cells to hand"}}) {
        const Ran bad = run(std::string("wish ") + arguments);
        INFO(arguments);
        CHECK(bad.exit == 2);
        CHECK(bad.out.empty());
        CHECK_THAT(bad.err, Catch::Contains(says));
    }
}

TEST_CASE("a missing data folder is blamed itself, not the project", "[cli]") {
    const test::Folder folder;
    const Ran r =
        run("runtime " + quoted(test::file("reference/stall-lantern.sipper")) + " --json");
    CHECK(r.exit == 0);
    ::setenv("SIPPER_DATA", folder.path().c_str(), 1);
    const Ran without =
        run("runtime " + quoted(test::file("reference/stall-lantern.sipper")) + " --json");
    ::unsetenv("SIPPER_DATA");
    CHECK(without.exit == 2);
    CHECK_THAT(without.err, Catch::Contains("project.schema.json: found no such file"));
    CHECK(without.err.find("stall-lantern") == std::string::npos);
}

TEST_CASE("kinds names every kind that a file may hold", "[cli]") {
    const Ran r = run("kinds --json");
    REQUIRE(r.exit == 0);
    const Json rows = Json::parse(r.out)["kinds"];
    REQUIRE(rows.size() == kinds().size());
    for (const Json& row : rows) {
        const auto kind = kindNamed(row["kind"].get<std::string>());
        REQUIRE(kind);
        CHECK(row["words"] == factsOf(*kind).words);
        CHECK(row["source"] == factsOf(*kind).source);
    }
    const Ran text = run("kinds");
    CHECK(static_cast<std::size_t>(std::count(text.out.begin(), text.out.end(), '\n')) ==
          kinds().size());
    CHECK_THAT(text.out, Catch::Contains("buck_boost"));
}

TEST_CASE("find takes a candidate that runs as was said", "[cli]") {
    const auto example =
        std::filesystem::path(SIPPER_SOURCE) / "data/examples/stage-theremin.sipper";
    const Ran r = run("find " + quoted(example) + " --cells nickel-cobalt-18650-2.6 --json");
    REQUIRE(r.exit == 0);
    const Json found = Json::parse(r.out);
    std::uint64_t sum = found["kept"];
    for (const auto& [reason, count] : found["fell_out"].items())
        sum += count.get<std::uint64_t>();
    CHECK(found["tried"] == sum);
    REQUIRE_FALSE(found["edge"].empty());
    const Json& first = found["edge"][0];
    for (const char* key : {"n", "says", "cell", "series", "parallel", "rails", "runtime_h",
                            "mass_g", "price", "worst_share", "advice"})
        CHECK(first.contains(key));
    const test::Folder folder;
    const auto out = folder.file("taken.sipper");
    const Ran taken = run("find " + quoted(example) + " --cells nickel-cobalt-18650-2.6 --take " +
                          std::to_string(first["n"].get<std::uint64_t>()) + " -o " + quoted(out));
    REQUIRE(taken.exit == 0);
    const Json runs = Json::parse(run("runtime " + quoted(out) + " --no-range --json").out);
    CHECK(runs["runtime_h"] == first["runtime_h"]);
    const Json advice = Json::parse(run("check " + quoted(out) + " --json").out);
    int stops = 0;
    for (const Json& f : advice["findings"])
        stops += f["severity"] == "stop" ? 1 : 0;
    CHECK(stops == first["advice"]["stop"]);
    CHECK(run("find " + quoted(example) + " --cells nothing").exit == 2);
    CHECK(run("find " + quoted(example) + " --take 5").exit == 2);
    CHECK(run("find " + quoted(example) + " --at-most-g many").exit == 2);
}

TEST_CASE("every option of every command is taken and answered", "[cli][options]") {
    const test::Folder folder;
    const std::string lantern = quoted(test::file("reference/stall-lantern.sipper"));
    const std::string sluice = quoted(test::file("reference/sluice-lamp.sipper"));
    const std::string clock = quoted(test::file("reference/tram-clock.sipper"));
    const std::string log = quoted(test::file("reference/paper-bellows-1.csv"));
    std::ofstream(folder.file("totals.csv")) << "power (W),duration (h)\n4,3\n8,1.3\n";
    const std::string totals = quoted(folder.file("totals.csv"));
    const std::string bellows = quoted(test::file("reference/paper-bellows.sipper"));
    const std::string orrery = quoted(test::file("reference/orrery-drive.sipper"));
    const std::string trace =
        quoted(std::filesystem::path(SIPPER_SOURCE) / "data/traces/listener-night.csv");
    const auto out = [&](const char* name) { return quoted(folder.file(name)); };
    // Two variants, to name one.
    Project two = test::example("nest-box-listener");
    two = withVariantAdded(two, two);
    two = withVariantNamed(two, 1, "Other");
    REQUIRE_FALSE(saveProject(folder.file("two.sipper"), two));
    const std::string other = out("two.sipper");
    const std::string lampSpan = " /loads/lamp/draws/lit/current_a --show runtime_h";
    struct Row {
        const char* command;
        const char* option;
        std::string arguments;
    };
    std::vector<Row> rows;
    for (const char* command : {"runtime", "operate", "check", "levers", "protect", "bench"})
        rows.push_back({command, "--variant", other + " --variant Other"});
    rows.insert(
        rows.end(),
        {{"runtime", "--no-range", lantern + " --no-range"},
         {"operate", "--charge", lantern + " --charge 0.4"},
         {"operate", "--mode", lantern + " --mode lit"},
         {"operate", "--light", clock + " --light 500"},
         {"operate", "--with", sluice + " --with socket"},
         {"charge", "--variant", sluice + " --variant A"},
         {"charge", "--from", sluice + " --from 0.3"},
         {"charge", "--source", sluice + " --source socket"},
         {"charge", "--charger", sluice + " --charger topper"},
         {"charge", "--mode", sluice + " --mode lit"},
         {"charge", "--light",
          quoted(std::filesystem::path(SIPPER_SOURCE) / "data/recipes/sun-and-phosphate.sipper") +
              " --light 400"},
         {"sun", "--variant", clock + " --variant A"},
         {"sun", "--weather",
          clock + " --weather " + quoted(test::file("reference/tram-line.weather.csv"))},
         {"sun", "--years", clock + " --years 1"},
         {"sun", "--seed", clock + " --seed 7"},
         {"sun", "--charger", clock + " --charger topper"},
         {"sun", "--map",
          quoted(std::filesystem::path(SIPPER_SOURCE) / "data/recipes/sun-and-phosphate.sipper") +
              " --map"},
         {"protect", "--series", lantern + " --series E12"},
         {"bench", "--charge", lantern + " --charge 0.5"},
         {"bench", "--ambient", lantern + " --ambient 15"},
         {"discharge", "--totals", totals + " --totals"},
         {"discharge", "--own-w", log + " --own-w 0.2"},
         {"discharge", "--label-wh", log + " --label-wh 10"},
         {"discharge", "--cut", log + " --cut 3"},
         {"calibrate", "--variant", orrery + " --readings --variant A"},
         {"calibrate", "--readings", orrery + " --readings"},
         {"calibrate", "--discharge", bellows + " --discharge " + log},
         {"calibrate", "--at", bellows + " --discharge " + log + " --at cells"},
         {"calibrate", "--charge", orrery + " --readings --charge 0.9"},
         {"calibrate", "--from", bellows + " --discharge " + log + " --from 1"},
         {"calibrate", "--own-w", bellows + " --discharge " + log + " --own-w 0.1"},
         {"calibrate", "--cut", bellows + " --discharge " + log + " --cut 3"},
         {"calibrate", "--ambient", bellows + " --discharge " + log + " --ambient 21"},
         {"report", "--variant", other + " --variant Other -o " + out("v.html")},
         {"report", "--output", lantern + " --output " + out("o.csv")},
         {"trace", "--time-unit", trace + " --time-unit s"},
         {"trace", "--current-unit", trace + " --current-unit A"},
         {"trace", "--time-column", trace + " --time-column 1"},
         {"trace", "--current-column", trace + " --current-column 2"},
         {"compare", "--only", other + " --only Other"},
         {"find", "--variant", other + " --variant Other --cells nickel-cobalt-18650-3.0"},
         {"find", "--at-most-g", lantern + " --cells nickel-cobalt-18650-3.0 --at-most-g 900"},
         {"find", "--at-most-price",
          lantern + " --cells nickel-cobalt-18650-3.0 --at-most-price 90"},
         {"find", "--at-least-h", lantern + " --cells nickel-cobalt-18650-3.0 --at-least-h 1"},
         {"find", "--cells", lantern + " --cells nickel-cobalt-18650-3.0"},
         {"charge", "--choices", lantern + " --choices"},
         {"find", "--all", lantern + " --cells nickel-cobalt-18650-3.0 --all"},
         {"find", "--advise-all", lantern + " --cells nickel-cobalt-18650-3.0 --advise-all"},
         {"sweep", "--variant",
          other + " /stages/boost5/set_v --from 5 --to 5.2 --points 2 --show price "
                  "--variant Other"},
         {"sweep", "--from", lantern + lampSpan + " --from '10 mA' --to 0.2"},
         {"sweep", "--to", lantern + lampSpan + " --from 0.01 --to '200 mA'"},
         {"sweep", "--points", lantern + lampSpan + " --from 0.01 --to 0.2 --points 3"},
         {"sweep", "--log", lantern + lampSpan + " --from 0.01 --to 0.2 --log"},
         {"sweep", "--show",
          lantern + lampSpan + " --from 0.01 --to 0.2 --points 3 --show worst_a price"},
         {"sweep", "--output",
          lantern + lampSpan + " --from 0.01 --to 0.2 --output " + out("s.svg")},
         {"wish", "--need", "--need '12 V at 20 W'"},
         {"wish", "--hours", "--need '5 V at 0.2 A' --hours '3 h'"},
         {"wish", "--from", "--need '5 V at 0.2 A' --from socket"},
         {"wish", "--setting", "--need '5 V at 0.2 A' --setting desk --from adapter"},
         {"wish", "--rechargeable", "--need '9–14 V at 0.3 A' --rechargeable"},
         {"wish", "--at-most-g", "--need '5 V at 0.2 A' --at-most-g 300"},
         {"wish", "--at-most-price", "--need '5 V at 0.2 A' --at-most-price 40"},
         {"wish", "--output", "--need '5 V at 0.2 A' --output " + out("w.sipper")}});
    // Written under test elsewhere: they need what another run has printed.
    const std::set<std::string> elsewhere{"find --take", "find --with-charger", "find --output",
                                          "wish --cells"};
    const std::map<std::string, std::string> plain{
        {"runtime", lantern},
        {"operate", lantern},
        {"check", lantern},
        {"levers", lantern},
        {"compare", other},
        {"charge", sluice},
        {"sun", clock},
        {"protect", lantern},
        {"bench", lantern},
        {"discharge", log},
        {"calibrate", orrery + " --readings"},
        {"report", lantern + " -o " + out("j.json")},
        {"trace", trace},
        {"sum", "led supply=5 forward=2 current=0.01"},
        {"kinds", ""},
        {"find", lantern + " --cells nickel-cobalt-18650-3.0"},
        {"wish", "--need '5 V at 0.2 A'"},
        {"sweep", lantern + lampSpan + " --from 0.01 --to 0.2"},
        {"tidy", lantern},
        {"schema", ""}};
    for (const auto& [command, arguments] : plain) {
        const std::string help = run(command + " --help").out;
        REQUIRE_FALSE(help.empty());
        std::set<std::string> options;
        for (std::size_t at = help.find("--"); at != std::string::npos;
             at = help.find("--", at + 2)) {
            std::size_t end = at + 2;
            while (end < help.size() && (std::isalpha(help[end]) || help[end] == '-'))
                ++end;
            const bool begins = at >= 2 && (help.substr(at - 2, 2) == "  " || help[at - 1] == ',');
            if (begins && end > at + 2)
                options.insert(help.substr(at, end - at));
        }
        for (const std::string& option : options) {
            INFO(command << " " << option);
            if (option == "--help" || elsewhere.contains(command + " " + option))
                continue;
            if (option == "--json") {
                const Ran r = run(command + " " + arguments + " --json");
                CHECK(r.exit < 2);
                CHECK_FALSE(Json::parse(r.out, nullptr, false).is_discarded());
                continue;
            }
            const auto row = std::find_if(rows.begin(), rows.end(), [&](const Row& one) {
                return command == one.command && option == one.option;
            });
            if (row == rows.end()) {
                FAIL_CHECK("an option without a test");
                continue;
            }
            const Ran r = run(command + " " + row->arguments);
            INFO(row->arguments << ": " << r.err);
            CHECK(r.exit < 2);
            CHECK_FALSE(r.out.empty());
        }
    }
}

TEST_CASE("an unknown climate is refused by whatever reads the project", "[cli]") {
    const test::Folder folder;
    Project p = test::reference("tram-clock");
    p.brief.climate = "lunar";
    std::ofstream(folder.file("moon.sipper")) << projectText(p);
    for (const char* command : {"runtime", "check", "sun", "protect"}) {
        const Ran r = run(std::string(command) + " " + quoted(folder.file("moon.sipper")));
        INFO(command);
        CHECK(r.exit == 2);
        CHECK_THAT(r.err, Catch::Contains("/brief/climate") && Catch::Contains("\"lunar\""));
    }
}

TEST_CASE("what the command line says of a random project is what the window shows",
          "[cli][properties]") {
    const test::Folder folder;
    test::RandomProjects random(61);
    for (int i = 0; i < 12; ++i) {
        const Project p = random.next();
        INFO(i << " from " << random.from());
        REQUIRE_FALSE(saveProject(folder.file("p.sipper"), p));
        const std::string file = quoted(folder.file("p.sipper"));
        const QuickAnalysis quick = analyseQuick(p);
        const auto answer = [&](const std::string& command) {
            return Json::parse(run(command + " " + file + " --json").out);
        };
        const Json runtime = answer("runtime --no-range");
        if (quick.runtime.hours)
            CHECK(runtime["runtime_h"].get<double>() == quick.runtime.hours->value());
        else
            CHECK(runtime["runtime_h"].is_null());
        CHECK(runtime["worst"]["pack_current_a"].get<double>() ==
              quick.runtime.worstCurrent.value());
        const Json bench = answer("bench");
        REQUIRE(bench["checks"].size() == quick.bench->checks.size());
        for (std::size_t c = 0; c < quick.bench->checks.size(); ++c) {
            CHECK(bench["checks"][c]["id"] == quick.bench->checks[c].id());
            if (quick.bench->checks[c].expect)
                CHECK(bench["checks"][c]["expect"].get<double>() == *quick.bench->checks[c].expect);
        }
        const Json protect = answer("protect");
        REQUIRE(protect["guards"].size() == quick.protect->guards.size());
        for (std::size_t g = 0; g < quick.protect->guards.size(); ++g) {
            const Json& said = protect["guards"][g];
            CHECK(said["acts"].get<bool>() == quick.protect->guards[g].usual.acts);
            if (said["least_difference_v"].is_number())
                CHECK(said["least_difference_v"].get<double>() ==
                      quick.protect->guards[g].minHysteresis);
        }
        // The range may add findings, and lets the target be judged; no other rule falls silent.
        const Json check = answer("check");
        for (const Finding& f : quick.findings) {
            if (f.rule == "short_of_target" || f.rule == "guessed")
                continue;
            INFO(f.rule << " of " << f.subject);
            CHECK(std::any_of(check["findings"].begin(), check["findings"].end(),
                              [&](const Json& said) {
                                  return said["rule"] == f.rule && said["subject"] == f.subject &&
                                         said["severity"] == severityName(f.severity);
                              }));
        }
    }
}

TEST_CASE("where a run was to end is not asked of totals", "[cli]") {
    const test::Folder folder;
    std::ofstream(folder.file("totals.csv")) << "power (W),duration (h)\n4,3\n8,1.3\n";
    const std::string totals = quoted(folder.file("totals.csv"));
    CHECK(run("discharge --totals " + totals).exit == 0);
    const Ran r = run("discharge --totals --cut 3 " + totals);
    CHECK(r.exit == 2);
    CHECK_THAT(r.err, Catch::Contains("--cut") && Catch::Contains("a log"));
}

TEST_CASE("a sweep by command line has the keys of the contract, and says what it can't read",
          "[cli][sweep]") {
    const test::Folder folder;
    const std::string file = quoted(test::file("reference/stall-lantern.sipper"));
    const std::string lamp = " /loads/lamp/draws/lit/current_a";
    const Json all = Json::parse(
        run("sweep " + file + lamp + " --from '400 mA' --to 2000 --points 3 --json").out);
    CHECK(all["field"] == "/loads/lamp/draws/lit/current_a");
    CHECK(all["unit"] == "A");
    CHECK(all["now"] == 0.42);
    REQUIRE(all["points"].size() == 3);
    for (const char* key : {"x", "runtime_h", "ended_by", "worst_a", "mean_pack_w", "mass_g",
                            "price", "refill_h", "stop", "care"})
        CHECK(all["points"][0].contains(key));
    CHECK(all["points"][2].contains("refused"));
    const Json one = Json::parse(run("runtime " + file + " --no-range --json").out);
    const Json now = Json::parse(
        run("sweep " + file + lamp + " --from 0.42 --to 0.5 --points 2 --show worst_a --json").out);
    CHECK(now["points"][0]["runtime_h"] == one["runtime_h"]);
    CHECK(now["points"][0]["ended_by"] == one["ended_by"]);
    CHECK(now["points"][0]["worst_a"] == one["worst"]["pack_current_a"]);
    CHECK_FALSE(now["points"][0].contains("price"));
    // As files.
    CHECK(run("sweep " + file + lamp + " --from 0.1 --to 0.5 --show price -o " +
              quoted(folder.file("s.csv")))
              .exit == 0);
    std::ifstream csv(folder.file("s.csv"));
    std::string head;
    std::getline(csv, head);
    CHECK_THAT(head, Catch::StartsWith("x,ended_at"));
    const struct {
        std::string arguments;
        const char* says;
    } bad[] = {{lamp + "x --from 0 --to 1", "current_a"},
               {lamp + " --from 1 --to 1", "--to"},
               {lamp + " --from here --to 1", "--from"},
               {lamp + " --from 0 --to 1 --log", "--from"},
               {lamp + " --from 0 --to 1 --points 1", "--points"},
               {lamp + " --from 0 --to 1 --show colour", "--show"},
               {lamp + " --from 0 --to 1 -o s.txt", "--output"}};
    for (const auto& b : bad) {
        const Ran r = run("sweep " + file + b.arguments);
        INFO(b.arguments << ": " << r.err);
        CHECK(r.exit == 2);
        CHECK_THAT(r.err, Catch::Contains(b.says));
    }
}
