// Faces that reach beyond the rails, cut off between the rails' ends.
#pragma once
#include "base/Result.h"
#include "part/Part.h"

namespace gyre {

/// A straight way across, from a point of the mesh (the end of a rail) to another one (of the other rail): the section of the faces with
/// the plane through both that stands on them.
struct Across {
    std::uint32_t from = 0, to = 0;        ///< points of the mesh
    double fromLevel = 0.0, toLevel = 1.0; ///< of a field, at its ends
};

/// Cuts the mesh along the ways and keeps what touches `seeds` (points of the mesh that lie on it) and can be reached without crossing one.
///
/// Every triangle side that a way crosses gets a new point, on the exact surface; points nearer to the way than a twelfth of the side are
/// moved onto it instead, unless they lie on an edge. Refused where a way meets no material between its ends (it would have to jump), or
/// where what is kept goes around the ends of a way all the same.
///
/// @param side  typical length of the mesh's sides, mm
/// @return points of the new borders with their levels, which change evenly along each way
[[nodiscard]] Result<std::vector<std::pair<std::uint32_t, double>>> cutAcross(FieldMesh& mesh, const Part& part, const std::vector<Across>& ways,
                                                                              const std::vector<std::uint32_t>& seeds, double side);

} // namespace gyre
