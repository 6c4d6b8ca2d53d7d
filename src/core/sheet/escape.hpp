// SPDX-License-Identifier: GPL-3.0-or-later
// Text on its way into markup.
#pragma once

#include <string>
#include <string_view>

namespace sipper {

/// `&`, `<`, `>`, quotes written out; control characters, which no markup may hold, left out.
/// UTF-8 in and out.
[[nodiscard]] std::string escaped(std::string_view text);

/// The text cut, with an ellipsis, to about the letters of this size that fit into `room`; 0: as it
/// is. Whole letters: UTF-8 in and out.
[[nodiscard]] std::string shortened(const std::string& text, double room, double size);

} // namespace sipper
