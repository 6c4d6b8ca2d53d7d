// The house's arrows stay one-way, and the core knows no interface.
#include "support.hpp"

#include <regex>

TEST_CASE("folders of the core include only what lies below them", "[house]") {
    const std::vector<std::string> order{"quantity", "parts",   "project", "trace",
                                         "line",     "runtime", "find",    "sums",
                                         "advice",   "words",   "solved",  "compare"};
    const auto rank = [&](const std::string& folder) {
        return std::find(order.begin(), order.end(), folder) - order.begin();
    };
    const std::regex include("#include [\"<]([a-z]+)/[a-z]+\\.hpp[\">]");
    int seen = 0;
    const auto core = std::filesystem::path(SIPPER_SOURCE) / "src/core";
    for (const auto& entry : std::filesystem::recursive_directory_iterator(core)) {
        if (!entry.is_regular_file() || entry.path().filename() == "CMakeLists.txt")
            continue;
        const std::string folder = std::filesystem::relative(entry.path(), core).begin()->string();
        REQUIRE(rank(folder) < static_cast<std::ptrdiff_t>(order.size()));
        std::ifstream in(entry.path());
        for (std::string line; std::getline(in, line);) {
            INFO(entry.path().string() << ": " << line);
            CHECK(line.find("#include <Q") == std::string::npos);
            std::smatch found;
            if (!std::regex_search(line, found, include))
                continue;
            if (rank(found[1]) < static_cast<std::ptrdiff_t>(order.size())) {
                CHECK(rank(found[1]) <= rank(folder));
                ++seen;
            }
        }
    }
    CHECK(seen > 50);
}
