// SPDX-License-Identifier: GPL-3.0-or-later
// How a loop over pieces that do not depend on each other is shared among threads.
#pragma once

#include <cstddef>
#include <functional>

namespace sipper {

/// Calls `piece(i)` for every i under `pieces`, each once, in any order and on any thread, and
/// returns when all are done.
using ParallelFor =
    std::function<void(std::size_t pieces, const std::function<void(std::size_t)>& piece)>;

/// One after the other on the caller's thread.
void serialFor(std::size_t pieces, const std::function<void(std::size_t)>& piece);
/// On the caller's thread and another of its own, for a program without a pool. What a piece throws
/// ends the loop and reaches the caller, from whichever thread it comes.
void twoThreadFor(std::size_t pieces, const std::function<void(std::size_t)>& piece);

} // namespace sipper
