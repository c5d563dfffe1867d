#include "pattern/Bridge.h"
#include "base/Index.h"
#include <algorithm>
#include <unordered_map>

namespace gyre {
namespace {

/// The borders of the mesh as closed lines of points, each in the direction of its triangles. Where borders touch, each takes the first way on.
std::vector<std::vector<std::uint32_t>> bordersOf(const FieldMesh& mesh) {
    struct Side {
        std::uint32_t low, high, from, to;
    };
    std::vector<Side> sides;
    sides.reserve(3 * mesh.triangles.size());
    for (const auto& t : mesh.triangles)
        for (std::size_t k = 0; k < 3; ++k) sides.push_back({std::min(t[k], t[(k + 1) % 3]), std::max(t[k], t[(k + 1) % 3]), t[k], t[(k + 1) % 3]});
    std::sort(sides.begin(), sides.end(), [](const Side& a, const Side& b) { return a.low != b.low ? a.low < b.low : a.high < b.high; });
    std::unordered_map<std::uint32_t, std::vector<std::uint32_t>> next;
    std::vector<std::uint32_t> starts;
    for (std::size_t i = 0; i < sides.size();) {
        std::size_t end = i + 1;
        while (end < sides.size() && sides[end].low == sides[i].low && sides[end].high == sides[i].high) ++end;
        if (end - i == 1) {
            next[sides[i].from].push_back(sides[i].to);
            starts.push_back(sides[i].from);
        }
        i = end;
    }
    std::sort(starts.begin(), starts.end());
    std::vector<std::vector<std::uint32_t>> out;
    for (const std::uint32_t start : starts) {
        std::vector<std::uint32_t> line;
        for (std::uint32_t at = start;;) {
            auto& ways = next[at];
            if (ways.empty()) break;
            line.push_back(at);
            at = ways.back();
            ways.pop_back();
            if (at == start) {
                out.push_back(std::move(line));
                break;
            }
        }
    }
    return out;
}

double around(const FieldMesh& mesh, const std::vector<std::uint32_t>& line) {
    double sum = 0.0;
    for (std::size_t i = 0; i < line.size(); ++i) sum += (mesh.points[line[i]] - mesh.points[line[(i + 1) % line.size()]]).norm();
    return sum;
}

/// Rings that shrink to the middle of the hole.
void close(FieldMesh& mesh, const std::vector<std::uint32_t>& line, double side) {
    const auto n = static_cast<std::uint32_t>(line.size());
    Vec3 middle = Vec3::Zero();
    for (const auto p : line) middle += mesh.points[p] / static_cast<double>(n);
    double reach = 0.0;
    for (const auto p : line) reach += (mesh.points[p] - middle).norm() / static_cast<double>(n);
    const int rings = std::clamp(static_cast<int>(std::lround(reach / side)), 1, 24);
    const auto add = [&](std::uint32_t a, std::uint32_t b, std::uint32_t c) {
        mesh.triangles.push_back({a, b, c});
        mesh.faces.push_back(-1);
        mesh.uv.push_back({Vec2::Zero(), Vec2::Zero(), Vec2::Zero()});
    };
    std::vector<std::uint32_t> outer = line;
    for (int r = 1; r < rings; ++r) {
        const double t = static_cast<double>(r) / rings;
        std::vector<std::uint32_t> inner(n);
        for (std::uint32_t i = 0; i < n; ++i) {
            inner[i] = static_cast<std::uint32_t>(mesh.points.size());
            const Vec3 p = (1.0 - t) * mesh.points[line[i]] + t * middle;
            mesh.points.push_back(p);
        }
        for (std::uint32_t i = 0; i < n; ++i) {
            const std::uint32_t k = (i + 1) % n;
            add(outer[k], outer[i], inner[i]);
            add(outer[k], inner[i], inner[k]);
        }
        outer = std::move(inner);
    }
    const auto top = static_cast<std::uint32_t>(mesh.points.size());
    mesh.points.push_back(middle);
    for (std::uint32_t i = 0; i < n; ++i) add(outer[(i + 1) % n], outer[i], top);
}

/// Turns sides between new triangles until each lies well (the angles that face it make no more than half a turn): the field's weights are then
/// all positive, however thin the rings are.
void flip(FieldMesh& mesh, std::size_t first) {
    const auto angleAt = [&](std::uint32_t at, std::uint32_t a, std::uint32_t b) {
        return angleBetween(mesh.points[a] - mesh.points[at], mesh.points[b] - mesh.points[at]);
    };
    constexpr int kMostRounds = 60;
    for (int round = 0; round < kMostRounds; ++round) {
        std::unordered_map<std::uint64_t, std::pair<std::size_t, std::size_t>> sides; // by its ends: the triangles, first and second
        constexpr std::size_t kNone = static_cast<std::size_t>(-1);
        std::vector<std::uint64_t> order;
        for (std::size_t t = first; t < mesh.triangles.size(); ++t)
            for (std::size_t k = 0; k < 3; ++k) {
                const auto [it, fresh] = sides.try_emplace(pairKey(mesh.triangles[t][k], mesh.triangles[t][(k + 1) % 3]), t, kNone);
                if (fresh)
                    order.push_back(it->first);
                else
                    it->second.second = t;
            }
        std::vector<char> touched(mesh.triangles.size() - first, 0);
        std::size_t flips = 0;
        for (const std::uint64_t side : order) {
            const auto [t, u] = sides[side];
            if (u == kNone || touched[t - first] || touched[u - first]) continue;
            auto &one = mesh.triangles[t], &other = mesh.triangles[u];
            std::size_t k = 0;
            while (k < 3 && pairKey(one[k], one[(k + 1) % 3]) != side) ++k;
            const std::uint32_t a = one[k], b = one[(k + 1) % 3], c = one[(k + 2) % 3];
            std::uint32_t d = other[0];
            for (const auto p : other)
                if (p != a && p != b) d = p;
            if (d == c || sides.count(pairKey(c, d)) || angleAt(c, a, b) + angleAt(d, a, b) <= 3.14159265358979 + 1e-9) continue;
            // Convex, so that the other diagonal lies inside.
            const Vec3 n = (mesh.points[b] - mesh.points[a]).cross(mesh.points[c] - mesh.points[a]);
            const auto turns = [&](std::uint32_t x, std::uint32_t y, std::uint32_t z) {
                return (mesh.points[y] - mesh.points[x]).cross(mesh.points[z] - mesh.points[x]).dot(n) > 0.0;
            };
            if (!turns(a, d, c) || !turns(d, b, c)) continue;
            one = {a, d, c};
            other = {d, b, c};
            touched[t - first] = touched[u - first] = 1;
            ++flips;
        }
        if (flips == 0) return;
    }
}

/// Do the faces go on over the border as they are beside it? The rim at the end of a wall, or the outer border of a face, is no hole: what would close
/// it stands across the faces, or looks the other way.
bool isHole(const FieldMesh& mesh, const std::vector<std::uint32_t>& line, const std::unordered_map<std::uint64_t, std::uint32_t>& triangleOf) {
    Vec3 cap = Vec3::Zero();
    for (std::size_t i = 0; i < line.size(); ++i) cap -= mesh.points[line[i]].cross(mesh.points[line[(i + 1) % line.size()]]);
    if (!(cap.norm() > 0.0)) return false;
    cap.normalize();
    double agree = 0.0, length = 0.0;
    for (std::size_t i = 0; i < line.size(); ++i) {
        const std::uint32_t a = line[i], b = line[(i + 1) % line.size()];
        const auto it = triangleOf.find((static_cast<std::uint64_t>(a) << 32) | b);
        if (it == triangleOf.end()) continue;
        const auto& t = mesh.triangles[it->second];
        const double side = (mesh.points[b] - mesh.points[a]).norm();
        agree += side * cap.dot((mesh.points[t[1]] - mesh.points[t[0]]).cross(mesh.points[t[2]] - mesh.points[t[0]]).normalized());
        length += side;
    }
    return agree > 0.5 * length;
}

} // namespace

std::size_t bridgeHoles(FieldMesh& mesh, const std::vector<std::uint32_t>& railPoints, double side) {
    std::vector<char> rail(mesh.points.size(), 0);
    for (const auto p : railPoints) rail[p] = 1;
    auto borders = bordersOf(mesh);
    const auto onRail = [&](const std::vector<std::uint32_t>& line) { return std::any_of(line.begin(), line.end(), [&](auto p) { return rail[p] != 0; }); };
    if (std::none_of(borders.begin(), borders.end(), onRail) && !borders.empty())
        borders.erase(std::max_element(borders.begin(), borders.end(), [&](const auto& a, const auto& b) { return around(mesh, a) < around(mesh, b); }));
    std::unordered_map<std::uint64_t, std::uint32_t> triangleOf; // by its sides, as it has them
    for (std::uint32_t t = 0; t < mesh.triangles.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k) triangleOf.emplace((static_cast<std::uint64_t>(mesh.triangles[t][k]) << 32) | mesh.triangles[t][(k + 1) % 3], t);
    std::size_t closed = 0;
    for (const auto& line : borders) {
        if (onRail(line) || line.size() < 3 || !isHole(mesh, line, triangleOf)) continue;
        const std::size_t first = mesh.triangles.size();
        close(mesh, line, side);
        flip(mesh, first);
        ++closed;
    }
    return closed;
}

} // namespace gyre
