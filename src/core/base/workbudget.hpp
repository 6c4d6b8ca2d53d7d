// SPDX-License-Identifier: GPL-3.0-or-later
// What a computation may use up before it answers with what it knows.
#pragma once

#include <chrono>
#include <cstddef>
#include <limits>
#include <optional>
#include <stop_token>

namespace sipper {

/// One budget through every simulation, sweep and search: steps and simulated hours keep an answer
/// the same on any machine; a deadline and a stop token end it early. None of them is an error: the
/// answer says how far it came.
struct WorkBudget {
    std::size_t steps = 4'000'000; ///< more than a century of daily windows
    double hours = std::numeric_limits<double>::infinity();        ///< simulated
    std::optional<std::chrono::steady_clock::time_point> deadline; ///< wall time; nothing: none
    std::stop_token stop;

    /// Asked once a step: is it used up after so many? The clock is read every 64th step.
    [[nodiscard]] bool spent(std::size_t taken, double simulated = 0) const {
        if (taken >= steps || simulated >= hours)
            return true;
        return taken % kClockEvery == 0 && interrupted();
    }
    /// Asked to stop, or past the deadline.
    [[nodiscard]] bool interrupted() const {
        return stop.stop_requested() || (deadline && std::chrono::steady_clock::now() >= *deadline);
    }
    static constexpr std::size_t kClockEvery = 64;
};

} // namespace sipper
