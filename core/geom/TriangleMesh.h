// A triangle mesh whose triangles know which face they came from.
#pragma once
#include "geom/Box.h"
#include <array>
#include <cstdint>
#include <vector>

namespace gyre {

struct TriangleMesh {
    std::vector<Vec3> points;
    std::vector<std::array<std::uint32_t, 3>> triangles;
    std::vector<int> faces;    ///< face index per triangle; empty when the mesh has no faces
    std::vector<Vec3> normals; ///< unit normal per point (points are not shared across faces then); may be empty

    [[nodiscard]] Box bounds() const {
        Box b;
        for (const auto& p : points) b.add(p);
        return b;
    }
    [[nodiscard]] const Vec3& corner(std::size_t triangle, int k) const { return points[triangles[triangle][static_cast<std::size_t>(k)]]; }
    /// Adds the other mesh, moved by `frame`; its face indices are shifted by `faceOffset`.
    void append(const TriangleMesh& other, const Frame& frame = Frame::Identity(), int faceOffset = 0);
};

/// Enclosed volume, positive when triangles are wound outward. mm³
[[nodiscard]] double signedVolume(const TriangleMesh& mesh);

} // namespace gyre
