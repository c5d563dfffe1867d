// Bodies grown by a distance, and outlines raised to bodies.
#pragma once
#include "base/Progress.h"
#include "geom/Curve.h"
#include "geom/MeshTree.h"

namespace gyre {

/// The closed surface at `distance` around a mesh, on a grid of at most `cells` along its longest side. Hollows that cannot be
/// reached from outside are filled. Its points lie on the true one; between them it is flat.
[[nodiscard]] Result<TriangleMesh> grownMesh(const TriangleMesh& mesh, const MeshTree& tree, double distance, int cells, const Progress* progress = nullptr);

/// A closed curve in a plane raised along an axis (0, 1, 2) from one height to another.
[[nodiscard]] Result<TriangleMesh> raisedOutline(const Curve& outline, int axis, double from, double to, double tolerance);

} // namespace gyre
