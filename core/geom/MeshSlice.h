// A mesh cut by a plane.
#pragma once
#include "geom/TriangleMesh.h"

namespace gyre {

/// Closed lines where the triangles meet the plane z = height of the frame, in the frame's x and y; material on the left of a line of a
/// mesh whose triangles look outward. A mesh that is not closed gives open lines too, which are left out.
[[nodiscard]] std::vector<std::vector<Vec2>> sliceOf(const TriangleMesh& mesh, const Frame& frame, double height);

} // namespace gyre
