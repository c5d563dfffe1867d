#include "geom/TriangleMesh.h"

namespace gyre {

void TriangleMesh::append(const TriangleMesh& other, const Frame& frame, int faceOffset) {
    const auto base = static_cast<std::uint32_t>(points.size());
    for (const auto& p : other.points) points.push_back(frame * p);
    for (const auto& n : other.normals) normals.push_back(frame.linear() * n);
    for (const auto& t : other.triangles) triangles.push_back({t[0] + base, t[1] + base, t[2] + base});
    for (int f : other.faces) faces.push_back(f + faceOffset);
}

double signedVolume(const TriangleMesh& mesh) {
    double six = 0.0;
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) six += mesh.corner(t, 0).dot(mesh.corner(t, 1).cross(mesh.corner(t, 2)));
    return six / 6.0;
}

} // namespace gyre
