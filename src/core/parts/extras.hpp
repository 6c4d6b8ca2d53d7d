// SPDX-License-Identifier: GPL-3.0-or-later
// Keys of a file that this program does not know, kept as they were.
#pragma once

#include <string>
#include <utility>
#include <vector>

namespace sipper {

/// Unknown keys in the order of the file, each with its value as JSON text. Only project/ knows
/// what the text means, so that no header needs a JSON library.
using Extras = std::vector<std::pair<std::string, std::string>>;

} // namespace sipper
