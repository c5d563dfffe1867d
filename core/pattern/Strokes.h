// Rows along strokes: a field whose level lines run as a few drawn curves do.
#pragma once
#include "base/Result.h"
#include "geom/Polyline.h"
#include "part/Part.h"

namespace gyre {

/// A direction at every point of the mesh, in its tangent plane: the strokes' own where they pass, between them as even as it gets.
/// Which way along it points means nothing beside the strokes; neighbours point the same way.
[[nodiscard]] Result<std::vector<Vec3>> directionsAlong(const FieldMesh& mesh, const std::vector<Polyline>& strokes);

/// The field u that is nearest to rising by one per mm square to the directions: ∫ |∇u − n × t|² is least.
[[nodiscard]] Result<std::vector<double>> risingAcross(const FieldMesh& mesh, const std::vector<Vec3>& directions);

/// How far level lines run off the strokes: what nineteen of twenty places of them do not exceed, rad, and where the worst place is.
struct OffStrokes {
    double angle = 0.0;
    Vec3 at = Vec3::Zero();
};
[[nodiscard]] OffStrokes offStrokes(const FieldMesh& mesh, const std::vector<double>& field, const std::vector<Polyline>& strokes);

} // namespace gyre
