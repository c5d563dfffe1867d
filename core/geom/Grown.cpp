#include "geom/Grown.h"
#include "base/Parallel.h"
#include <unordered_map>

namespace gyre {

// Distances on a grid; what can be walked to from its border without coming nearer than the distance is outside. The surface
// between outside and the rest is taken from six tetrahedra a cell, which leave no doubt about their sides.
Result<TriangleMesh> grownMesh(const TriangleMesh& mesh, const MeshTree& tree, double distance, int cells, const Progress* progress) {
    if (!(distance > 0.0)) return fail("a body grows by more than 0");
    if (mesh.triangles.empty()) return fail("there is nothing to grow");
    const Box box = mesh.bounds();
    const Vec3 size = box.high - box.low + Vec3::Constant(2.0 * distance);
    const double h = size.maxCoeff() / std::max(8, cells);
    const Vec3 low = box.low - Vec3::Constant(distance + 1.5 * h);
    std::array<std::size_t, 3> n{};
    for (std::size_t k = 0; k < 3; ++k) n[k] = static_cast<std::size_t>(std::ceil(size[static_cast<int>(k)] / h)) + 4;
    const auto id = [&](std::size_t x, std::size_t y, std::size_t z) { return (z * n[1] + y) * n[0] + x; };
    const auto at = [&](std::size_t x, std::size_t y, std::size_t z) {
        return Vec3(low + h * Vec3(static_cast<double>(x), static_cast<double>(y), static_cast<double>(z)));
    };
    std::vector<float> value(n[0] * n[1] * n[2]);
    std::atomic<bool> cancelled{false};
    parallelFor(n[2], 1, [&](std::size_t z) {
        if (progress && progress->cancelled()) cancelled = true;
        if (cancelled) return;
        for (std::size_t y = 0; y < n[1]; ++y)
            for (std::size_t x = 0; x < n[0];) {
                const double d = tree.closest(at(x, y, z)).distance;
                value[id(x, y, z)] = static_cast<float>(d - distance);
                // Far away the next grid points cannot be near the surface: their distance differs by no more than the step.
                std::size_t skip = 1;
                while (x + skip < n[0] && std::abs(d - distance) - static_cast<double>(skip) * h > 2.0 * h) {
                    value[id(x + skip, y, z)] =
                        static_cast<float>(d > distance ? d - distance - static_cast<double>(skip) * h : d - distance + static_cast<double>(skip) * h);
                    ++skip;
                }
                x += skip;
            }
    });
    if (cancelled) return cancelledError();
    std::vector<char> outside(value.size(), 0);
    std::vector<std::size_t> open{0};
    outside[0] = 1;
    while (!open.empty()) {
        const std::size_t i = open.back();
        open.pop_back();
        const std::size_t x = i % n[0], y = i / n[0] % n[1], z = i / n[0] / n[1];
        const auto go = [&](bool inside, std::size_t to) {
            if (!inside || outside[to] || value[to] <= 0.0f) return;
            outside[to] = 1;
            open.push_back(to);
        };
        go(x > 0, i - 1);
        go(x + 1 < n[0], i + 1);
        go(y > 0, i - n[0]);
        go(y + 1 < n[1], i + n[0]);
        go(z > 0, i - n[0] * n[1]);
        go(z + 1 < n[2], i + n[0] * n[1]);
    }
    for (std::size_t i = 0; i < value.size(); ++i)
        if (!outside[i] && value[i] > 0.0f) value[i] = -value[i];

    TriangleMesh out;
    std::unordered_map<std::uint64_t, std::uint32_t> made;
    std::vector<std::pair<std::size_t, std::size_t>> ends; ///< the grid points that every point lies between
    const auto place = [&](std::size_t i) { return at(i % n[0], i / n[0] % n[1], i / n[0] / n[1]); };
    const auto crossing = [&](std::size_t a, std::size_t b) {
        if (a > b) std::swap(a, b);
        const auto [it, fresh] = made.emplace((static_cast<std::uint64_t>(a) << 32) | b, static_cast<std::uint32_t>(out.points.size()));
        if (fresh) {
            const double t = std::clamp(static_cast<double>(value[a] / (value[a] - value[b])), 0.0, 1.0);
            out.points.push_back(place(a) + t * (place(b) - place(a)));
            ends.emplace_back(a, b);
        }
        return it->second;
    };
    static constexpr int kTetrahedra[6][4] = {{0, 5, 1, 6}, {0, 1, 2, 6}, {0, 2, 3, 6}, {0, 3, 7, 6}, {0, 7, 4, 6}, {0, 4, 5, 6}};
    for (std::size_t z = 0; z + 1 < n[2]; ++z)
        for (std::size_t y = 0; y + 1 < n[1]; ++y)
            for (std::size_t x = 0; x + 1 < n[0]; ++x) {
                const std::size_t c[8] = {id(x, y, z),     id(x + 1, y, z),     id(x + 1, y + 1, z),     id(x, y + 1, z),
                                          id(x, y, z + 1), id(x + 1, y, z + 1), id(x + 1, y + 1, z + 1), id(x, y + 1, z + 1)};
                int inside = 0;
                for (const auto i : c) inside += value[i] <= 0.0f;
                if (inside == 0 || inside == 8) continue;
                for (const auto& t : kTetrahedra) {
                    std::vector<std::size_t> in, off;
                    for (const int k : t) (value[c[k]] <= 0.0f ? in : off).push_back(c[k]);
                    if (in.empty() || off.empty()) continue;
                    const auto add = [&](std::uint32_t a, std::uint32_t b, std::uint32_t d) {
                        if (a == b || b == d || a == d) return;
                        // Wound so that the outside is seen from outside.
                        const Vec3 normal = (out.points[b] - out.points[a]).cross(out.points[d] - out.points[a]);
                        const bool good = normal.dot(place(off[0]) - place(in[0])) >= 0.0;
                        out.triangles.push_back(good ? std::array<std::uint32_t, 3>{a, b, d} : std::array<std::uint32_t, 3>{a, d, b});
                    };
                    if (in.size() == 1)
                        add(crossing(in[0], off[0]), crossing(in[0], off[1]), crossing(in[0], off[2]));
                    else if (in.size() == 3)
                        add(crossing(in[0], off[0]), crossing(in[1], off[0]), crossing(in[2], off[0]));
                    else {
                        const auto a = crossing(in[0], off[0]), b = crossing(in[0], off[1]), d = crossing(in[1], off[1]), e = crossing(in[1], off[0]);
                        add(a, b, d);
                        add(a, d, e);
                    }
                }
            }
    if (out.triangles.empty()) return fail("nothing came of growing the body");
    // Distances are not straight between grid points: the place is found by halving, which keeps each point on its own side.
    parallelFor(out.points.size(), 256, [&](std::size_t i) {
        Vec3 in = place(ends[i].first), off = place(ends[i].second);
        if (value[ends[i].first] > 0.0f) std::swap(in, off);
        for (int k = 0; k < 12; ++k) {
            const Vec3 middle = 0.5 * (in + off);
            (tree.closest(middle).distance < distance ? in : off) = middle;
        }
        out.points[i] = 0.5 * (in + off);
    });
    return out;
}

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
    const auto apart = [&](const Vec2& a, const Vec2& b, const Vec2& c) { return (b - a).x() * (c - a).y() - (b - a).y() * (c - a).x(); };
    for (std::size_t i = 0; i < p.size(); ++i)
        for (std::size_t k = i + 2; k < p.size(); ++k) {
            if (i == 0 && k + 1 == p.size()) continue; // neighbours
            const Vec2 &a = p[i], &b = p[i + 1], &c = p[k], &d = p[(k + 1) % p.size()];
            if (apart(a, b, c) * apart(a, b, d) < 0.0 && apart(c, d, a) * apart(c, d, b) < 0.0) return fail("the outline crosses itself");
        }
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
    std::vector<std::uint32_t> left(n);
    for (std::uint32_t i = 0; i < n; ++i) left[i] = i;
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
            m.triangles.push_back({n + a, n + b, n + c});
            m.triangles.push_back({a, c, b});
            left.erase(left.begin() + static_cast<std::ptrdiff_t>(at % k));
            tries = 0;
        } else {
            ++at;
            ++tries;
        }
        at %= left.size();
    }
    m.triangles.push_back({n + left[0], n + left[1], n + left[2]});
    m.triangles.push_back({left[0], left[2], left[1]});
    return m;
}

} // namespace gyre
