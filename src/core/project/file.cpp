#include "project/file.hpp"

#include "project/json.hpp"
#include "project/schema.hpp"
#include "project/writer.hpp"

#include <cerrno>
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

bool writeAll(int file, std::string_view text) {
    while (!text.empty()) {
        const ssize_t done = ::write(file, text.data(), text.size());
        if (done < 0 && errno == EINTR)
            continue;
        if (done <= 0)
            return false;
        text.remove_prefix(static_cast<std::size_t>(done));
    }
    return true;
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

Outcome<Read> loadProjectText(std::string_view text) {
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

Outcome<Read> loadProject(const std::filesystem::path& path) {
    auto text = readFile(path);
    if (!text)
        return text.error();
    auto read = loadProjectText(text.value());
    if (read)
        return read;
    Error error = read.error();
    error.file = path.string();
    return error;
}

std::optional<Error> writeFile(const std::filesystem::path& path, std::string_view text) {
    std::error_code code;
    std::filesystem::path target = path;
    if (std::filesystem::is_symlink(path, code))
        target = std::filesystem::weakly_canonical(path, code);
    std::string temporary = target.string() + ".XXXXXX";
    const int file = ::mkstemp(temporary.data());
    if (file < 0)
        return unwritable(path, errno);
    struct stat old {};
    const bool existed = ::stat(target.c_str(), &old) == 0;
    const mode_t mask = ::umask(0);
    ::umask(mask);
    const mode_t rights = existed ? (old.st_mode & 0777U) : (0666U & ~mask);
    const bool written = writeAll(file, text) && ::fchmod(file, rights) == 0 && ::fsync(file) == 0;
    const int trouble = errno;
    if (::close(file) != 0 || !written) {
        ::unlink(temporary.c_str());
        return unwritable(path, trouble);
    }
    if (::rename(temporary.c_str(), target.c_str()) != 0) {
        const int why = errno;
        ::unlink(temporary.c_str());
        return unwritable(path, why);
    }
    const auto folder = target.has_parent_path() ? target.parent_path() : ".";
    if (const int handle = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY); handle >= 0) {
        ::fsync(handle);
        ::close(handle);
    }
    return std::nullopt;
}

std::optional<Error> saveProject(const std::filesystem::path& path, const Project& project) {
    return writeFile(path, projectText(project));
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
