#include "geom/Grown.h"
#include "base/Parallel.h"
#include <unordered_map>

namespace gyre {

namespace {

// Distances on a grid; what can be walked to from its border without coming nearer than the distance is outside. The surface
// between outside and the rest is taken from six tetrahedra a cell, which leave no doubt about their sides.
class Grower {
public:
    Grower(const TriangleMesh& mesh, const MeshTree& tree, double distance, int cells) : m_tree(tree), m_distance(distance) {
        const Box box = mesh.bounds();
        const Vec3 size = box.high - box.low + Vec3::Constant(2.0 * distance);
        m_h = size.maxCoeff() / std::max(8, cells);
        m_low = box.low - Vec3::Constant(distance + 1.5 * m_h);
        for (std::size_t k = 0; k < 3; ++k) m_n[k] = static_cast<std::size_t>(std::ceil(size[static_cast<int>(k)] / m_h)) + 4;
    }

    Result<TriangleMesh> run(const Progress* progress) {
        if (!measure(progress)) return cancelledError();
        closeCavities();
        for (std::size_t z = 0; z + 1 < m_n[2]; ++z)
            for (std::size_t y = 0; y + 1 < m_n[1]; ++y)
                for (std::size_t x = 0; x + 1 < m_n[0]; ++x) cell(x, y, z);
        if (m_out.triangles.empty()) return fail("nothing came of growing the body");
        place();
        return std::move(m_out);
    }

private:
    [[nodiscard]] std::size_t id(std::size_t x, std::size_t y, std::size_t z) const { return (z * m_n[1] + y) * m_n[0] + x; }
    [[nodiscard]] Vec3 at(std::size_t i) const {
        return m_low + m_h * Vec3(static_cast<double>(i % m_n[0]), static_cast<double>(i / m_n[0] % m_n[1]), static_cast<double>(i / m_n[0] / m_n[1]));
    }

    bool measure(const Progress* progress) {
        m_value.resize(m_n[0] * m_n[1] * m_n[2]);
        std::atomic<bool> cancelled{false};
        parallelFor(m_n[2], 1, [&](std::size_t z) {
            if (progress && progress->cancelled()) cancelled = true;
            if (cancelled) return;
            for (std::size_t y = 0; y < m_n[1]; ++y) measureRow(id(0, y, z));
        });
        return !cancelled;
    }

    void measureRow(std::size_t first) {
        for (std::size_t x = 0; x < m_n[0];) {
            const double d = m_tree.closest(at(first + x)).distance - m_distance;
            m_value[first + x] = static_cast<float>(d);
            // Far away the next grid points cannot be near the surface: their distance differs by no more than the step.
            std::size_t skip = 1;
            while (x + skip < m_n[0] && std::abs(d) - static_cast<double>(skip) * m_h > 2.0 * m_h) {
                m_value[first + x + skip] = static_cast<float>(d > 0.0 ? d - static_cast<double>(skip) * m_h : d + static_cast<double>(skip) * m_h);
                ++skip;
            }
            x += skip;
        }
    }

    /// Does the body's own surface lie between two neighbours? What is grown by less than a step of the grid would be stepped over.
    [[nodiscard]] bool walled(std::size_t a, std::size_t b) const {
        if (std::min(static_cast<double>(m_value[a]), static_cast<double>(m_value[b])) + m_distance > m_h) return false;
        return crosses(at(a), at(b));
    }
    /// A look that runs along an edge may slip through between two triangles; of three beside each other not all do.
    [[nodiscard]] bool crosses(const Vec3& a, const Vec3& b) const {
        const double length = (b - a).norm();
        if (length < 1e-12) return false;
        const Vec3 way = (b - a) / length, side = anyPerpendicular(way), other = way.cross(side);
        const double beside = 1e-4 * m_h;
        for (const Vec3& shift : {Vec3(Vec3::Zero()), Vec3(beside * side), Vec3(-0.7 * beside * side + 0.6 * beside * other)})
            if (m_tree.ray(a + shift, way, length).hit) return true;
        return false;
    }

    void closeCavities() {
        std::vector<char> outside(m_value.size(), 0);
        std::vector<std::size_t> open{0};
        outside[0] = 1;
        while (!open.empty()) {
            const std::size_t i = open.back();
            open.pop_back();
            const std::size_t x = i % m_n[0], y = i / m_n[0] % m_n[1], z = i / m_n[0] / m_n[1];
            const auto go = [&](bool inside, std::size_t to) {
                if (!inside || outside[to] || m_value[to] <= 0.0f || walled(i, to)) return;
                outside[to] = 1;
                open.push_back(to);
            };
            go(x > 0, i - 1);
            go(x + 1 < m_n[0], i + 1);
            go(y > 0, i - m_n[0]);
            go(y + 1 < m_n[1], i + m_n[0]);
            go(z > 0, i - m_n[0] * m_n[1]);
            go(z + 1 < m_n[2], i + m_n[0] * m_n[1]);
        }
        for (std::size_t i = 0; i < m_value.size(); ++i)
            if (!outside[i] && m_value[i] > 0.0f) m_value[i] = -m_value[i];
    }

    std::uint32_t crossing(std::size_t a, std::size_t b) {
        if (a > b) std::swap(a, b);
        const auto [it, fresh] = m_made.emplace((static_cast<std::uint64_t>(a) << 32) | b, static_cast<std::uint32_t>(m_out.points.size()));
        if (fresh) {
            const double t = std::clamp(static_cast<double>(m_value[a] / (m_value[a] - m_value[b])), 0.0, 1.0);
            m_out.points.push_back(at(a) + t * (at(b) - at(a)));
            m_ends.emplace_back(a, b);
        }
        return it->second;
    }

    void cell(std::size_t x, std::size_t y, std::size_t z) {
        static constexpr int kTetrahedra[6][4] = {{0, 5, 1, 6}, {0, 1, 2, 6}, {0, 2, 3, 6}, {0, 3, 7, 6}, {0, 7, 4, 6}, {0, 4, 5, 6}};
        const std::size_t c[8] = {id(x, y, z),     id(x + 1, y, z),     id(x + 1, y + 1, z),     id(x, y + 1, z),
                                  id(x, y, z + 1), id(x + 1, y, z + 1), id(x + 1, y + 1, z + 1), id(x, y + 1, z + 1)};
        int inside = 0;
        for (const auto i : c) inside += m_value[i] <= 0.0f;
        if (inside == 0 || inside == 8) return;
        for (const auto& t : kTetrahedra) tetrahedron({c[t[0]], c[t[1]], c[t[2]], c[t[3]]});
    }

    void tetrahedron(const std::array<std::size_t, 4>& corners) {
        std::vector<std::size_t> in, off;
        for (const std::size_t i : corners) (m_value[i] <= 0.0f ? in : off).push_back(i);
        if (in.empty() || off.empty()) return;
        const Vec3 outward = at(off[0]) - at(in[0]);
        if (in.size() == 1)
            add({crossing(in[0], off[0]), crossing(in[0], off[1]), crossing(in[0], off[2])}, outward);
        else if (in.size() == 3)
            add({crossing(in[0], off[0]), crossing(in[1], off[0]), crossing(in[2], off[0])}, outward);
        else {
            const auto a = crossing(in[0], off[0]), b = crossing(in[0], off[1]), d = crossing(in[1], off[1]), e = crossing(in[1], off[0]);
            add({a, b, d}, outward);
            add({a, d, e}, outward);
        }
    }

    /// Wound so that the outside is seen from outside.
    void add(const std::array<std::uint32_t, 3>& t, const Vec3& outward) {
        if (t[0] == t[1] || t[1] == t[2] || t[0] == t[2]) return;
        const Vec3 normal = (m_out.points[t[1]] - m_out.points[t[0]]).cross(m_out.points[t[2]] - m_out.points[t[0]]);
        m_out.triangles.push_back(normal.dot(outward) >= 0.0 ? t : std::array<std::uint32_t, 3>{t[0], t[2], t[1]});
    }

    /// Distances are all but straight between grid points: the place is found where a line through the last two would have it, and by halving
    /// where that stands still or where what counts is a surface in between. Either keeps each point on its own side.
    void place() {
        parallelFor(m_out.points.size(), 256, [&](std::size_t i) {
            Vec3 in = at(m_ends[i].first), off = at(m_ends[i].second);
            if (m_value[m_ends[i].first] > 0.0f) std::swap(in, off);
            double nearer = m_tree.closest(in).distance - m_distance;
            m_out.points[i] = nearer > 0.0 ? behindSurface(in, off) : atDistance(in, off, nearer);
        });
    }

    /// @param nearer  by how much `in` lies nearer than the distance, below 0
    [[nodiscard]] Vec3 atDistance(Vec3 in, Vec3 off, double nearer) const {
        const double exact = m_h / 4096.0;
        double further = m_tree.closest(off).distance - m_distance;
        for (int k = 0; k < 30 && (off - in).norm() > exact; ++k) {
            const double width = (off - in).norm(), share = further > nearer ? -nearer / (further - nearer) : 0.5;
            // Every third look halves; the others look a little beyond where it should be, so that both ends come near.
            const double aside = 0.4 * exact / width, t = k % 3 == 2 ? 0.5 : std::clamp(share < 0.5 ? share + aside : share - aside, 0.1 * exact / width, 1.0);
            const Vec3 middle = in + t * (off - in);
            const double d = m_tree.closest(middle).distance - m_distance;
            (d < 0.0 ? in : off) = middle;
            (d < 0.0 ? nearer : further) = d;
        }
        return 0.5 * (in + off);
    }

    /// What lies behind the body's surface, seen from outside, is within, however far from it.
    [[nodiscard]] Vec3 behindSurface(Vec3 in, Vec3 off) const {
        const Vec3 start = off;
        for (int k = 0; k < 12; ++k) {
            const Vec3 middle = 0.5 * (in + off);
            (m_tree.closest(middle, m_distance).distance < m_distance || crosses(start, middle) ? in : off) = middle;
        }
        return 0.5 * (in + off);
    }

    const MeshTree& m_tree;
    double m_distance, m_h = 0.0;
    Vec3 m_low = Vec3::Zero();
    std::array<std::size_t, 3> m_n{};
    std::vector<float> m_value; ///< distance less what it grows by; outside above 0
    TriangleMesh m_out;
    std::unordered_map<std::uint64_t, std::uint32_t> m_made;
    std::vector<std::pair<std::size_t, std::size_t>> m_ends; ///< the grid points that every point lies between
};

} // namespace

Result<TriangleMesh> grownMesh(const TriangleMesh& mesh, const MeshTree& tree, double distance, int cells, const Progress* progress) {
    if (!(distance > 0.0)) return fail("a body grows by more than 0");
    if (mesh.triangles.empty()) return fail("there is nothing to grow");
    return Grower(mesh, tree, distance, cells).run(progress);
}

namespace {

/// A polygon that runs to the left around its inside, cut into ears.
Result<std::vector<std::array<std::uint32_t, 3>>> ears(const std::vector<Vec2>& p) {
    std::vector<std::array<std::uint32_t, 3>> out;
    std::vector<std::uint32_t> left(p.size());
    for (std::uint32_t i = 0; i < left.size(); ++i) left[i] = i;
    const auto turn = [&](std::uint32_t a, std::uint32_t b, std::uint32_t c) { return (p[b] - p[a]).x() * (p[c] - p[b]).y() - (p[b] - p[a]).y() * (p[c] - p[b]).x(); };
    std::size_t at = 0, tries = 0;
    while (left.size() > 3) {
        const std::size_t k = left.size();
        const auto a = left[(at + k - 1) % k], b = left[at % k], c = left[(at + 1) % k];
        bool ear = turn(a, b, c) > 0.0;
        for (std::size_t i = 0; ear && i < k; ++i) {
            const auto q = left[i];
            if (q == a || q == b || q == c) continue;
            ear = !(turn(a, b, q) >= 0.0 && turn(b, c, q) >= 0.0 && turn(c, a, q) >= 0.0);
        }
        if (ear || tries > k) { // none left: what remains is flat, or the outline crosses itself
            if (!ear && turn(a, b, c) < -1e-9) return fail("the outline crosses itself");
            out.push_back({a, b, c});
            left.erase(left.begin() + static_cast<std::ptrdiff_t>(at % k));
            tries = 0;
        } else {
            ++at;
            ++tries;
        }
        at %= left.size();
    }
    out.push_back({left[0], left[1], left[2]});
    return out;
}

bool crossesItself(const std::vector<Vec2>& p) {
    const auto apart = [&](const Vec2& a, const Vec2& b, const Vec2& c) { return (b - a).x() * (c - a).y() - (b - a).y() * (c - a).x(); };
    for (std::size_t i = 0; i < p.size(); ++i)
        for (std::size_t k = i + 2; k < p.size(); ++k) {
            if (i == 0 && k + 1 == p.size()) continue; // neighbours
            const Vec2 &a = p[i], &b = p[i + 1], &c = p[k], &d = p[(k + 1) % p.size()];
            if (apart(a, b, c) * apart(a, b, d) < 0.0 && apart(c, d, a) * apart(c, d, b) < 0.0) return true;
        }
    return false;
}

} // namespace

// The outline as a polygon, its lids cut into ears.
Result<TriangleMesh> raisedOutline(const Curve& outline, int axis, double from, double to, double tolerance) {
    if (!outline.closed()) return fail("the outline is not closed", {}, "Join its curves into a closed one");
    if (!(to - from > 1e-6)) return fail("the outline is raised by nothing", {}, "Its upper end must lie above its lower one");
    Polyline line = outline.polyline(tolerance);
    line.pop_back();
    const int x = (axis + 1) % 3, y = (axis + 2) % 3;
    std::vector<Vec2> p;
    for (const Vec3& v : line)
        if (const Vec2 q(v[x], v[y]); p.empty() || (q - p.back()).norm() > 1e-7) p.push_back(q);
    if (p.size() > 2 && (p.front() - p.back()).norm() <= 1e-7) p.pop_back();
    constexpr std::size_t kMost = 20000;
    if (p.size() < 3 || p.size() > kMost) return fail(p.size() < 3 ? "seen along the axis the outline is a line" : "the outline has too many points");
    double area = 0.0;
    for (std::size_t i = 0; i < p.size(); ++i) area += 0.5 * (p[i].x() * p[(i + 1) % p.size()].y() - p[i].y() * p[(i + 1) % p.size()].x());
    if (std::abs(area) < 1e-9) return fail("seen along the axis the outline is a line");
    if (area < 0.0) std::reverse(p.begin(), p.end());
    if (crossesItself(p)) return fail("the outline crosses itself");
    TriangleMesh m;
    for (const double h : {from, to})
        for (const Vec2& q : p) {
            Vec3 v;
            v[axis] = h;
            v[x] = q.x();
            v[y] = q.y();
            m.points.push_back(v);
        }
    const auto n = static_cast<std::uint32_t>(p.size());
    for (std::uint32_t i = 0; i < n; ++i) {
        const auto k = (i + 1) % n;
        m.triangles.push_back({i, k, n + k});
        m.triangles.push_back({i, n + k, n + i});
    }
    const auto lid = ears(p);
    if (!lid) return tl::unexpected(lid.error());
    for (const auto& [a, b, c] : *lid) {
        m.triangles.push_back({n + a, n + b, n + c});
        m.triangles.push_back({a, c, b});
    }
    return m;
}

} // namespace gyre
