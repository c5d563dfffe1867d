// The surface of a stock of rays.
#include "stock/Stock.h"
#include <cmath>

namespace gyre {

TriangleMesh Stock::skin() const {
    const std::array<int, 3> n{m_fields[2].count[0], m_fields[0].count[0], m_fields[1].count[0]}; // points of the lattice along X, Y, Z
    const auto id = [&](int x, int y, int z) {
        return (static_cast<std::size_t>(x) * static_cast<std::size_t>(n[1] + 1) + static_cast<std::size_t>(y)) * static_cast<std::size_t>(n[2] + 1) +
               static_cast<std::size_t>(z);
    };
    const std::size_t all = static_cast<std::size_t>(n[0] + 1) * static_cast<std::size_t>(n[1] + 1) * static_cast<std::size_t>(n[2] + 1);
    const auto at = [&](int axis, int i) { return m_origin[axis] + (i + 0.5) * m_cell; };
    const auto rayAt = [&](int axis, const std::array<int, 3>& p) -> const Ray& {
        const Field& f = m_fields[static_cast<std::size_t>(axis)];
        const auto u = static_cast<std::size_t>(p[static_cast<std::size_t>((axis + 1) % 3)]), v = static_cast<std::size_t>(p[static_cast<std::size_t>((axis + 2) % 3)]);
        return f.rays[u * static_cast<std::size_t>(f.count[1]) + v];
    };
    // Material at the points of the lattice: as two of the three rays through them say.
    std::vector<std::uint8_t> votes(all, 0);
    for (int axis = 0; axis < 3; ++axis) {
        const auto k = static_cast<std::size_t>(axis), iu = static_cast<std::size_t>((axis + 1) % 3), iv = static_cast<std::size_t>((axis + 2) % 3);
        std::array<int, 3> p{};
        for (p[iu] = 0; p[iu] < n[iu]; ++p[iu])
            for (p[iv] = 0; p[iv] < n[iv]; ++p[iv]) {
                p[k] = 0;
                rayAt(axis, p).each([&](const StockSpan& s) {
                    const int first = std::max(0, static_cast<int>(std::ceil((static_cast<double>(s.from) - m_origin[axis]) / m_cell - 0.5))),
                              last = std::min(n[k] - 1, static_cast<int>(std::floor((static_cast<double>(s.to) - m_origin[axis]) / m_cell - 0.5)));
                    std::array<int, 3> q = p;
                    for (q[k] = first; q[k] <= last; ++q[k]) ++votes[id(q[0], q[1], q[2])];
                });
            }
    }
    const auto inside = [&](const std::array<int, 3>& p) {
        for (std::size_t k = 0; k < 3; ++k)
            if (p[k] < 0 || p[k] >= n[k]) return false;
        return votes[id(p[0], p[1], p[2])] >= 2;
    };
    // Where sides of the lattice meet the surface: each adds to the four cubes around it. Cube (i, j, k) lies below point (i, j, k).
    std::vector<std::uint32_t> cube(all, UINT32_MAX);
    TriangleMesh mesh;
    std::vector<int> count;
    const auto pointOf = [&](const std::array<int, 3>& c) {
        std::uint32_t& p = cube[id(c[0], c[1], c[2])];
        if (p == UINT32_MAX) {
            p = static_cast<std::uint32_t>(mesh.points.size());
            mesh.points.push_back(Vec3::Zero());
            count.push_back(0);
        }
        return p;
    };
    for (int axis = 0; axis < 3; ++axis) {
        const auto k = static_cast<std::size_t>(axis), iu = static_cast<std::size_t>((axis + 1) % 3), iv = static_cast<std::size_t>((axis + 2) % 3);
        std::array<int, 3> p{};
        for (p[0] = axis == 0 ? -1 : 0; p[0] < n[0]; ++p[0])
            for (p[1] = axis == 1 ? -1 : 0; p[1] < n[1]; ++p[1])
                for (p[2] = axis == 2 ? -1 : 0; p[2] < n[2]; ++p[2]) {
                    std::array<int, 3> q = p;
                    ++q[k];
                    const bool here = inside(p), there = inside(q);
                    if (here == there) continue;
                    // The end of a span between the two points; half way where this ray sees none.
                    const double low = at(axis, p[k]), high = at(axis, q[k]);
                    double w = 0.5 * (low + high), least = 0.75 * m_cell;
                    rayAt(axis, p).each([&](const StockSpan& s) {
                        const double end = static_cast<double>(here ? s.to : s.from);
                        if (const double d = std::abs(end - 0.5 * (low + high)); d < least) {
                            least = d;
                            w = std::clamp(end, low, high);
                        }
                    });
                    Vec3 where(at(0, p[0]), at(1, p[1]), at(2, p[2]));
                    where[axis] = w;
                    std::array<std::uint32_t, 4> around{};
                    for (std::size_t corner = 0; corner < 4; ++corner) {
                        std::array<int, 3> c = q; // the cube's upper point
                        if (corner == 1 || corner == 2) ++c[iu];
                        if (corner >= 2) ++c[iv];
                        const std::uint32_t point = around[corner] = pointOf(c);
                        mesh.points[point] += where;
                        ++count[point];
                    }
                    // Counter-clockwise, seen from outside.
                    if (!here) std::swap(around[1], around[3]);
                    mesh.triangles.push_back({around[0], around[1], around[2]});
                    mesh.triangles.push_back({around[0], around[2], around[3]});
                }
    }
    for (std::size_t i = 0; i < mesh.points.size(); ++i) mesh.points[i] /= count[i];
    mesh.normals.assign(mesh.points.size(), Vec3::Zero());
    for (const auto& t : mesh.triangles) {
        const Vec3 normal = (mesh.points[t[1]] - mesh.points[t[0]]).cross(mesh.points[t[2]] - mesh.points[t[0]]);
        for (const auto p : t) mesh.normals[p] += normal;
    }
    for (Vec3& normal : mesh.normals) normal = normal.norm() > 0.0 ? Vec3(normal.normalized()) : Vec3(Vec3::UnitZ());
    return mesh;
}

} // namespace gyre
