// Lines on the faces, made sides of the mesh.
#pragma once
#include "base/Result.h"
#include "part/Part.h"
#include "pattern/RawRows.h"

namespace gyre {

/// Divides triangles so that lines run along sides of the mesh; corners near a line move onto it unless they lie on an edge of the part.
///
/// Between two points of a line the way is the section of the triangles with the plane through both that stands on them.
/// @param lines  on the faces of the mesh, with points no further apart than a few of its sides; closed ones go on from the last point to the first
/// @return for each line points of the mesh, neighbours joined by sides; a closed one ends with its first. An error where one cannot be followed
[[nodiscard]] Result<std::vector<std::vector<std::uint32_t>>> embedLines(FieldMesh& mesh, const Part& part, const std::vector<RawLine>& lines);

} // namespace gyre
