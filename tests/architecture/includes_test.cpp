// SPDX-License-Identifier: GPL-3.0-or-later
// Includes point one way, and the core knows no interface.
#include "support.hpp"

#include <regex>

namespace {

struct Arrow {
    std::filesystem::path file;
    std::string from; ///< folder, of those that are ranked
    std::string to;
    std::string line;
};

/// Every include line below `root` that names a folder, with the folder that it stands in.
std::vector<Arrow> includesOf(const std::filesystem::path& root) {
    const std::regex include("#include [\"<]([a-z]+)/([a-z]+/)?[a-z]+\\.hpp[\">]");
    std::vector<Arrow> all;
    for (const auto& entry : std::filesystem::recursive_directory_iterator(root)) {
        const auto kind = entry.path().extension();
        if (!entry.is_regular_file() || (kind != ".hpp" && kind != ".cpp"))
            continue;
        const auto inside = std::filesystem::relative(entry.path(), root);
        std::ifstream in(entry.path());
        for (std::string line; std::getline(in, line);)
            if (std::smatch found; std::regex_search(line, found, include))
                all.push_back({inside, inside.begin()->string(), found[1], line});
    }
    return all;
}

std::ptrdiff_t rankIn(const std::vector<std::string>& order, const std::string& folder) {
    return std::find(order.begin(), order.end(), folder) - order.begin();
}

const std::vector<std::string> kCore{
    "base",     "quantity", "parts",       "project", "trace",   "line",        "runtime", "charge",
    "improve",  "solar",    "calculators", "protect", "measure", "inventory",   "advice",  "text",
    "analysis", "search",   "request",     "sheet",   "compare", "instruments", "explain"};

} // namespace

TEST_CASE("folders of the core include only what lies below them", "[architecture]") {
    const auto arrows = includesOf(std::filesystem::path(SIPPER_SOURCE) / "src/core");
    for (const Arrow& a : arrows) {
        INFO(a.file << ": " << a.line);
        REQUIRE(rankIn(kCore, a.from) < std::ssize(kCore));
        // Only what is not ours stands outside.
        CHECK((rankIn(kCore, a.to) <= rankIn(kCore, a.from) || a.to == "nlohmann" ||
               a.to == "valijson"));
    }
    CHECK(arrows.size() > 300);
}

TEST_CASE("the core knows no interface", "[architecture]") {
    const auto core = std::filesystem::path(SIPPER_SOURCE) / "src/core";
    int seen = 0;
    for (const auto& entry : std::filesystem::recursive_directory_iterator(core)) {
        if (!entry.is_regular_file())
            continue;
        std::ifstream in(entry.path());
        const std::string text{std::istreambuf_iterator<char>(in), {}};
        INFO(entry.path().string());
        CHECK(text.find("#include <Q") == std::string::npos);
        CHECK(text.find("#include \"session/") == std::string::npos);
        ++seen;
    }
    CHECK(seen > 100);
}

TEST_CASE("folders of the window include only what lies below them", "[architecture]") {
    // The roles and fonts know nothing, the session knows only the core, a view only its own
    // folder.
    const std::vector<std::string> order{"theme", "session", "widgets", "views", "shell"};
    const auto arrows = includesOf(std::filesystem::path(SIPPER_SOURCE) / "src/app");
    for (const Arrow& a : arrows) {
        INFO(a.file << ": " << a.line);
        if (a.from == "main.cpp")
            continue;
        REQUIRE(rankIn(order, a.from) < std::ssize(order));
        const bool core = rankIn(kCore, a.to) < std::ssize(kCore);
        CHECK((core || rankIn(order, a.to) <= rankIn(order, a.from)));
        if (a.from == "theme")
            CHECK(a.to == "theme");
        if (a.from == "session")
            CHECK((core || a.to == "session"));
        // The library is a room that others open; the drawn line is a picture that others show.
        if (a.from == "views" && a.to == "views" &&
            a.line.find("views/library/librarydialog.hpp") == std::string::npos &&
            a.line.find("views/supplyline/linepainter.hpp") == std::string::npos &&
            a.line.find("views/supplyline/linelayout.hpp") == std::string::npos)
            CHECK(a.line.find("views/" + std::next(a.file.begin())->string() + "/") !=
                  std::string::npos);
    }
    CHECK(arrows.size() > 300);
}
