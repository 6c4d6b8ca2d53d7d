// SPDX-License-Identifier: GPL-3.0-or-later
// Any bytes as a project file: refused with a place and a reason, or a project that saves, loads
// again the same, and answers. `build/fuzz/bin/fuzz-project tests/files/bad tests/files/good`
#include "line/operating.hpp"
#include "project/file.hpp"
#include "project/writer.hpp"

#include <cstdlib>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    using namespace sipper;
    const auto read = loadProjectText(std::string_view(reinterpret_cast<const char*>(data), size));
    if (!read) {
        if (read.error().expected.empty() || read.error().message().find('\n') != std::string::npos)
            std::abort();
        return 0;
    }
    const Project& project = read.value().project;
    const auto again = loadProjectText(projectText(project));
    if (!again || !(again.value().project == project))
        std::abort();
    if (project.pack())
        for (std::size_t mode = 0; mode < project.modes.size(); ++mode)
            (void)operate(project, typicalConditions(project), 0.5, mode);
    return 0;
}
