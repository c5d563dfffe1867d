#include "geom/MeshSlice.h"
#include <algorithm>
#include <cstring>
#include <unordered_map>

namespace gyre {
namespace {

struct Key {
    double x, y;
    bool operator==(const Key& o) const { return x == o.x && y == o.y; }
};
struct KeyHash {
    std::size_t operator()(const Key& k) const {
        std::uint64_t a = 0, b = 0;
        std::memcpy(&a, &k.x, sizeof a);
        std::memcpy(&b, &k.y, sizeof b);
        return static_cast<std::size_t>(a * 0x9e3779b97f4a7c15ull ^ (b + (a << 7)));
    }
};

bool before(const Vec3& a, const Vec3& b) { return a.x() != b.x() ? a.x() < b.x() : a.y() != b.y() ? a.y() < b.y() : a.z() < b.z(); }

// The same bits from whichever triangle it is asked: ends in a fixed order.
Vec2 crossing(Vec3 a, Vec3 b, double h) {
    if (before(b, a)) std::swap(a, b);
    const double t = (h - a.z()) / (b.z() - a.z());
    return (a + t * (b - a)).head<2>();
}

} // namespace

std::vector<std::vector<Vec2>> sliceOf(const TriangleMesh& mesh, const Frame& frame, double height) {
    const Frame inverse = frame.inverse();
    std::vector<Vec3> points(mesh.points.size());
    for (std::size_t i = 0; i < points.size(); ++i) points[i] = inverse * mesh.points[i];
    // No corner lies exactly on the plane: it gives way by less than any tolerance.
    const double h = height + 1.234567e-7;
    std::unordered_map<Key, std::pair<Vec2, bool>, KeyHash> next; // start → end, used
    std::vector<Key> starts;
    for (const auto& t : mesh.triangles) {
        const Vec3 &a = points[t[0]], &b = points[t[1]], &c = points[t[2]];
        const bool up[3] = {a.z() > h, b.z() > h, c.z() > h};
        if (up[0] == up[1] && up[1] == up[2]) continue;
        const Vec3* p[3] = {&a, &b, &c};
        Vec2 from = Vec2::Zero(), to = Vec2::Zero();
        for (int k = 0; k < 3; ++k) {
            const Vec3 &u = *p[k], &v = *p[(k + 1) % 3];
            if (up[k] && !up[(k + 1) % 3]) from = crossing(u, v, h);
            if (!up[k] && up[(k + 1) % 3]) to = crossing(u, v, h);
        }
        if (from == to) continue;
        const Key key{from.x(), from.y()};
        if (next.emplace(key, std::pair(to, false)).second) starts.push_back(key);
    }
    std::vector<std::vector<Vec2>> loops;
    for (const Key& s : starts) {
        if (next[s].second) continue;
        std::vector<Vec2> loop;
        Key at = s;
        bool closed = false;
        for (;;) {
            const auto it = next.find(at);
            if (it == next.end() || it->second.second) break;
            it->second.second = true;
            loop.push_back(Vec2(at.x, at.y));
            at = {it->second.first.x(), it->second.first.y()};
            if (at == s) {
                closed = true;
                break;
            }
        }
        if (closed && loop.size() >= 3) loops.push_back(std::move(loop));
    }
    return loops;
}

} // namespace gyre
