// The parts that ship with Sipper (data/parts), read when asked for.
#pragma once

#include "project/reader.hpp"

namespace sipper {

/// The part `name` of data/parts as a stage fed by `fedBy` with the id `id`; an error names the
/// file.
[[nodiscard]] Outcome<Stage> shippedPart(std::string_view name, const std::string& id,
                                         const std::string& fedBy);

/// An id that no stage or load has yet: `wanted`, or with a number behind it.
[[nodiscard]] std::string freeId(const Project& project, const std::string& wanted);

/// An id that no mode has yet.
[[nodiscard]] std::string freeModeId(const Project& project);

} // namespace sipper
