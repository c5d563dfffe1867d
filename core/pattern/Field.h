// A scalar field on a mesh, its gradient, and its level lines.
#pragma once
#include "part/Part.h"

namespace gyre {

struct Field {
    std::vector<double> value;   ///< per point
    std::vector<Vec3> gradient;  ///< per point, in the tangent plane, 1/mm
};

/// Harmonic field: 0 on `zero`, 1 on `one`, no flow across the rest of the border.
/// Cotangent weights; a sparse Cholesky factorisation. @return an error when a piece of the mesh touches only one of the two
[[nodiscard]] Result<Field> harmonicField(const FieldMesh& mesh, const std::vector<std::uint32_t>& zero, const std::vector<std::uint32_t>& one);

/// A place on a side of the mesh where the field has a given level.
struct Crossing {
    Vec3 point;
    Vec2 uv;
    int face;
};
struct LevelLine {
    std::vector<Crossing> crossings;
    bool closed = false;
};
/// All lines of one level. They run with the gradient on their left, seen from outside. Positions along a side are found
/// from values and gradients at both ends (a cubic), so that lines are smooth beyond the triangles' own linear pieces.
[[nodiscard]] std::vector<LevelLine> levelLines(const FieldMesh& mesh, const Field& field, double level);

} // namespace gyre
