// SPDX-License-Identifier: GPL-3.0-or-later
// Nothing is lost on disk: failures leave the old file whole, leftovers go, recoveries come back.
#include "project/recovery.hpp"
#include "project/variants.hpp"
#include "project/writer.hpp"
#include "support.hpp"

#include <csignal>
#include <fcntl.h>
#include <sys/resource.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <thread>
#include <unistd.h>

using namespace sipper;

namespace {

std::string contents(const std::filesystem::path& path) {
    std::ifstream in(path, std::ios::binary);
    return {std::istreambuf_iterator<char>(in), {}};
}

std::size_t entries(const std::filesystem::path& folder) {
    std::size_t count = 0;
    for (const auto& entry : std::filesystem::directory_iterator(folder))
        count += !entry.path().empty();
    return count;
}

} // namespace

TEST_CASE("a save that fails leaves the old file, and no other", "[saving]") {
    const test::Folder folder;
    const auto file = folder.file("box.sipper");
    REQUIRE_FALSE(writeFile(file, "old"));
    // A full disk, as far as a process can be told so.
    struct rlimit before {};
    REQUIRE(::getrlimit(RLIMIT_FSIZE, &before) == 0);
    const auto handler = std::signal(SIGXFSZ, SIG_IGN);
    const struct rlimit small { 1000, before.rlim_max };
    REQUIRE(::setrlimit(RLIMIT_FSIZE, &small) == 0);
    const auto full = writeFile(file, std::string(100000, 'x'));
    ::setrlimit(RLIMIT_FSIZE, &before);
    std::signal(SIGXFSZ, handler);
    REQUIRE(full);
    CHECK(full->code == "unwritable");
    CHECK(full->found == "File too large");
    CHECK(contents(file) == "old");
    CHECK(entries(folder.path()) == 1);
    // A name that is a folder, a folder that is gone.
    std::filesystem::create_directory(folder.file("sub"));
    const auto onFolder = writeFile(folder.file("sub"), "x");
    REQUIRE(onFolder);
    CHECK(onFolder->message() ==
          folder.file("sub").string() + ": found a folder, expected the name of a file");
    const auto gone = writeFile(folder.path() / "gone/box.sipper", "x");
    REQUIRE(gone);
    CHECK(gone->found == "a folder that is not there");
    CHECK(entries(folder.path()) == 2);
    if (::geteuid() == 0)
        return; // nothing is read-only for root
    std::filesystem::permissions(folder.path(), std::filesystem::perms::owner_read |
                                                    std::filesystem::perms::owner_exec);
    CHECK(writeFile(file, "new"));
    CHECK(contents(file) == "old");
}

TEST_CASE("rights stay, the process's mask is not touched, links are followed", "[saving]") {
    const test::Folder folder;
    const auto file = folder.file("a");
    const mode_t mask = ::umask(027);
    REQUIRE_FALSE(writeFile(file, "one"));
    struct stat now {};
    REQUIRE(::stat(file.c_str(), &now) == 0);
    CHECK((now.st_mode & 0777U) == 0640U);
    CHECK(::umask(mask) == 027);
    ::chmod(file.c_str(), 0600);
    REQUIRE_FALSE(writeFile(file, "two"));
    REQUIRE(::stat(file.c_str(), &now) == 0);
    CHECK((now.st_mode & 0777U) == 0600U);
    std::filesystem::create_symlink("a", folder.file("link"));
    REQUIRE_FALSE(writeFile(folder.file("link"), "three"));
    CHECK(contents(file) == "three");
    CHECK(std::filesystem::is_symlink(folder.file("link")));
}

TEST_CASE("what a killed save left goes with the next one, what is not its own stays", "[saving]") {
    const test::Folder folder;
    const auto file = folder.file("box.sipper");
    const pid_t child = ::fork();
    REQUIRE(child >= 0);
    if (child == 0)
        ::_exit(0);
    ::waitpid(child, nullptr, 0);
    const auto left = [&](const std::string& name) {
        std::ofstream(folder.file(name)) << "half";
        return folder.file(name);
    };
    const auto dead = left("box.sipper." + std::to_string(child) + "-3.saving");
    const auto living = left("box.sipper." + std::to_string(::getpid()) + "-99.saving");
    const auto others = left("other.sipper." + std::to_string(child) + "-3.saving");
    const auto note = left("box.sipper.notes");
    REQUIRE_FALSE(writeFile(file, "whole"));
    CHECK_FALSE(std::filesystem::exists(dead));
    CHECK(std::filesystem::exists(living));
    CHECK(std::filesystem::exists(others));
    CHECK(std::filesystem::exists(note));
    CHECK(contents(file) == "whole");
}

TEST_CASE("saves killed at any moment leave the old file or the new one", "[saving]") {
    const test::Folder folder;
    const auto file = folder.file("box.sipper");
    const std::string a(200000, 'a');
    const std::string b(200000, 'b');
    REQUIRE_FALSE(writeFile(file, a));
    for (int round = 0; round < 25; ++round) {
        const pid_t child = ::fork();
        REQUIRE(child >= 0);
        if (child == 0) {
            for (int i = 0;; ++i)
                if (writeFile(file, i % 2 ? a : b))
                    ::_exit(1);
        }
        std::this_thread::sleep_for(std::chrono::microseconds(500 + 790 * round));
        ::kill(child, SIGKILL);
        ::waitpid(child, nullptr, 0);
        const std::string now = contents(file);
        CHECK((now == a || now == b));
    }
    REQUIRE_FALSE(writeFile(file, a));
    CHECK(entries(folder.path()) == 1);
}

TEST_CASE("an older file is kept beside the first save", "[saving]") {
    const test::Folder folder;
    const auto file = folder.file("box.sipper");
    const Project p = test::example("nest-box-listener");
    REQUIRE_FALSE(writeFile(file, "older"));
    REQUIRE_FALSE(saveProject(file, p, true));
    CHECK(contents(folder.file("box.sipper.bak")) == "older");
    CHECK(contents(file) == projectText(p));
    REQUIRE_FALSE(saveProject(file, p));
    CHECK(contents(folder.file("box.sipper.bak")) == "older");
}

TEST_CASE("a stamp tells a file that somebody else has written", "[saving]") {
    const test::Folder folder;
    const auto file = folder.file("a");
    CHECK(stampOf(file) == FileStamp{});
    CHECK(stampOf({}) == FileStamp{});
    REQUIRE_FALSE(writeFile(file, "one"));
    const FileStamp first = stampOf(file);
    CHECK(first == stampOf(file));
    CHECK(first.bytes == 3);
    std::this_thread::sleep_for(std::chrono::milliseconds(20));
    REQUIRE_FALSE(writeFile(file, "two"));
    CHECK_FALSE(first == stampOf(file));
}

TEST_CASE("a recovery comes back whole, a damaged one says where", "[saving]") {
    Recovery r;
    r.path = "/somewhere/box.sipper";
    r.stamp = {1'893'456'000'123'456'789, 4711};
    r.origin = "recipe, not saved";
    r.when = "2031-04-02 12:15:07";
    r.edits = 7;
    r.variant = 1;
    r.document = test::example("model-ferry-winch");
    const std::string text = recoveryText(r);
    const auto back = readRecovery(text);
    REQUIRE(back);
    CHECK(back.value().path == r.path);
    CHECK(back.value().stamp == r.stamp);
    CHECK(back.value().origin == r.origin);
    CHECK(back.value().when == r.when);
    CHECK(back.value().edits == 7);
    CHECK(back.value().variant == 1);
    CHECK(back.value().document == r.document);
    CHECK(readRecovery("{}").error().code == "not_recovery");
    CHECK(readRecovery("[1]").error().code == "not_recovery");
    CHECK_FALSE(readRecovery(text.substr(0, text.size() / 2)));
    std::string broken = text;
    const auto at = broken.find("\"boost\"");
    broken.replace(at == std::string::npos ? broken.find("\"pack\"") : at, 6, "\"pock\"");
    const auto bad = readRecovery(broken);
    REQUIRE_FALSE(bad);
    // A variant that is not there any more, edits under nought.
    r.variant = 99;
    r.edits = -4;
    CHECK(readRecovery(recoveryText(r)).value().variant == r.document.variants.size());
    CHECK(readRecovery(recoveryText(r)).value().edits == 0);
}
