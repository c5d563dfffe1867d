#include "pattern/Across.h"
#include "pattern/Cut.h"
#include <algorithm>
#include <map>
#include <set>

namespace gyre {
namespace {

using Side = std::pair<std::uint32_t, std::uint32_t>;
Side sideOf(std::uint32_t a, std::uint32_t b) { return {std::min(a, b), std::max(a, b)}; }

class MeshCutter {
public:
    MeshCutter(FieldMesh& mesh, const Part& part, double side) : m_mesh(mesh), m_part(part), m_side(side) {
        for (const auto& line : mesh.edgeLine) m_fixed.insert(line.begin(), line.end());
    }

    /// The plane across that a way lies in.
    struct Way {
        Vec3 from, along, up, across;
        double length;
        const Across* levels;
        [[nodiscard]] double levelAt(const Vec3& p) const {
            return levels->fromLevel + (levels->toLevel - levels->fromLevel) * std::clamp(along.dot(p - from) / length, 0.0, 1.0);
        }
        [[nodiscard]] double off(const Vec3& p) const { return across.dot(p - from); }
        [[nodiscard]] bool between(const Vec3& p) const {
            const double s = along.dot(p - from);
            return s > -1e-6 && s < length + 1e-6 && std::abs(up.dot(p - from)) < length; // not the far side of a body
        }
    };

    /// Points near the way come onto it.
    void takeNear(const Way& way, std::set<std::uint32_t>& on) {
        for (std::size_t t = 0; t < m_mesh.triangles.size(); ++t)
            for (std::size_t k = 0; k < 3; ++k) {
                const std::uint32_t p = m_mesh.triangles[t][k];
                const double off = way.off(m_mesh.points[p]);
                if (on.count(p) || !way.between(m_mesh.points[p]) || std::abs(off) > m_side / 12.0) continue;
                if (m_fixed.count(p)) {
                    if (std::abs(off) < 1e-9) on.insert(p);
                    continue;
                }
                const SurfacePoint s = m_part.project(m_mesh.faces[t], m_mesh.points[p] - off * way.across, m_mesh.uv[t][k].x(), m_mesh.uv[t][k].y());
                m_mesh.points[p] = s.point;
                on.insert(p);
            }
    }

    struct Corner {
        std::uint32_t point;
        Vec2 uv;
        int side;
    };

    /// A triangle's corners, with new points where its sides cross the way.
    std::vector<Corner> round(const Way& way, std::size_t t, std::set<std::uint32_t>& on, std::map<Side, std::uint32_t>& parted) {
        const auto off = [&](std::uint32_t p) { return way.off(m_mesh.points[p]); };
        const auto sign = [&](std::uint32_t p) { return on.count(p) ? 0 : off(p) > 0.0 ? 1 : -1; };
        std::vector<Corner> out;
        for (std::size_t k = 0; k < 3; ++k) {
            const std::uint32_t p = m_mesh.triangles[t][k], q = m_mesh.triangles[t][(k + 1) % 3];
            out.push_back({p, m_mesh.uv[t][k], sign(p)});
            if (sign(p) * sign(q) >= 0) continue;
            const Side both = sideOf(p, q); // seen the same from both of its triangles
            const double share = off(both.first) / (off(both.first) - off(both.second));
            const Vec3 middle = m_mesh.points[both.first] + share * (m_mesh.points[both.second] - m_mesh.points[both.first]);
            if (!way.between(middle)) continue;
            const double fromP = both.first == p ? share : 1.0 - share;
            const Vec2 parameters = m_mesh.uv[t][k] + fromP * (m_mesh.uv[t][(k + 1) % 3] - m_mesh.uv[t][k]);
            const auto [it, made] = parted.try_emplace(both, static_cast<std::uint32_t>(m_mesh.points.size()));
            const SurfacePoint s = m_part.project(m_mesh.faces[t], middle, parameters.x(), parameters.y());
            if (made) m_mesh.points.push_back(s.point);
            on.insert(it->second);
            out.push_back({it->second, Vec2(s.u, s.v), 0});
        }
        return out;
    }

    /// Sides that cross the way are parted. @return how many sides lie on it then
    std::size_t part(const Way& way, std::set<std::uint32_t>& on) {
        std::map<Side, std::uint32_t> parted;
        std::vector<std::array<std::uint32_t, 3>> triangles;
        std::vector<int> faces;
        std::vector<std::array<Vec2, 3>> uv;
        std::size_t crossed = 0;
        const auto add = [&](std::size_t t, const std::array<std::uint32_t, 3>& points, const std::array<Vec2, 3>& at) {
            triangles.push_back(points);
            faces.push_back(m_mesh.faces[t]);
            uv.push_back(at);
            for (std::size_t k = 0; k < 3; ++k) {
                const std::uint32_t p = points[k], q = points[(k + 1) % 3];
                if (!on.count(p) || !on.count(q) || !m_barrier.insert(sideOf(p, q)).second) continue;
                ++crossed;
                for (const std::uint32_t i : {p, q}) m_level[i] = way.levelAt(m_mesh.points[i]);
            }
        };
        for (std::size_t t = 0; t < m_mesh.triangles.size(); ++t) {
            std::vector<Corner> corners = round(way, t, on, parted);
            if (corners.size() == 3) {
                add(t, m_mesh.triangles[t], m_mesh.uv[t]);
                continue;
            }
            // Begin at a new point: then every fan of triangles from it stays on its own side, as there are two points on the way at most.
            std::rotate(corners.begin(), std::find_if(corners.begin(), corners.end(), [](const Corner& c) { return c.side == 0; }), corners.end());
            for (std::size_t k = 1; k + 1 < corners.size(); ++k) {
                const std::array<Corner, 3> c{corners[0], corners[k], corners[k + 1]};
                add(t, {c[0].point, c[1].point, c[2].point}, {c[0].uv, c[1].uv, c[2].uv});
            }
        }
        m_mesh.triangles = std::move(triangles);
        m_mesh.faces = std::move(faces);
        m_mesh.uv = std::move(uv);
        return crossed;
    }

    Status cut(const Across& way) {
        const Vec3 a = m_mesh.points[way.from], b = m_mesh.points[way.to];
        const double length = (b - a).norm();
        if (length < 1e-6) return {}; // the rails meet there
        const Vec3 along = (b - a) / length, up = rejected(normalAt(way.from) + normalAt(way.to), along);
        if (up.norm() < 0.05) return fail("the way across between the rails' ends runs along their normals", "Pattern", "Pick rails that end beside each other");
        const Way plane{a, along, up, along.cross(up.normalized()), length, &way};
        std::set<std::uint32_t> on{way.from, way.to};
        takeNear(plane, on);
        const std::size_t crossed = part(plane, on);
        if (crossed == 0) return fail("between the rails' ends there is nothing of the faces", "Pattern", "Pick rails that end beside each other");
        return {};
    }

    /// What is reached from triangles at the seeds; the rest goes.
    Status keepFrom(const std::vector<std::uint32_t>& seeds) {
        std::map<Side, std::vector<std::size_t>> beside;
        for (std::size_t t = 0; t < m_mesh.triangles.size(); ++t)
            for (std::size_t k = 0; k < 3; ++k) beside[sideOf(m_mesh.triangles[t][k], m_mesh.triangles[t][(k + 1) % 3])].push_back(t);
        const std::set<std::uint32_t> wanted(seeds.begin(), seeds.end());
        std::vector<char> kept(m_mesh.triangles.size(), 0);
        std::vector<std::size_t> open;
        for (std::size_t t = 0; t < m_mesh.triangles.size(); ++t)
            if (std::any_of(m_mesh.triangles[t].begin(), m_mesh.triangles[t].end(), [&](auto p) { return wanted.count(p) > 0; })) {
                kept[t] = 1;
                open.push_back(t);
            }
        while (!open.empty()) {
            const std::size_t t = open.back();
            open.pop_back();
            for (std::size_t k = 0; k < 3; ++k) {
                const Side s = sideOf(m_mesh.triangles[t][k], m_mesh.triangles[t][(k + 1) % 3]);
                if (m_barrier.count(s)) continue;
                for (const std::size_t other : beside[s])
                    if (!kept[other]) {
                        kept[other] = 1;
                        open.push_back(other);
                    }
            }
        }
        for (const Side& s : m_barrier)
            if (const auto& both = beside[s]; both.size() == 2 && kept[both[0]] && kept[both[1]])
                return fail("the faces go on around the rails' ends, on both sides of the way across", "Pattern",
                            "Pick faces that lie between the rails, or longer rails");
        keepTriangles(m_mesh, [&](std::size_t t) { return kept[t] != 0; });
        dropUnusedPoints();
        return {};
    }

    [[nodiscard]] std::vector<std::pair<std::uint32_t, double>> levels() const { return {m_level.begin(), m_level.end()}; }

private:
    [[nodiscard]] Vec3 normalAt(std::uint32_t p) const {
        Vec3 sum = Vec3::Zero();
        for (const auto& t : m_mesh.triangles)
            if (std::find(t.begin(), t.end(), p) != t.end())
                sum += (m_mesh.points[t[1]] - m_mesh.points[t[0]]).cross(m_mesh.points[t[2]] - m_mesh.points[t[0]]).normalized();
        return sum.norm() > 1e-12 ? Vec3(sum.normalized()) : Vec3::Zero();
    }
    void dropUnusedPoints() {
        constexpr std::uint32_t kGone = 0xffffffffU;
        std::vector<std::uint32_t> now(m_mesh.points.size(), kGone);
        std::vector<Vec3> points;
        for (auto& t : m_mesh.triangles)
            for (auto& p : t) {
                if (now[p] == kGone) {
                    now[p] = static_cast<std::uint32_t>(points.size());
                    points.push_back(m_mesh.points[p]);
                }
                p = now[p];
            }
        m_mesh.points = std::move(points);
        std::map<std::uint32_t, double> levels;
        for (const auto& [p, level] : m_level)
            if (now[p] != kGone) levels[now[p]] = level;
        m_level = std::move(levels);
        for (auto& line : m_mesh.edgeLine) {
            std::vector<std::uint32_t> left;
            for (const auto p : line)
                if (now[p] != kGone) left.push_back(now[p]);
            line = std::move(left);
        }
    }

    FieldMesh& m_mesh;
    const Part& m_part;
    double m_side;
    std::set<std::uint32_t> m_fixed; ///< on edges
    std::set<Side> m_barrier;
    std::map<std::uint32_t, double> m_level; ///< of the points on ways
};

} // namespace

Result<std::vector<std::pair<std::uint32_t, double>>> cutAcross(FieldMesh& mesh, const Part& part, const std::vector<Across>& ways,
                                                                const std::vector<std::uint32_t>& seeds, double side) {
    MeshCutter cutter(mesh, part, side);
    for (const Across& way : ways)
        if (auto ok = cutter.cut(way); !ok) return tl::unexpected(ok.error());
    if (auto ok = cutter.keepFrom(seeds); !ok) return tl::unexpected(ok.error());
    return cutter.levels();
}

} // namespace gyre
