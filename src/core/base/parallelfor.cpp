// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/parallelfor.hpp"

#include <atomic>
#include <thread>

namespace sipper {

void serialFor(std::size_t pieces, const std::function<void(std::size_t)>& piece) {
    for (std::size_t i = 0; i < pieces; ++i)
        piece(i);
}

void twoThreadFor(std::size_t pieces, const std::function<void(std::size_t)>& piece) {
    std::atomic<std::size_t> next{0};
    const auto work = [&] {
        for (std::size_t i = next++; i < pieces; i = next++)
            piece(i);
    };
    const std::jthread other(work);
    work();
}

} // namespace sipper
