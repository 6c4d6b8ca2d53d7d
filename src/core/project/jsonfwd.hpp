// SPDX-License-Identifier: GPL-3.0-or-later
// The JSON value that project/ and the command line speak, declared only.
#pragma once

#include <nlohmann/json_fwd.hpp>

namespace sipper {

using Json = nlohmann::ordered_json;

} // namespace sipper
