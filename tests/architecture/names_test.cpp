// SPDX-License-Identifier: GPL-3.0-or-later
// Docstrings point at headings that exist, and names that were retired do not come back.
#include "support.hpp"

#include <regex>

using namespace sipper;

namespace {

const std::filesystem::path kRoot = SIPPER_SOURCE;

std::string textOf(const std::filesystem::path& path) {
    std::ifstream in(path);
    return {std::istreambuf_iterator<char>(in), {}};
}

std::vector<std::filesystem::path> sourcesIn(std::initializer_list<const char*> folders) {
    std::vector<std::filesystem::path> list;
    for (const char* folder : folders)
        for (const auto& entry : std::filesystem::recursive_directory_iterator(kRoot / folder))
            if (entry.path().extension() == ".cpp" || entry.path().extension() == ".hpp")
                list.push_back(entry.path());
    return list;
}

/// The comment text with its line breaks and slashes taken out.
std::string unbroken(const std::string& text) {
    return std::regex_replace(text, std::regex("\\s*\\n\\s*///?<?\\s*"), " ");
}

/// A line without comment and strings.
std::string codeOf(const std::string& line) {
    std::string bare;
    bool quoted = false;
    for (std::size_t i = 0; i < line.size(); ++i)
        if (line[i] == '"')
            quoted = !quoted;
        else if (!quoted)
            bare += line[i];
        else
            i += line[i] == '\\';
    return bare.substr(0, bare.find("//"));
}

} // namespace

TEST_CASE("every reference to the model names a heading of it", "[architecture]") {
    std::set<std::string> headings;
    std::istringstream model(textOf(kRoot / "docs/model.md"));
    for (std::string line; std::getline(model, line);)
        if (line.starts_with("#"))
            headings.insert(line.substr(line.find_first_not_of("# ")));
    CHECK(headings.size() > 20);
    const std::regex reference("docs/model\\.md: ([^()]*)\\)");
    int seen = 0;
    for (const auto& path : sourcesIn({"src"})) {
        const std::string text = unbroken(textOf(path));
        INFO(path.string());
        CHECK(text.find("design:") == std::string::npos);
        for (std::sregex_iterator at(text.begin(), text.end(), reference), end; at != end; ++at) {
            INFO((*at)[1].str());
            CHECK(headings.contains((*at)[1].str()));
            ++seen;
        }
    }
    CHECK(seen > 50);
}

TEST_CASE("retired names are not in the code", "[architecture]") {
    std::set<std::string> retired;
    std::istringstream list(textOf(kRoot / "tests/architecture/retired-names.txt"));
    for (std::string name; list >> name;)
        retired.insert(name);
    REQUIRE(retired.size() > 200);
    for (const auto& path : sourcesIn({"src", "benchmarks", "fuzz"})) {
        std::istringstream text(textOf(path));
        for (std::string line; std::getline(text, line);) {
            const std::string code = codeOf(line);
            std::string word;
            for (const char c : code + " ")
                if (std::isalnum(static_cast<unsigned char>(c)) || c == '_') {
                    word += c;
                } else {
                    if (retired.contains(word)) {
                        INFO(path.string() << ": " << line);
                        FAIL(word << " was retired: see docs/glossary.md");
                    }
                    word.clear();
                }
        }
    }
}

TEST_CASE("every source file says its licence first", "[architecture]") {
    for (const auto& path : sourcesIn({"src", "tests", "benchmarks", "fuzz", "tools"})) {
        INFO(path.string());
        CHECK(textOf(path).starts_with("// SPDX-License-Identifier: GPL-3.0-or-later\n"));
    }
}
