// The outline of a turned body, half of it.
#pragma once
#include "geom/RoundedFrustum.h"
#include <vector>

namespace gyre {

/// From its lower to its upper end on the axis: radius and height. @param steps of each rounded corner
[[nodiscard]] std::vector<Vec2> outlineOf(const RoundedFrustum& f, int steps);

} // namespace gyre
