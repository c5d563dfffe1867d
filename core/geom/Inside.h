// Is a place inside closed triangles?
#pragma once
#include "geom/MeshTree.h"

namespace gyre {

/// By counting triangles along rays: an odd number of them lies in the way, whichever way. A ray that runs along an edge may count
/// wrongly; of three rays two do not.
[[nodiscard]] bool insideClosed(const MeshTree& tree, const Vec3& p);

} // namespace gyre
