// Private to part/: a mesh file as a part.
#pragma once
#include "geom/MeshFile.h"
#include "part/Kernel.h"

namespace gyre {

/// Regions of the mesh between sharp bends become faces, the lines between them edges. A mesh that is one noisy surface stays one face.
[[nodiscard]] Status fillFromMesh(Part::Kernel& k, TriangleMesh mesh, const std::string& place, const Progress& progress);

/// The same of a file, with the winding mended and what a user should know of it remarked.
[[nodiscard]] Status fillFromFile(Part::Kernel& k, MeshRead read, const MeshTaken& taken, const std::string& place, const Progress& progress);

/// How much each corner of the triangle found counts at the point found; the sum is 1.
[[nodiscard]] Vec3 cornerWeights(const TriangleMesh& mesh, const ClosestPoint& at);

/// Nearest point of a mesh face, with the normal blended between its corners'.
[[nodiscard]] SurfacePoint footOnMesh(const Part::Kernel::Surface& s, const Vec3& p);

} // namespace gyre
