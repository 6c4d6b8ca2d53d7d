// Keys of a file that this program does not know, kept as they were.
#pragma once

#include <nlohmann/json.hpp>

namespace sipper {

using Json = nlohmann::ordered_json;

/// An object of unknown keys, or null when there are none.
using Extras = Json;

} // namespace sipper
