// Fewer triangles that look the same from afar.
#pragma once
#include "geom/TriangleMesh.h"

namespace gyre {

/// Inner points that share a cell of the given size become one, in the middle of them; the border stays as it is, so that neighbours
/// still meet. For looking only: nothing is promised but that no point moves further than a cell's diagonal.
[[nodiscard]] TriangleMesh thinned(const TriangleMesh& mesh, double cell);

} // namespace gyre
