// Holes of a field mesh closed over, so that a field runs on as if they were not there.
#pragma once
#include "part/Part.h"

namespace gyre {

/// Closes every border of the mesh that touches none of the rails' points, but for the outermost where no border touches one. The new triangles
/// are of face −1 and follow the old ones; new points follow the old ones, too.
/// @param side  about how long their sides are to be, mm
/// @return how many holes were closed
std::size_t bridgeHoles(FieldMesh& mesh, const std::vector<std::uint32_t>& railPoints, double side);

} // namespace gyre
