// Numbers that count things.
#pragma once
#include <algorithm>
#include <cstddef>
#include <cstdint>

namespace gyre {

[[nodiscard]] inline std::size_t index(int i) { return static_cast<std::size_t>(i); }
/// One key for both orders of the two: an edge between points of a mesh.
[[nodiscard]] inline std::uint64_t pairKey(std::uint32_t a, std::uint32_t b) { return (static_cast<std::uint64_t>(std::min(a, b)) << 32) | std::max(a, b); }

} // namespace gyre
