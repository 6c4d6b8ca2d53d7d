// SPDX-License-Identifier: GPL-3.0-or-later
#include "parts/stage.hpp"

namespace sipper {

std::string nameOf(const Stage& stage) {
    return stage.label.empty() ? stage.id : stage.label;
}

} // namespace sipper
