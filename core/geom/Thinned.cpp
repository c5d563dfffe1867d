#include "geom/Thinned.h"
#include "base/Hash.h"
#include "base/Index.h"
#include <unordered_map>

namespace gyre {

TriangleMesh thinned(const TriangleMesh& mesh, double cell) {
    // Sides that only one triangle has are the border.
    std::unordered_map<std::uint64_t, int> sides;
    sides.reserve(mesh.triangles.size() * 2);
    for (const auto& t : mesh.triangles)
        for (std::size_t c = 0; c < 3; ++c) ++sides[pairKey(t[c], t[(c + 1) % 3])];
    std::vector<char> border(mesh.points.size(), 0);
    for (const auto& [key, count] : sides)
        if (count == 1) border[key >> 32] = border[key & 0xffffffffu] = 1;
    TriangleMesh out;
    std::unordered_map<std::uint64_t, std::uint32_t> cells;
    std::vector<std::uint32_t> number(mesh.points.size());
    std::vector<int> count;
    const bool normals = mesh.normals.size() == mesh.points.size();
    for (std::size_t i = 0; i < mesh.points.size(); ++i) {
        const Vec3& p = mesh.points[i];
        std::uint32_t n = static_cast<std::uint32_t>(out.points.size());
        if (!border[i]) {
            const auto at = [&](int k) { return static_cast<std::uint64_t>(static_cast<std::int64_t>(std::floor(p[k] / cell))); };
            n = cells.emplace(Hash().add(at(0)).add(at(1)).add(at(2)).value(), n).first->second;
        }
        number[i] = n;
        if (n == out.points.size()) {
            out.points.push_back(Vec3::Zero());
            if (normals) out.normals.push_back(Vec3::Zero());
            count.push_back(0);
        }
        out.points[n] += p;
        if (normals) out.normals[n] += mesh.normals[i];
        ++count[n];
    }
    for (std::size_t n = 0; n < out.points.size(); ++n) {
        out.points[n] /= count[n];
        if (normals && out.normals[n].norm() > 1e-12) out.normals[n].normalize();
    }
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t) {
        const auto& [a, b, c] = mesh.triangles[t];
        const std::array<std::uint32_t, 3> ids{number[a], number[b], number[c]};
        if (ids[0] == ids[1] || ids[1] == ids[2] || ids[2] == ids[0]) continue;
        out.triangles.push_back(ids);
        if (!mesh.faces.empty()) out.faces.push_back(mesh.faces[t]);
    }
    return out;
}

} // namespace gyre
