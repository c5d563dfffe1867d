#include "part/MeshPart.h"
#include "base/Index.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "geom/Thinned.h"
#include "geom/Winding.h"
#include <Eigen/Eigenvalues>
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>
#include <unordered_map>

namespace gyre {
namespace {

constexpr std::size_t kMostFaces = 4000;
constexpr std::uint32_t kNone = 0xffffffffu;

/// A side of triangles: one, two or more of them meet in it.
struct Side {
    std::uint32_t a = 0, b = 0; ///< in the direction of the first triangle
    std::uint32_t first = kNone, second = kNone;
    bool clean = true; ///< at most two triangles, wound alike
};

std::vector<Side> sidesOf(const TriangleMesh& mesh) {
    std::vector<std::pair<std::uint64_t, std::uint32_t>> halves; // key, triangle·3 + corner
    halves.reserve(3 * mesh.triangles.size());
    for (std::uint32_t t = 0; t < mesh.triangles.size(); ++t)
        for (std::uint32_t c = 0; c < 3; ++c) halves.emplace_back(pairKey(mesh.triangles[t][c], mesh.triangles[t][(c + 1) % 3]), 3 * t + c);
    std::sort(halves.begin(), halves.end());
    std::vector<Side> sides;
    for (std::size_t i = 0; i < halves.size();) {
        std::size_t end = i + 1;
        while (end < halves.size() && halves[end].first == halves[i].first) ++end;
        const auto t = halves[i].second / 3, c = halves[i].second % 3;
        Side s{mesh.triangles[t][c], mesh.triangles[t][(c + 1) % 3], t, kNone, end - i <= 2};
        if (end - i >= 2) {
            const auto u = halves[i + 1].second / 3, d = halves[i + 1].second % 3;
            s.second = u;
            s.clean = s.clean && mesh.triangles[u][d] == s.b;
        }
        sides.push_back(s);
        i = end;
    }
    return sides;
}

/// Triangles joined over all sides that bend less than `bend`; returns how many regions there are.
std::size_t colour(TriangleMesh& mesh, const std::vector<Side>& sides, const std::vector<Vec3>& normals, double bend) {
    std::vector<std::uint32_t> up(mesh.triangles.size());
    for (std::uint32_t i = 0; i < up.size(); ++i) up[i] = i;
    const auto root = [&](std::uint32_t i) {
        while (up[i] != i) i = up[i] = up[up[i]];
        return i;
    };
    const double least = std::cos(bend);
    for (const Side& s : sides)
        if (s.clean && s.second != kNone && normals[s.first].dot(normals[s.second]) >= least) {
            const auto a = root(s.first), b = root(s.second);
            up[std::max(a, b)] = std::min(a, b);
        }
    // Numbered in the order of their first triangle: the same file gives the same faces.
    std::unordered_map<std::uint32_t, int> number;
    mesh.faces.resize(mesh.triangles.size());
    for (std::uint32_t t = 0; t < up.size(); ++t) mesh.faces[t] = number.emplace(root(t), static_cast<int>(number.size())).first->second;
    return number.size();
}

/// The lines between regions, cut where three of them meet, where the neighbours change and where they turn sharply.
class Seams {
public:
    Seams(const TriangleMesh& mesh, const std::vector<Side>& sides) : m_mesh(mesh) {
        for (std::uint32_t i = 0; i < sides.size(); ++i) {
            const Side& s = sides[i];
            const int f = mesh.faces[s.first], g = s.second == kNone ? -1 : mesh.faces[s.second];
            if (f == g) continue;
            m_lines.push_back({s, {f, g}});
            for (const auto p : {s.a, s.b}) m_at[p].push_back(static_cast<std::uint32_t>(m_lines.size() - 1));
        }
    }

    struct Chain {
        std::vector<std::uint32_t> points, sides;
        std::array<int, 2> faces;
    };
    std::vector<Chain> chains() {
        std::vector<Chain> out;
        std::vector<char> used(m_lines.size(), 0);
        const auto walk = [&](std::uint32_t line, std::uint32_t from) {
            Chain c;
            c.faces = m_lines[line].faces;
            c.points.push_back(from);
            while (!used[line]) {
                used[line] = 1;
                c.sides.push_back(line);
                const Side& s = m_lines[line].side;
                const auto to = s.a == c.points.back() ? s.b : s.a;
                c.points.push_back(to);
                if (isEnd(to)) break;
                const auto& around = m_at[to];
                line = around[0] == line ? around[1] : around[0];
            }
            out.push_back(std::move(c));
        };
        for (std::uint32_t i = 0; i < m_lines.size(); ++i) // those with ends first, then what is left are closed rings
            for (const auto p : {m_lines[i].side.a, m_lines[i].side.b})
                if (!used[i] && isEnd(p)) walk(i, p);
        for (std::uint32_t i = 0; i < m_lines.size(); ++i)
            if (!used[i]) walk(i, m_lines[i].side.a);
        return out;
    }
    [[nodiscard]] const Side& side(std::uint32_t line) const { return m_lines[line].side; }

private:
    struct Line {
        Side side;
        std::array<int, 2> faces;
    };
    bool isEnd(std::uint32_t point) const {
        const auto& around = m_at.at(point);
        if (around.size() != 2) return true;
        const Line &a = m_lines[around[0]], &b = m_lines[around[1]];
        if (std::minmax(a.faces[0], a.faces[1]) != std::minmax(b.faces[0], b.faces[1])) return true;
        const auto away = [&](const Line& l) { return Vec3(m_mesh.points[l.side.a == point ? l.side.b : l.side.a] - m_mesh.points[point]); };
        return angleBetween(away(a), -away(b)) > radians(50.0);
    }
    const TriangleMesh& m_mesh;
    std::vector<Line> m_lines;
    std::unordered_map<std::uint32_t, std::vector<std::uint32_t>> m_at;
};

/// Plane or cylinder, when the triangles are one to a thousandth of its size.
void recognise(FaceInfo& info, const TriangleMesh& local, const std::vector<Vec3>& flat) {
    Vec3 sum = Vec3::Zero();
    for (const Vec3& n : flat) sum += n; // by area
    if (sum.norm() > 0.0) {
        const Vec3 n = sum.normalized();
        double low = 1e300, high = -1e300;
        for (const Vec3& p : local.points) {
            low = std::min(low, n.dot(p));
            high = std::max(high, n.dot(p));
        }
        if (high - low < 1e-5 * std::max(1.0, info.bounds.diagonal())) {
            info.kind = SurfaceKind::Plane;
            return;
        }
    }
    // The normals of a cylinder lie in a plane: its axis is the direction they have least of.
    Eigen::Matrix3d spread = Eigen::Matrix3d::Zero();
    double whole = 0.0;
    for (const Vec3& n : flat) {
        const double area = n.norm();
        if (area <= 0.0) continue;
        spread += n * n.transpose() / area;
        whole += area;
    }
    const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> solver(spread / std::max(whole, 1e-300));
    if (solver.eigenvalues()[0] > 1e-6 || solver.eigenvalues()[1] < 1e-3) return;
    const Vec3 axis = solver.eigenvectors().col(0), x = anyPerpendicular(axis), y = axis.cross(x);
    Eigen::Matrix3d normal = Eigen::Matrix3d::Zero();
    Vec3 right = Vec3::Zero();
    const Vec3 origin = info.bounds.centre();
    for (const Vec3& p : local.points) { // a circle through the points, seen along the axis: u² + v² = 2au + 2bv + c
        const Vec3 q(x.dot(p - origin), y.dot(p - origin), 1.0);
        normal += q * q.transpose();
        right += q * (q.x() * q.x() + q.y() * q.y());
    }
    const Vec3 solution = normal.ldlt().solve(right);
    const double a = 0.5 * solution.x(), b = 0.5 * solution.y(), r = std::sqrt(std::max(0.0, solution.z() + a * a + b * b));
    if (!(r > 1e-6) || r > 1e5) return;
    for (const Vec3& p : local.points)
        if (std::abs(std::hypot(x.dot(p - origin) - a, y.dot(p - origin) - b) - r) > 1e-3 * r) return;
    info.kind = SurfaceKind::Cylinder;
    info.radius = r;
    info.axis = axis;
    info.axisPoint = origin + a * x + b * y;
}

/// The triangles of every region with points of their own and smooth normals.
void fillSurfaces(Part::Kernel& k, const std::vector<Vec3>& flat) {
    std::vector<std::vector<std::uint32_t>> members(k.faces.size());
    for (std::uint32_t t = 0; t < k.source.triangles.size(); ++t) members[index(k.source.faces[t])].push_back(t);
    parallelFor(k.faces.size(), 1, [&](std::size_t f) {
        auto& local = k.surfaces[f].local;
        FaceInfo& info = k.faces[f];
        std::unordered_map<std::uint32_t, std::uint32_t> number;
        std::vector<Vec3> normals;
        for (const auto t : members[f]) {
            std::array<std::uint32_t, 3> ids{};
            for (std::size_t c = 0; c < 3; ++c) {
                const auto p = k.source.triangles[t][c];
                const auto [it, fresh] = number.emplace(p, static_cast<std::uint32_t>(local.points.size()));
                if (fresh) {
                    local.points.push_back(k.source.points[p]);
                    local.normals.push_back(Vec3::Zero());
                }
                ids[c] = it->second;
            }
            const Vec3 n = flat[t].normalized();
            for (std::size_t c = 0; c < 3; ++c) {
                const Vec3 &p = local.points[ids[c]], &q = local.points[ids[(c + 1) % 3]], &r = local.points[ids[(c + 2) % 3]];
                local.normals[ids[c]] += angleBetween(q - p, r - p) * n;
            }
            local.triangles.push_back(ids);
            normals.push_back(flat[t]);
            info.area += 0.5 * flat[t].norm();
        }
        for (Vec3& n : local.normals) n = n.norm() > 0.0 ? Vec3(n.normalized()) : Vec3(Vec3::UnitZ());
        local.faces.assign(local.triangles.size(), static_cast<int>(f));
        info.bounds = local.bounds();
        k.surfaces[f].tree = MeshTree(local);
        recognise(info, local, normals);
        const SurfacePoint middle = footOnMesh(k.surfaces[f], info.bounds.centre());
        info.centre = middle.point;
        info.normal = middle.normal;
    });
}

/// The loops of a face out of its edges' ends.
void linkLoops(Part::Kernel& k) {
    std::vector<std::vector<int>> edges(k.faces.size());
    for (std::size_t e = 0; e < k.edges.size(); ++e)
        for (const int f : k.edges[e].faces)
            if (f >= 0) edges[index(f)].push_back(static_cast<int>(e));
    for (std::size_t f = 0; f < k.faces.size(); ++f) {
        auto left = edges[f];
        std::vector<std::pair<double, std::vector<int>>> loops;
        while (!left.empty()) {
            std::vector<int> loop{left.back()};
            left.pop_back();
            double length = k.edges[index(loop[0])].length;
            auto end = k.edgePoints[index(loop[0])].back();
            for (auto next = left.begin(); next != left.end();) {
                const auto& points = k.edgePoints[index(*next)];
                if (points.front() != end && points.back() != end) {
                    ++next;
                    continue;
                }
                end = points.front() == end ? points.back() : points.front();
                length += k.edges[index(*next)].length;
                loop.push_back(*next);
                left.erase(next);
                next = left.begin();
            }
            loops.emplace_back(-length, std::move(loop));
        }
        std::sort(loops.begin(), loops.end()); // the longest is taken for the outer one
        for (auto& [length, loop] : loops) k.faces[f].loops.push_back(std::move(loop));
    }
}

void fillEdges(Part::Kernel& k, const std::vector<Side>& sides, const std::vector<Vec3>& flat) {
    Seams seams(k.source, sides);
    for (const Seams::Chain& c : seams.chains()) {
        EdgeInfo e;
        Polyline line;
        for (const auto p : c.points) line.push_back(k.source.points[p]);
        const std::vector<double> lengths = arcLengths(line);
        e.length = lengths.back();
        e.start = line.front();
        e.end = line.back();
        e.middle = pointAtLength(line, lengths, 0.5 * e.length);
        e.faces = c.faces;
        e.closed = c.points.size() > 3 && c.points.front() == c.points.back();
        const bool straight =
            !e.closed && std::all_of(line.begin(), line.end(), [&](const Vec3& p) { return distanceToSegment(p, e.start, e.end) < 1e-6 * (1.0 + e.length); });
        e.kind = straight ? CurveKind::Line : CurveKind::FreeForm;
        const Side& middle = seams.side(c.sides[c.sides.size() / 2]);
        if (middle.second != kNone) {
            const double angle = angleBetween(flat[middle.first], flat[middle.second]);
            const auto& t = k.source.triangles[middle.second];
            const auto other = *std::find_if(t.begin(), t.end(), [&](auto p) { return p != middle.a && p != middle.b; });
            e.angle = flat[middle.first].dot(k.source.points[other] - k.source.points[middle.a]) < 0.0 ? angle : -angle;
        }
        k.edges.push_back(e);
        k.edgeLines.push_back(std::move(line));
        k.edgePoints.push_back(c.points);
        k.edgeLengths.push_back(lengths);
    }
}

} // namespace

Vec3 cornerWeights(const TriangleMesh& mesh, const ClosestPoint& at) {
    const Vec3 a = mesh.corner(at.triangle, 0), b = mesh.corner(at.triangle, 1), c = mesh.corner(at.triangle, 2), n = (b - a).cross(c - a);
    const double area = std::max(n.squaredNorm(), 1e-300);
    const double wb = (at.point - a).cross(c - a).dot(n) / area, wc = (b - a).cross(at.point - a).dot(n) / area;
    return {1.0 - wb - wc, wb, wc};
}

SurfacePoint footOnMesh(const Part::Kernel::Surface& s, const Vec3& p) {
    const ClosestPoint near = s.tree.closest(p);
    const auto& t = s.local.triangles[near.triangle];
    const Vec3 w = cornerWeights(s.local, near), blend = w[0] * s.local.normals[t[0]] + w[1] * s.local.normals[t[1]] + w[2] * s.local.normals[t[2]];
    return {near.point, blend.norm() > 1e-9 ? Vec3(blend.normalized()) : s.local.normals[t[0]], 0.0, 0.0};
}

Status fillFromMesh(Part::Kernel& k, TriangleMesh mesh, const std::string& place, const Progress& progress) {
    if (mesh.triangles.empty()) return fail("the mesh has no triangle with an area", place);
    k.scan = true;
    k.source = std::move(mesh);
    std::vector<Vec3> flat(k.source.triangles.size()), unit(flat.size());
    for (std::size_t t = 0; t < flat.size(); ++t) {
        flat[t] = (k.source.corner(t, 1) - k.source.corner(t, 0)).cross(k.source.corner(t, 2) - k.source.corner(t, 0));
        unit[t] = flat[t].normalized();
    }
    const std::vector<Side> sides = sidesOf(k.source);
    if (progress.cancelled()) return cancelledError();
    // A scan trembles: when small bends would make thousands of faces, only sharper ones count.
    std::size_t count = 0;
    for (const double bend : {30.0, 60.0, 181.0})
        if ((count = colour(k.source, sides, unit, radians(bend))) <= kMostFaces) break;
    if (count > kMostFaces)
        return fail(fmt::format("the mesh falls into {} separate pieces", count), place, "Remove loose triangles from the mesh, or open it as a reference");
    k.faces.resize(count);
    k.surfaces.resize(count);
    fillSurfaces(k, flat);
    if (progress.cancelled()) return cancelledError();
    fillEdges(k, sides, flat);
    linkLoops(k);
    for (const auto& s : k.surfaces) k.mesh.append(s.local);
    // A scan may have far more triangles than there are pixels.
    constexpr std::size_t kDrawnAsTheyAre = 200'000, kDrawn = 120'000;
    if (k.mesh.triangles.size() <= kDrawnAsTheyAre) {
        k.drawing = k.mesh;
    } else {
        double area = 0.0;
        for (const FaceInfo& f : k.faces) area += f.area;
        std::vector<TriangleMesh> fewer(k.surfaces.size());
        parallelFor(fewer.size(), 1, [&](std::size_t f) { fewer[f] = thinned(k.surfaces[f].local, std::sqrt(2.0 * area / kDrawn)); });
        for (const TriangleMesh& m : fewer) k.drawing.append(m);
    }
    k.tree = MeshTree(k.mesh);
    return {};
}

Status fillFromFile(Part::Kernel& k, MeshRead read, const MeshTaken& taken, const std::string& place, const Progress& progress) {
    for (Vec3& p : read.mesh.points) p *= taken.unit;
    const Wound wound = windOutward(read.mesh, taken.sheetsOver);
    k.sheets = wound.sheets > 0;
    const std::size_t all = read.mesh.triangles.size();
    if (read.welded > 0)
        k.remarks.push_back(fmt::format("{} corners that lay within {:.2g} mm of others were taken for one", read.welded, taken.unit * read.weldedWithin));
    if (wound.turned > 0 && !taken.sheetsOver)
        k.remarks.push_back(fmt::format("{} of {} triangles looked inwards or against their neighbours and were turned over", wound.turned, all));
    if (wound.twisted > 0)
        k.remarks.push_back(
            fmt::format("{} of {} triangles hang together so that no side of them is the outer one: where they are cut cannot be trusted", wound.twisted, all));
    return fillFromMesh(k, std::move(read.mesh), place, progress);
}

} // namespace gyre
