// True distance along a mesh from lines and points on it.
#pragma once
#include "base/Progress.h"
#include "base/Result.h"
#include "geom/Vec.h"
#include <array>
#include <cstdint>
#include <vector>

namespace gyre {

/// For every point the length of the shortest way along the triangles to the nearest of the lines (points of the mesh, neighbours joined by sides of
/// it; a line of one point is that point). Exact for the polyhedron: straight fronts leave the lines, round ones their corners, and go on from every
/// point that a shortest way can bend at. Infinite where there is no way.
/// @param ways  when wanted: by point, unit, the way on from the nearest line as it comes in there; zero on the lines and where there is none
/// @return an error when more fronts would have to be followed than there is memory for
[[nodiscard]] Result<std::vector<double>> distancesFrom(const std::vector<Vec3>& points, const std::vector<std::array<std::uint32_t, 3>>& triangles,
                                                        const std::vector<std::vector<std::uint32_t>>& lines, const Progress* progress = nullptr,
                                                        std::vector<Vec3>* ways = nullptr);

} // namespace gyre
