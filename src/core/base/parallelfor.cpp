// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/parallelfor.hpp"

#include <array>
#include <atomic>
#include <exception>
#include <thread>

namespace sipper {

void serialFor(std::size_t pieces, const std::function<void(std::size_t)>& piece) {
    for (std::size_t i = 0; i < pieces; ++i)
        piece(i);
}

void twoThreadFor(std::size_t pieces, const std::function<void(std::size_t)>& piece) {
    std::atomic<std::size_t> next{0};
    std::array<std::exception_ptr, 2> trouble; // of the caller, of the other
    const auto work = [&](std::exception_ptr& thrown) {
        try {
            for (std::size_t i = next++; i < pieces; i = next++)
                piece(i);
        } catch (...) {
            thrown = std::current_exception();
            next = pieces;
        }
    };
    {
        const std::jthread other([&] { work(trouble[1]); });
        work(trouble[0]);
    }
    for (const std::exception_ptr& thrown : trouble)
        if (thrown)
            std::rethrow_exception(thrown);
}

} // namespace sipper
