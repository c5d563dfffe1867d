// A scalar field on a mesh, its gradient, and its level lines.
#pragma once
#include "geom/MeshTree.h"
#include "part/Part.h"
#include <unordered_map>

namespace gyre {

struct Field {
    std::vector<double> value;  ///< per point
    std::vector<Vec3> gradient; ///< per point, in the tangent plane, 1/mm
    /// Points inside the faces where distances are counted from: unit directions in which they stay 0; in all others they rise by `foldRise` for a millimetre away
    /// from these. Their gradients are zero.
    std::unordered_map<std::uint32_t, std::vector<Vec3>> folds = {};
    double foldRise = 0.0;
    bool knownSlopes = false; ///< gradients are the field's own; zero where it has none
    /// How it rises from a point on the way to a neighbour.
    [[nodiscard]] double slope(std::uint32_t point, const Vec3& way) const;
};

/// Harmonic field: 0 on `zero`, 1 on `one`, no flow across the rest of the border.
/// Cotangent weights; a sparse Cholesky factorisation. @return an error when a piece of the mesh touches only one of the two
/// @param held points with values of their own between 0 and 1; on a rail the rail's value counts
[[nodiscard]] Result<Field> harmonicField(const FieldMesh& mesh, const std::vector<std::uint32_t>& zero, const std::vector<std::uint32_t>& one,
                                          const std::vector<std::pair<std::uint32_t, double>>& held = {});

/// The mesh to be asked for its nearest places.
[[nodiscard]] MeshTree treeOf(const FieldMesh& mesh);

/// Sides where the faces end: at nothing, or at a hole that is bridged. Sorted.
[[nodiscard]] std::vector<std::uint64_t> borderOf(const FieldMesh& mesh);

/// A field of given values.
[[nodiscard]] Field fieldOf(const FieldMesh& mesh, std::vector<double> value);

/// A place on a side of the mesh where the field has a given level.
struct Crossing {
    Vec3 point;
    Vec2 uv;
    int face;
    std::uint32_t triangle;
};
struct LevelLine {
    std::vector<Crossing> crossings;
    bool closed = false;
};
/// Finds the lines of any level. They run with the gradient on their left, seen from outside. Positions along a side are found
/// from values and gradients at both ends (a cubic), so that lines are smooth beyond the triangles' own linear pieces.
/// Mesh and field must outlive it; questions are const and may be asked from several threads.
class LevelTracer {
public:
    LevelTracer(const FieldMesh& mesh, const Field& field);
    [[nodiscard]] std::vector<LevelLine> lines(double level) const;

private:
    static constexpr std::uint32_t kNone = 0xffffffffu;
    static constexpr std::size_t kBins = 512;
    [[nodiscard]] static std::size_t binOf(double value);
    [[nodiscard]] Crossing crossing(std::uint32_t triangle, std::uint8_t side, double level) const;

    const FieldMesh& m_mesh;
    const Field& m_field;
    std::vector<std::array<std::uint32_t, 3>> m_across; ///< for every triangle side: the triangle beyond it
    std::vector<std::vector<std::uint32_t>> m_bins;     ///< triangles by the levels they span
};

} // namespace gyre
