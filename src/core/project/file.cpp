// SPDX-License-Identifier: GPL-3.0-or-later
#include "project/file.hpp"

#include "project/json.hpp"
#include "project/schema.hpp"
#include "project/writer.hpp"

#include <array>
#include <atomic>
#include <cerrno>
#include <csignal>
#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <fcntl.h>
#include <fmt/format.h>
#include <fstream>
#include <sys/stat.h>
#include <unistd.h>

namespace sipper {
namespace {

constexpr std::uintmax_t kLargest = 64U << 20U;

Error unwritable(const std::filesystem::path& path, int code) {
    return Error{"unwritable", "", std::strerror(code), "a place that can be written",
                 path.string()};
}

/// All of it; false with errno set where it can't be. A write of nothing is a full disk.
bool writeAll(int file, std::string_view text) {
    while (!text.empty()) {
        const ssize_t done = ::write(file, text.data(), text.size());
        if (done < 0 && errno == EINTR)
            continue;
        if (done == 0)
            errno = ENOSPC;
        if (done <= 0)
            return false;
        text.remove_prefix(static_cast<std::size_t>(done));
    }
    return true;
}

constexpr std::string_view kTemporary = ".saving"; ///< ending of a file that is being written

/// `name.PID-N.saving` beside the file: whose it is can be told.
std::string temporaryName(const std::filesystem::path& target) {
    static std::atomic<unsigned> count{0};
    return fmt::format("{}.{}-{}{}", target.string(), ::getpid(), ++count, kTemporary);
}

/// What a save that was killed has left beside this file: gone where its process is.
void clearLeftovers(const std::filesystem::path& target) {
    const auto folder = target.has_parent_path() ? target.parent_path() : ".";
    const std::string stem = target.filename().string() + ".";
    std::error_code code;
    for (std::filesystem::directory_iterator it(folder, code), end; !code && it != end;
         it.increment(code)) {
        const std::string name = it->path().filename().string();
        if (!name.starts_with(stem) || !name.ends_with(kTemporary))
            continue;
        long pid = 0;
        unsigned number = 0;
        int used = 0;
        if (std::sscanf(name.c_str() + stem.size(), "%ld-%u.saving%n", &pid, &number, &used) == 2 &&
            stem.size() + static_cast<std::size_t>(used) == name.size() && pid > 0 &&
            ::kill(static_cast<pid_t>(pid), 0) != 0 && errno == ESRCH)
            ::unlink(it->path().c_str());
    }
}

} // namespace

Outcome<std::string> readFile(const std::filesystem::path& path) {
    std::error_code code;
    const auto status = std::filesystem::status(path, code);
    if (!std::filesystem::exists(status))
        return Error{"unreadable", "", "no such file", "a file", path.string()};
    if (std::filesystem::is_directory(status))
        return Error{"unreadable", "", "a folder", "a file", path.string()};
    std::ifstream in(path, std::ios::binary);
    if (!in)
        return Error{"unreadable", "", "a file that can't be opened", "a readable file",
                     path.string()};
    std::string text;
    std::array<char, 65536> block{};
    while (in.read(block.data(), block.size()) || in.gcount() > 0) {
        text.append(block.data(), static_cast<std::size_t>(in.gcount()));
        if (text.size() > kLargest)
            return Error{"too_large", "", "more than 64 MiB", "a project file", path.string()};
    }
    return text;
}

Outcome<LoadedProject> loadProjectText(std::string_view text) {
    auto document = parseJson(text);
    if (!document)
        return document.error();
    auto read = readProject(document.value());
    if (!read)
        return read.error();
    if (auto trouble = validateProject(document.value()))
        return *trouble;
    return read;
}

Outcome<LoadedProject> loadProject(const std::filesystem::path& path) {
    auto text = readFile(path);
    if (!text)
        return text.error();
    auto read = loadProjectText(text.value());
    if (read)
        return read;
    Error error = read.error();
    if (error.file.empty()) // else another file is to blame: the schema
        error.file = path.string();
    return error;
}

std::optional<Error> writeFile(const std::filesystem::path& path, std::string_view text) {
    std::error_code code;
    std::filesystem::path target = path;
    if (std::filesystem::is_symlink(path, code))
        target = std::filesystem::weakly_canonical(path, code);
    if (std::filesystem::is_directory(target, code))
        return Error{"unwritable", "", "a folder", "the name of a file", path.string()};
    if (target.has_parent_path() && !std::filesystem::exists(target.parent_path(), code))
        return Error{"unwritable", "", "a folder that is not there", "a place that can be written",
                     path.string()};
    clearLeftovers(target);
    const std::string temporary = temporaryName(target);
    struct stat old {};
    const bool existed = ::stat(target.c_str(), &old) == 0;
    // The process's mask falls on the rights of a new file; an old one keeps its own.
    const int file = ::open(temporary.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0666);
    if (file < 0)
        return unwritable(path, errno);
    int trouble = 0;
    if (!writeAll(file, text) || (existed && ::fchmod(file, old.st_mode & 0777U) != 0) ||
        ::fsync(file) != 0)
        trouble = errno;
    if (::close(file) != 0 && trouble == 0)
        trouble = errno;
    if (trouble == 0 && ::rename(temporary.c_str(), target.c_str()) != 0)
        trouble = errno;
    if (trouble != 0) {
        ::unlink(temporary.c_str());
        return unwritable(path, trouble);
    }
    const auto folder = target.has_parent_path() ? target.parent_path() : ".";
    if (const int handle = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY); handle >= 0) {
        ::fsync(handle);
        ::close(handle);
    }
    return std::nullopt;
}

/// What would be refused when it is opened is refused now, while the old file is still there.
std::optional<Error> saveProject(const std::filesystem::path& path, const Project& project,
                                 bool keepOld) {
    std::error_code code;
    const std::string text = projectText(project);
    if (const auto back = loadProjectText(text); !back) {
        Error trouble = back.error();
        if (trouble.file.empty())
            trouble.file = path.string();
        trouble.code = "unsaved";
        trouble.expected += "; nothing was written, the file is as it was";
        return trouble;
    }
    if (keepOld && std::filesystem::exists(path, code)) {
        auto kept = path;
        kept += ".bak";
        std::filesystem::copy_file(path, kept, std::filesystem::copy_options::overwrite_existing,
                                   code);
        if (code)
            return Error{"unwritable", "", code.message(), "a copy of the older file",
                         kept.string()};
    }
    return writeFile(path, text);
}

std::filesystem::path dataFolder() {
    std::error_code code;
    if (const char* given = std::getenv("SIPPER_DATA"))
        return given;
    const auto program = std::filesystem::read_symlink("/proc/self/exe", code);
    const auto beside = program.parent_path().parent_path() / "share" / "sipper";
    if (!code && std::filesystem::is_directory(beside, code))
        return beside;
    if (std::filesystem::is_directory(SIPPER_SOURCE_DATA, code))
        return SIPPER_SOURCE_DATA;
    return SIPPER_INSTALLED_DATA;
}

} // namespace sipper
