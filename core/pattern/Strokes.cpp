#include "pattern/Strokes.h"
#include "base/Index.h"
#include "base/Units.h"
#include "pattern/Field.h"
#include <Eigen/Geometry>
#include <Eigen/SparseCholesky>
#include <algorithm>
#include <complex>
#include <map>
#include <queue>

namespace gyre {
namespace {

using Complex = std::complex<double>;

/// Unit normals of the points, and two directions square to each.
struct Tangents {
    explicit Tangents(const FieldMesh& mesh) : normal(mesh.points.size(), Vec3::Zero()), used(mesh.points.size(), 0) {
        for (const auto& t : mesh.triangles) {
            const Vec3 n = (mesh.points[t[1]] - mesh.points[t[0]]).cross(mesh.points[t[2]] - mesh.points[t[0]]);
            for (const auto i : t) {
                normal[i] += n;
                used[i] = 1;
            }
        }
        for (Vec3& n : normal) {
            n = n.norm() > 1e-12 ? Vec3(n.normalized()) : Vec3(Vec3::UnitZ());
            first.push_back(anyPerpendicular(n));
            second.push_back(n.cross(first.back()));
        }
    }
    [[nodiscard]] Complex told(std::size_t i, const Vec3& v) const { return {v.dot(first[i]), v.dot(second[i])}; }
    [[nodiscard]] Vec3 meant(std::size_t i, const Complex& z) const { return z.real() * first[i] + z.imag() * second[i]; }
    /// A direction of point i as it is at point j: turned as little as brings the one normal onto the other.
    [[nodiscard]] Vec3 carried(std::size_t i, std::size_t j, const Vec3& v) const { return Eigen::Quaterniond::FromTwoVectors(normal[i], normal[j]) * v; }
    std::vector<Vec3> normal, first, second;
    std::vector<char> used;
};

/// Places of strokes on the mesh: the triangle, its normal, the way along the stroke in its plane, and the length that the place stands for.
struct StrokePlace {
    std::uint32_t triangle;
    Vec3 point, normal, along;
    double length;
};
std::vector<StrokePlace> placesOf(const FieldMesh& mesh, const std::vector<Polyline>& strokes) {
    const MeshTree tree = treeOf(mesh);
    std::vector<StrokePlace> out;
    constexpr double kStep = 0.3, kUpright = 0.2; // mm; of the way, what must lie in the face
    for (const Polyline& stroke : strokes)
        for (std::size_t i = 1; i < stroke.size(); ++i) {
            const Vec3 along = stroke[i] - stroke[i - 1];
            const int parts = std::clamp(static_cast<int>(std::ceil(along.norm() / kStep)), 1, 100000);
            for (int k = 0; k < parts; ++k) {
                const Vec3 p = stroke[i - 1] + (k + 0.5) / parts * along;
                const auto triangle = tree.closest(p).triangle;
                const auto& t = mesh.triangles[triangle];
                const Vec3 n = (mesh.points[t[1]] - mesh.points[t[0]]).cross(mesh.points[t[2]] - mesh.points[t[0]]).normalized(), flat = rejected(along, n);
                if (flat.norm() > kUpright * along.norm()) out.push_back({triangle, p, n, flat.normalized(), along.norm() / parts});
            }
        }
    return out;
}

/// Directions of the strokes at the points of the mesh that they pass, with how much of them passes there. They are squared: both ways are one.
std::map<std::uint32_t, std::pair<Complex, double>> strokesAt(const FieldMesh& mesh, const Tangents& tangents, const std::vector<Polyline>& strokes) {
    std::map<std::uint32_t, std::pair<Complex, double>> out;
    for (const StrokePlace& s : placesOf(mesh, strokes))
        for (const auto corner : mesh.triangles[s.triangle]) {
            const Complex z = tangents.told(corner, Eigen::Quaterniond::FromTwoVectors(s.normal, tangents.normal[corner]) * s.along);
            auto& sum = out[corner];
            sum.first += s.length * z * z;
            sum.second += s.length;
        }
    return out;
}

struct Side {
    std::uint32_t a, b;
};
std::vector<Side> sidesOf(const FieldMesh& mesh) {
    std::vector<std::uint64_t> keys;
    for (const auto& t : mesh.triangles)
        for (std::size_t c = 0; c < 3; ++c) keys.push_back(pairKey(t[c], t[(c + 1) % 3]));
    std::sort(keys.begin(), keys.end());
    keys.erase(std::unique(keys.begin(), keys.end()), keys.end());
    std::vector<Side> out;
    for (const auto k : keys) out.push_back({static_cast<std::uint32_t>(k >> 32), static_cast<std::uint32_t>(k & 0xffffffffu)});
    return out;
}

// Neighbours point the same way, from the first point of each piece on. @return the share of sides whose ends do not agree in the end
double pointedAlike(const FieldMesh& mesh, const Tangents& tangents, const std::vector<Side>& sides, std::vector<Vec3>& directions) {
    std::vector<std::vector<std::uint32_t>> beside(mesh.points.size());
    for (const Side& s : sides) {
        beside[s.a].push_back(s.b);
        beside[s.b].push_back(s.a);
    }
    std::vector<char> seen(mesh.points.size(), 0);
    for (std::uint32_t from = 0; from < mesh.points.size(); ++from) {
        if (seen[from] || !tangents.used[from]) continue;
        std::queue<std::uint32_t> next;
        next.push(from);
        seen[from] = 1;
        for (; !next.empty(); next.pop())
            for (const auto j : beside[next.front()]) {
                if (seen[j]) continue;
                seen[j] = 1;
                if (tangents.carried(next.front(), j, directions[next.front()]).dot(directions[j]) < 0.0) directions[j] = -directions[j];
                next.push(j);
            }
    }
    std::size_t against = 0;
    for (const Side& s : sides) against += tangents.carried(s.a, s.b, directions[s.a]).dot(directions[s.b]) < 0.0;
    return static_cast<double>(against) / static_cast<double>(std::max<std::size_t>(1, sides.size()));
}

} // namespace

Result<std::vector<Vec3>> directionsAlong(const FieldMesh& mesh, const std::vector<Polyline>& strokes) {
    const Tangents tangents(mesh);
    const auto fixed = strokesAt(mesh, tangents, strokes);
    if (fixed.empty()) return fail("no stroke runs along the picked faces", "Pattern", "Draw strokes on them");
    const std::vector<Side> sides = sidesOf(mesh);
    using Sparse = Eigen::SparseMatrix<Complex>;
    std::vector<Eigen::Triplet<Complex>> entries;
    const auto n = static_cast<Eigen::Index>(mesh.points.size());
    Eigen::VectorXcd right = Eigen::VectorXcd::Zero(n);
    double length = 0.0;
    for (const Side& s : sides) {
        const Complex turn = tangents.told(s.b, tangents.carried(s.a, s.b, tangents.first[s.a]));
        const Complex twice = turn * turn; // of squared directions
        entries.emplace_back(s.a, s.a, 1.0);
        entries.emplace_back(s.b, s.b, 1.0);
        entries.emplace_back(s.b, s.a, -twice);
        entries.emplace_back(s.a, s.b, -std::conj(twice));
        length += (mesh.points[s.a] - mesh.points[s.b]).norm();
    }
    length /= static_cast<double>(std::max<std::size_t>(1, sides.size()));
    for (Eigen::Index i = 0; i < n; ++i) entries.emplace_back(i, i, 1e-9); // points of no triangle
    for (const auto& [i, z] : fixed) {
        const double firm = 100.0 * z.second / length;
        entries.emplace_back(i, i, firm);
        right[i] += firm * z.first / z.second;
    }
    Sparse m(n, n);
    m.setFromTriplets(entries.begin(), entries.end());
    Eigen::SimplicialLDLT<Sparse> solver(m);
    if (solver.info() != Eigen::Success) return fail("the strokes cannot be spread over these faces", "Pattern", "Draw others");
    const Eigen::VectorXcd z = solver.solve(right);
    std::vector<Vec3> out(mesh.points.size());
    for (std::size_t i = 0; i < out.size(); ++i) {
        const Complex one = z[static_cast<Eigen::Index>(i)];
        out[i] = tangents.meant(i, std::abs(one) > 1e-12 ? std::sqrt(one / std::abs(one)) : Complex(1.0, 0.0));
    }
    constexpr double kFew = 0.002;
    if (pointedAlike(mesh, tangents, sides, out) > kFew)
        return fail("the strokes turn against each other: rows along all of them would have to end or meet in between", "Pattern",
                    "Draw strokes that can be followed without a break, or cut the faces in two operations");
    return out;
}

Result<std::vector<double>> risingAcross(const FieldMesh& mesh, const std::vector<Vec3>& directions) {
    using Sparse = Eigen::SparseMatrix<double>;
    const auto n = static_cast<Eigen::Index>(mesh.points.size());
    std::vector<Eigen::Triplet<double>> entries;
    Eigen::VectorXd right = Eigen::VectorXd::Zero(n);
    double whole = 0.0;
    for (const auto& t : mesh.triangles) {
        const Vec3 &a = mesh.points[t[0]], &b = mesh.points[t[1]], &c = mesh.points[t[2]];
        const Vec3 twice = (b - a).cross(c - a);
        const double area = 0.5 * twice.norm();
        if (area < 1e-14) continue;
        const Vec3 up = twice.normalized();
        // Of the three corners, turned into the triangle's plane.
        Vec3 along = Vec3::Zero();
        for (const auto i : t) along += rejected(directions[i], up);
        if (along.norm() < 1e-9) continue;
        const Vec3 wish = up.cross(along.normalized());
        const std::array<Vec3, 3> slope{up.cross(c - b) / (2.0 * area), up.cross(a - c) / (2.0 * area), up.cross(b - a) / (2.0 * area)};
        for (std::size_t i = 0; i < 3; ++i) {
            right[t[i]] += area * slope[i].dot(wish);
            for (std::size_t j = 0; j < 3; ++j) entries.emplace_back(t[i], t[j], area * slope[i].dot(slope[j]));
        }
        whole += area;
    }
    // Only differences are given: a hair holds it in place, and points of no triangle.
    for (Eigen::Index i = 0; i < n; ++i) entries.emplace_back(i, i, 1e-10 * std::max(1.0, whole / static_cast<double>(std::max<Eigen::Index>(1, n))));
    Sparse m(n, n);
    m.setFromTriplets(entries.begin(), entries.end());
    Eigen::SimplicialLDLT<Sparse> solver(m);
    if (solver.info() != Eigen::Success) return fail("no field runs across the strokes on these faces", "Pattern", "Draw others");
    const Eigen::VectorXd u = solver.solve(right);
    return std::vector<double>(u.data(), u.data() + n);
}

OffStrokes offStrokes(const FieldMesh& mesh, const std::vector<double>& field, const std::vector<Polyline>& strokes) {
    std::vector<std::pair<double, Vec3>> off;
    for (const StrokePlace& s : placesOf(mesh, strokes)) {
        const auto& t = mesh.triangles[s.triangle];
        const Vec3 &a = mesh.points[t[0]], &b = mesh.points[t[1]], &c = mesh.points[t[2]];
        const Vec3 level = field[t[0]] * (c - b) + field[t[1]] * (a - c) + field[t[2]] * (b - a); // along the level lines
        if (level.norm() < 1e-12) continue;
        const double angle = angleBetween(level, s.along);
        off.emplace_back(std::min(angle, kPi - angle), s.point);
    }
    if (off.empty()) return {};
    std::sort(off.begin(), off.end(), [](const auto& x, const auto& y) { return x.first < y.first; });
    return {off[off.size() * 19 / 20].first, off.back().second};
}

} // namespace gyre
