// Any bytes typed into a field: refused with what was expected, or a finite figure that is read
// back from its own writing.
#include "quantity/read.hpp"
#include "quantity/write.hpp"

#include <cmath>
#include <cstdint>
#include <cstdlib>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    using namespace sipper;
    if (size == 0)
        return 0;
    constexpr int kUnits = static_cast<int>(Unit::money) + 1;
    const auto unit = static_cast<Unit>(data[0] % kUnits);
    const auto read =
        readQuantity(std::string_view(reinterpret_cast<const char*>(data) + 1, size - 1), unit);
    if (!read) {
        if (read.error().expected.empty())
            std::abort();
        return 0;
    }
    const double value = read.value();
    if (!std::isfinite(value))
        std::abort();
    const auto again = readQuantity(writeExact(value, unit), unit);
    if (unit != Unit::money && unit != Unit::degree && std::abs(value) > 1e-9 &&
        std::abs(value) < 1e9 && (!again || std::abs(again.value() / value - 1) > 1e-6))
        std::abort();
    return 0;
}
