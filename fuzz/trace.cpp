// SPDX-License-Identifier: GPL-3.0-or-later
// Any bytes as a measured trace: refused with a reason, or rows whose cut keeps their mean.
#include "trace/segments.hpp"
#include "trace/tracefile.hpp"

#include <cmath>
#include <cstdint>
#include <cstdlib>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    using namespace sipper;
    // The first byte says what is told beside the file.
    TraceFormat format;
    if (size > 0 && (data[0] & 1U) != 0)
        format.timeScale = 1e-3;
    if (size > 0 && (data[0] & 2U) != 0)
        format.currentScale = 1e-3;
    const std::size_t skip = size > 0 ? 1 : 0;
    const auto read = readTrace(
        std::string_view(reinterpret_cast<const char*>(data) + skip, size - skip), format);
    if (!read) {
        if (read.error().expected.empty() || read.error().message().find('\n') != std::string::npos)
            std::abort();
        return 0;
    }
    const Trace& trace = read.value();
    for (std::size_t i = 1; i < trace.seconds.size(); ++i)
        if (!(trace.seconds[i] > trace.seconds[i - 1]))
            std::abort();
    const TraceSegments cut = segmentTrace(trace);
    double share = 0;
    for (const TraceMode& mode : cut.modes)
        share += mode.share;
    if (!cut.modes.empty() && !(std::abs(share - 1) < 1e-6))
        std::abort();
    return 0;
}
