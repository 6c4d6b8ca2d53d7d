// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/json.hpp"
#include "project/schema.hpp"
#include "project/writer.hpp"
#include "support.hpp"

#include <sys/stat.h>

using namespace sipper;

namespace {

std::vector<std::filesystem::path> projectsIn(const std::filesystem::path& folder) {
    std::vector<std::filesystem::path> paths;
    for (const auto& entry : std::filesystem::directory_iterator(folder))
        if (entry.path().extension() == ".sipper")
            paths.push_back(entry.path());
    return paths;
}

struct TemporaryFolder {
    std::filesystem::path path;
    TemporaryFolder() {
        std::string name = (std::filesystem::temp_directory_path() / "sipper-test-XXXXXX").string();
        path = ::mkdtemp(name.data());
    }
    ~TemporaryFolder() { std::filesystem::remove_all(path); }
};

} // namespace

TEST_CASE("every bad file is refused with its place, in one line", "[file]") {
    const Json rows = test::json(test::file("bad/expected.json"));
    REQUIRE(rows.size() >= 40);
    for (const Json& row : rows) {
        const std::string name = row[0];
        INFO(name);
        const auto read = loadProject(test::file("bad/" + name + ".sipper"));
        REQUIRE_FALSE(read);
        const Error& error = read.error();
        CHECK(error.code == row[1].get<std::string>());
        CHECK_THAT(error.where, Catch::StartsWith(row[2].get<std::string>()));
        CHECK_THAT(error.found, Catch::Contains(row[3].get<std::string>()));
        CHECK_FALSE(error.expected.empty());
        CHECK_THAT(error.message(), Catch::Contains(name));
        CHECK(error.message().find('\n') == std::string::npos);
        CHECK(error.message().size() < 400);
    }
}

TEST_CASE("what is saved loads again and saves byte for byte the same", "[file]") {
    for (const char* folder : {"reference", "good", "../../data/examples", "../../data/recipes"})
        for (const auto& path : projectsIn(test::file(folder))) {
            INFO(path.string());
            const Project first = test::load(path);
            const std::string text = projectText(first);
            const auto again = loadProjectText(text);
            REQUIRE(again);
            CHECK(again.value().project == first);
            CHECK(projectText(again.value().project) == text);
        }
}

TEST_CASE("the shipped examples stand as Sipper saves them", "[file]") {
    auto shipped = projectsIn(std::filesystem::path(SIPPER_SOURCE) / "data/examples");
    for (const auto& path : projectsIn(std::filesystem::path(SIPPER_SOURCE) / "data/recipes"))
        shipped.push_back(path);
    for (const auto& path : shipped) {
        INFO(path.string());
        CHECK(readFile(path).value() == projectText(test::load(path)));
    }
}

TEST_CASE("changing one value changes one line", "[file]") {
    Project p = test::example("nest-box-listener");
    const std::string before = projectText(p);
    std::get<Guard>(p.stage("guard")->part).cutoff = Volts{3.11};
    const std::string after = projectText(p);
    const auto lines = [](const std::string& s) {
        std::vector<std::string> list(1);
        for (const char c : s) {
            if (c == '\n')
                list.emplace_back();
            else
                list.back() += c;
        }
        return list;
    };
    const auto a = lines(before);
    const auto b = lines(after);
    REQUIRE(a.size() == b.size());
    int changed = 0;
    for (std::size_t i = 0; i < a.size(); ++i)
        changed += a[i] != b[i];
    CHECK(changed == 1);
}

TEST_CASE("keys of others survive, and only those without x- are reported", "[file]") {
    Json document = writeProject(test::reference("stall-lantern"));
    document["x-top"] = {{"deep", {1, 2, {{"a", nullptr}}}}};
    document["brief"]["x-brief"] = "kept";
    document["stages"][0]["cell"]["x-cell"] = 1.5;
    document["stages"][1]["colour"] = "grey";
    document["loads"][0]["draws"][0]["x-draw"] = true;
    document["loads"][0]["window"]["x-window"] = Json::array();
    document["modes"][0]["x-mode"] = 7;
    document["variants"] = {{{"name", "B"}, {"x-anything", {1, 2}}}};
    const auto read = loadProjectText(document.dump());
    REQUIRE(read);
    REQUIRE(read.value().warnings.size() == 1);
    CHECK_THAT(read.value().warnings[0], Catch::Contains("/stages/1/colour"));
    const Json saved = parseJson(projectText(read.value().project)).value();
    CHECK(nlohmann::json(saved) == nlohmann::json(document));
}

TEST_CASE("the shipped schema is the one the field tables give, and it judges by itself",
          "[schema]") {
    const auto path = std::filesystem::path(SIPPER_SOURCE) / "data/schema/project.schema.json";
    CHECK(parseJson(readFile(path).value()).value() == projectSchema());
    for (const auto& good : projectsIn(test::file("reference")))
        CHECK_FALSE(validateProject(test::json(good)));
    struct Case {
        const char* pointer;
        Json value;
    };
    const auto c = GENERATE(Case{"/stages/1/cutoff_v", "3 V"}, Case{"/stages/0/series", 1.5},
                            Case{"/stages/0/cell/capacity_ah", 0}, Case{"/brief/setting", "moon"},
                            Case{"/loads/0/window/min_v", nullptr}, Case{"/stages/2/kind", "valve"},
                            Case{"/modes/0/base", 1}, Case{"/version", 2});
    Json bad = test::json(test::file("reference/stall-lantern.sipper"));
    bad[Json::json_pointer(c.pointer)] = c.value;
    const auto trouble = validateProject(bad);
    INFO(c.pointer);
    REQUIRE(trouble);
    CHECK(trouble->code == "schema");
    CHECK_THAT(trouble->where, Catch::StartsWith(c.pointer));
}

TEST_CASE("saving is whole or not at all", "[file]") {
    const TemporaryFolder folder;
    const auto path = folder.path / "a.sipper";
    const Project p = test::reference("kiln-probe");
    REQUIRE_FALSE(saveProject(path, p));
    CHECK(test::load(path) == p);
    CHECK(std::distance(std::filesystem::directory_iterator(folder.path), {}) == 1);

    SECTION("rights and links stay") {
        ::chmod(path.c_str(), 0640);
        const auto link = folder.path / "link.sipper";
        std::filesystem::create_symlink(path, link);
        REQUIRE_FALSE(saveProject(link, p));
        CHECK(std::filesystem::is_symlink(link));
        struct stat status {};
        ::stat(path.c_str(), &status);
        CHECK((status.st_mode & 0777U) == 0640);
    }
    SECTION("a folder that is not there") {
        const auto trouble = saveProject(folder.path / "no" / "b.sipper", p);
        REQUIRE(trouble);
        CHECK(trouble->code == "unwritable");
        CHECK_THAT(trouble->message(), Catch::Contains("b.sipper"));
    }
    SECTION("a name that is a folder keeps what is there") {
        std::filesystem::create_directory(folder.path / "c.sipper");
        REQUIRE(saveProject(folder.path / "c.sipper", p));
        CHECK(std::filesystem::is_directory(folder.path / "c.sipper"));
        CHECK(std::distance(std::filesystem::directory_iterator(folder.path), {}) == 2);
    }
}

TEST_CASE("unreadable places say so", "[file]") {
    CHECK(loadProject("/no/such/file.sipper").error().code == "unreadable");
    CHECK(loadProject("/").error().found == "a folder");
}
