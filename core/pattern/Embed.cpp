#include "pattern/Embed.h"
#include "base/Index.h"
#include "pattern/Field.h"
#include <algorithm>
#include <fmt/format.h>
#include <unordered_map>

namespace gyre {
namespace {

using Point = std::uint32_t;
using Triangle = std::uint32_t;

/// Where on a triangle the nearest place to a point is: shares of its corners.
std::array<double, 3> nearestOn(const std::array<Vec3, 3>& t, const Vec3& p) {
    const Vec3 n = (t[1] - t[0]).cross(t[2] - t[0]);
    const double whole = std::max(n.squaredNorm(), 1e-30);
    const double v = (p - t[0]).cross(t[2] - t[0]).dot(n) / whole, w = (t[1] - t[0]).cross(p - t[0]).dot(n) / whole;
    if (v >= 0.0 && w >= 0.0 && v + w <= 1.0) return {1.0 - v - w, v, w};
    std::array<double, 3> best{1.0, 0.0, 0.0};
    double least = 1e300;
    for (std::size_t k = 0; k < 3; ++k) {
        const Vec3 &a = t[k], &b = t[(k + 1) % 3];
        const double s = std::clamp((p - a).dot(b - a) / std::max((b - a).squaredNorm(), 1e-30), 0.0, 1.0);
        if (const double d = (a + s * (b - a) - p).squaredNorm(); d < least) {
            least = d;
            best = {0.0, 0.0, 0.0};
            best[k] = 1.0 - s;
            best[(k + 1) % 3] = s;
        }
    }
    return best;
}

class Embedding {
public:
    Embedding(FieldMesh& mesh, const Part& part) : m_mesh(mesh), m_part(part), m_tree(treeOf(mesh)), m_around(mesh.points.size()), m_fixed(mesh.points.size(), 0) {
        for (Triangle t = 0; t < mesh.triangles.size(); ++t) {
            for (const Point p : mesh.triangles[t]) m_around[p].push_back(t);
            m_pieces.push_back({t});
            m_origin.push_back(t);
        }
        for (std::size_t e = 0; e < mesh.edgeLine.size(); ++e)
            for (std::size_t i = 0; i < mesh.edgeLine[e].size(); ++i) {
                m_fixed[mesh.edgeLine[e][i]] = 1;
                if (i > 0) m_edges[pairKey(mesh.edgeLine[e][i - 1], mesh.edgeLine[e][i])].push_back(e);
            }
        for (const auto side : borderOf(mesh)) // where faces end without an edge of the part
            for (const Point p : {static_cast<Point>(side >> 32), static_cast<Point>(side & 0xffffffffU)}) m_fixed[p] = 1;
    }

    Result<std::vector<Point>> embed(const RawLine& line) {
        std::vector<Point> points;
        for (const RowSample& s : thinned(line)) {
            const Point p = place(s);
            m_fixed[p] = 1;
            if (points.empty() || points.back() != p) points.push_back(p);
        }
        if (line.closed && points.size() > 2 && points.front() != points.back()) points.push_back(points.front());
        std::vector<Point> out;
        for (std::size_t i = 0; i < points.size(); ++i) {
            if (i == 0) {
                out.push_back(points[0]);
                continue;
            }
            if (!walk(points[i - 1], points[i], out)) {
                const Vec3& at = m_mesh.points[points[i - 1]];
                return fail(fmt::format("the curve cannot be followed along the faces near {:.2f} {:.2f} {:.2f}", at.x(), at.y(), at.z()), "Pattern",
                            "Draw it smoother, or away from the faces' borders");
            }
        }
        return out;
    }

    /// As it runs along sides once all lines are laid: where one crosses it, or it crosses itself, its sides were divided.
    [[nodiscard]] std::vector<Point> asLaid(const std::vector<Point>& line) const {
        std::vector<Point> out{line.front()};
        for (std::size_t i = 1; i < line.size(); ++i) {
            std::vector<Point> ahead{line[i]}; // the nearest last
            while (!ahead.empty()) {
                const auto divided = m_divided.find(pairKey(out.back(), ahead.back()));
                if (divided != m_divided.end()) {
                    ahead.push_back(divided->second);
                    continue;
                }
                out.push_back(ahead.back());
                ahead.pop_back();
            }
        }
        return out;
    }

private:
    [[nodiscard]] std::array<Vec3, 3> corners(Triangle t) const {
        const auto& ids = m_mesh.triangles[t];
        return {m_mesh.points[ids[0]], m_mesh.points[ids[1]], m_mesh.points[ids[2]]};
    }
    [[nodiscard]] Vec3 normal(Triangle t) const {
        const auto c = corners(t);
        return (c[1] - c[0]).cross(c[2] - c[0]);
    }
    [[nodiscard]] std::size_t cornerOf(Triangle t, Point p) const {
        const auto& ids = m_mesh.triangles[t];
        return ids[0] == p ? 0 : ids[1] == p ? 1 : 2;
    }

    // As many points as the way bends, and no two nearer to each other than a good part of the triangles there; where the face changes one stays.
    [[nodiscard]] std::vector<RowSample> thinned(const RawLine& line) const {
        constexpr double kBend = 0.001; // mm
        const auto& s = line.samples;
        std::vector<RowSample> out;
        std::size_t from = 0;
        const auto reaches = [&](std::size_t to) {
            for (std::size_t k = from + 1; k < to; ++k)
                if (s[k].face != s[from].face || distanceToSegment(s[k].point, s[from].point, s[to].point) > kBend) return false;
            return (s[to].point - s[from].point).norm() < 1.0;
        };
        out.push_back(s.front());
        while (from + 1 < s.size()) {
            std::size_t to = from + 1;
            while (to + 1 < s.size() && reaches(to + 1)) ++to;
            from = to;
            out.push_back(s[to]);
        }
        return out;
    }

    /// The piece of the mesh that is nearest: of what the nearest triangle has become, and on from there.
    [[nodiscard]] Triangle nearest(const Vec3& p, std::array<double, 3>& shares) const {
        const Triangle origin = m_tree.closest(p).triangle;
        Triangle best = origin;
        double least = 1e300;
        const auto look = [&](Triangle t) {
            const auto c = corners(t);
            const auto share = nearestOn(c, p);
            const double d = (share[0] * c[0] + share[1] * c[1] + share[2] * c[2] - p).norm();
            if (d >= least - 1e-12) return;
            least = d;
            best = t;
            shares = share;
        };
        for (const Triangle t : m_pieces[origin]) look(t);
        for (double before = 1e301; least < before;) {
            before = least;
            for (const Point corner : std::array<Point, 3>(m_mesh.triangles[best]))
                for (const Triangle t : m_around[corner]) look(t);
        }
        return best;
    }

    /// A point of the mesh at a place on it: one that may move there, or a new one.
    Point place(const RowSample& s) {
        std::array<double, 3> share{};
        const Triangle t = nearest(s.point, share);
        const auto ids = m_mesh.triangles[t];
        const double size = std::sqrt(normal(t).norm());
        constexpr double kSame = 0.002; // mm: a line that ends at a border may end so far beyond it
        for (const Point p : ids) {
            const double off = (m_mesh.points[p] - s.point).norm();
            if (off < kSame + 1e-3 * size || (off < 0.2 * size && move(p, s.point))) return p;
        }
        for (std::size_t k = 0; k < 3; ++k) {
            const Point a = ids[k], b = ids[(k + 1) % 3];
            const bool edge = m_edges.count(pairKey(a, b)) > 0 || beside(a, b).size() != 2;
            const double off = distanceToSegment(s.point, m_mesh.points[a], m_mesh.points[b]);
            if (off < (edge ? 1e-3 + 0.02 * size * size : 0.15 * size) && divides(a, b, s.point)) return divideSide(a, b, s.point);
        }
        return divideTriangle(t, s.point);
    }

    [[nodiscard]] std::vector<Triangle> beside(Point a, Point b) const {
        std::vector<Triangle> out;
        for (const Triangle t : m_around[a])
            if (const auto& ids = m_mesh.triangles[t]; ids[0] == b || ids[1] == b || ids[2] == b) out.push_back(t);
        return out;
    }

    /// Does every triangle beside the side leave two that face as it does, when the side goes over that place?
    [[nodiscard]] bool divides(Point a, Point b, const Vec3& at) const {
        for (const Triangle t : beside(a, b)) {
            const Vec3 whole = normal(t);
            for (const Point gone : {a, b}) {
                auto c = corners(t);
                c[cornerOf(t, gone)] = at;
                if ((c[1] - c[0]).cross(c[2] - c[0]).dot(whole) < 1e-3 * whole.squaredNorm()) return false;
            }
        }
        return true;
    }

    // Where no triangle around turns over or becomes a sliver.
    bool move(Point p, const Vec3& to) {
        if (m_fixed[p]) return false;
        const Vec3 from = m_mesh.points[p];
        std::vector<Vec3> before;
        for (const Triangle t : m_around[p]) before.push_back(normal(t));
        m_mesh.points[p] = to;
        for (std::size_t i = 0; i < before.size(); ++i) {
            const Vec3 now = normal(m_around[p][i]);
            if (now.dot(before[i]) > 0.8 * now.norm() * before[i].norm() && now.norm() > 0.3 * before[i].norm()) continue;
            m_mesh.points[p] = from;
            return false;
        }
        for (const Triangle t : m_around[p]) setParameters(t, cornerOf(t, p));
        return true;
    }
    void setParameters(Triangle t, std::size_t corner) {
        if (m_mesh.faces[t] < 0) return;
        Vec2& uv = m_mesh.uv[t][corner];
        const SurfacePoint s = m_part.project(m_mesh.faces[t], m_mesh.points[m_mesh.triangles[t][corner]], uv.x(), uv.y());
        uv = Vec2(s.u, s.v);
    }

    Point addPoint(const Vec3& at) {
        m_mesh.points.push_back(at);
        m_around.emplace_back();
        m_fixed.push_back(0);
        return static_cast<Point>(m_mesh.points.size() - 1);
    }
    Triangle addTriangle(Triangle of, const std::array<Point, 3>& ids, const std::array<Vec2, 3>& uv) {
        const auto t = static_cast<Triangle>(m_mesh.triangles.size());
        m_mesh.triangles.push_back(ids);
        m_mesh.uv.push_back(uv);
        m_mesh.faces.push_back(m_mesh.faces[of]);
        m_origin.push_back(m_origin[of]);
        m_pieces[m_origin[of]].push_back(t);
        for (const Point p : ids) m_around[p].push_back(t);
        return t;
    }

    Point divideTriangle(Triangle t, const Vec3& at) {
        const auto ids = m_mesh.triangles[t];
        const auto uv = m_mesh.uv[t];
        const Point p = addPoint(at);
        const Vec2 middle = (uv[0] + uv[1] + uv[2]) / 3.0;
        const Triangle second = addTriangle(t, {p, ids[1], ids[2]}, {middle, uv[1], uv[2]}), third = addTriangle(t, {p, ids[2], ids[0]}, {middle, uv[2], uv[0]});
        std::erase(m_around[ids[2]], t);
        m_mesh.triangles[t] = {p, ids[0], ids[1]};
        m_mesh.uv[t] = {middle, uv[0], uv[1]};
        m_around[p].push_back(t);
        for (const Triangle each : {t, second, third}) setParameters(each, 0);
        return p;
    }

    Point divideSide(Point a, Point b, const Vec3& at) {
        const auto both = beside(a, b);
        const double along = std::clamp((at - m_mesh.points[a]).dot(m_mesh.points[b] - m_mesh.points[a]) / (m_mesh.points[b] - m_mesh.points[a]).squaredNorm(), 0.0, 1.0);
        const Point p = addPoint(at);
        for (const Triangle t : both) {
            const std::size_t ka = cornerOf(t, a), kb = cornerOf(t, b);
            auto ids = m_mesh.triangles[t];
            auto uv = m_mesh.uv[t];
            const Vec2 parameters = (1.0 - along) * uv[ka] + along * uv[kb];
            m_mesh.triangles[t][kb] = p; // keeps a
            m_mesh.uv[t][kb] = parameters;
            std::erase(m_around[b], t);
            m_around[p].push_back(t);
            setParameters(t, kb);
            ids[ka] = p; // keeps b
            uv[ka] = parameters;
            setParameters(addTriangle(t, ids, uv), ka);
        }
        m_divided[pairKey(a, b)] = p;
        divideEdge(a, b, p, both.size() != 2);
        return p;
    }
    // Edges of the part that run along the side go over the new point.
    void divideEdge(Point a, Point b, Point p, bool border) {
        if (border) m_fixed[p] = 1;
        const auto it = m_edges.find(pairKey(a, b));
        if (it == m_edges.end()) return;
        const std::vector<std::size_t> edges = it->second;
        m_edges.erase(it);
        m_fixed[p] = 1;
        for (const std::size_t e : edges) {
            auto& line = m_mesh.edgeLine[e];
            for (std::size_t i = 1; i < line.size(); ++i)
                if (pairKey(line[i - 1], line[i]) == pairKey(a, b)) {
                    line.insert(line.begin() + static_cast<std::ptrdiff_t>(i), p);
                    break;
                }
            m_edges[pairKey(a, p)].push_back(e);
            m_edges[pairKey(p, b)].push_back(e);
        }
    }

    /// Along sides from one point to another, made where there are none. @return false where the triangles lead elsewhere
    bool walk(Point from, Point to, std::vector<Point>& out) {
        constexpr int kMost = 1000;
        Point at = from;
        for (int step = 0; step < kMost; ++step) {
            if (!beside(at, to).empty()) {
                out.push_back(to);
                return true;
            }
            const auto next = stepTowards(at, to);
            if (!next) return false;
            at = *next;
            m_fixed[at] = 1;
            out.push_back(at);
        }
        return false;
    }

    /// Over the triangle at a point that the way enters, to a point on its far side.
    std::optional<Point> stepTowards(Point at, Point to) {
        const Vec3 here = m_mesh.points[at], ahead = m_mesh.points[to] - here;
        Vec3 up = Vec3::Zero();
        for (const Point p : {at, to})
            for (const Triangle t : m_around[p]) up += normal(t).normalized();
        const Vec3 across = ahead.cross(up).normalized(), along = ahead.normalized();
        const auto off = [&](Point p) { return across.dot(m_mesh.points[p] - here); };
        for (const Triangle t : std::vector<Triangle>(m_around[at])) {
            const std::size_t k = cornerOf(t, at);
            const Point a = m_mesh.triangles[t][(k + 1) % 3], b = m_mesh.triangles[t][(k + 2) % 3];
            const double size = std::sqrt(normal(t).norm());
            for (const Point p : {a, b}) {
                const double d = off(p), far = along.dot(m_mesh.points[p] - here);
                if (far <= 0.0 || std::abs(d) > 0.15 * size || std::abs(d) > 0.3 * far) continue;
                if (std::abs(d) < (m_fixed[p] ? 1e-3 * size : 1e-9) || move(p, footOf(t, m_mesh.points[p] - d * across))) return p;
            }
            const double da = off(a), db = off(b);
            if (da * db >= 0.0) continue;
            const Vec3 meets = m_mesh.points[a] + da / (da - db) * (m_mesh.points[b] - m_mesh.points[a]);
            if (along.dot(meets - here) <= 0.0) continue;
            return divideSide(a, b, footOf(t, meets));
        }
        return std::nullopt;
    }
    [[nodiscard]] Vec3 footOf(Triangle t, const Vec3& p) const {
        if (m_mesh.faces[t] < 0) return p;
        const Vec2& uv = m_mesh.uv[t][0];
        return m_part.project(m_mesh.faces[t], p, uv.x(), uv.y()).point;
    }

    FieldMesh& m_mesh;
    const Part& m_part;
    MeshTree m_tree; ///< of the triangles as they were
    std::vector<std::vector<Triangle>> m_around;
    std::vector<char> m_fixed; ///< on edges of the part, at borders, on lines
    std::unordered_map<std::uint64_t, std::vector<std::size_t>> m_edges;
    std::unordered_map<std::uint64_t, Point> m_divided; ///< sides that are no more, with the point on them
    std::vector<std::vector<Triangle>> m_pieces;        ///< what became of each triangle
    std::vector<Triangle> m_origin;
};

} // namespace

Result<std::vector<std::vector<std::uint32_t>>> embedLines(FieldMesh& mesh, const Part& part, const std::vector<RawLine>& lines) {
    Embedding all(mesh, part);
    std::vector<std::vector<std::uint32_t>> out;
    for (const RawLine& line : lines) {
        auto points = all.embed(line);
        if (!points) return tl::unexpected(points.error());
        out.push_back(std::move(*points));
    }
    for (auto& line : out) line = all.asLaid(line);
    return out;
}

} // namespace gyre
