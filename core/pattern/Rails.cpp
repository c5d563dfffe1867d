// The rails of a pattern: edges of the part, or curves anywhere on the faces.
#include "base/Index.h"
#include "pattern/Across.h"
#include "pattern/Bridge.h"
#include "pattern/Cut.h"
#include "pattern/Embed.h"
#include "pattern/Layer.h"
#include <fmt/format.h>
#include <numeric>
#include <set>

namespace gyre {

// Which of the curves stands for which rail: for distances all of them for the first, beside its edges; between two rails they stand for those without edges.
Status Layer::curvesAsRails() {
    const std::size_t n = m_help.curves.size();
    if (n == 0) return {};
    std::vector<std::size_t> all(n);
    std::iota(all.begin(), all.end(), std::size_t{0});
    if (!betweenRails()) {
        m_railCurves[0] = std::move(all);
        return {};
    }
    std::vector<std::size_t> without;
    if (m_spec.rail1.empty()) without.push_back(0);
    if (m_spec.rail2.empty()) without.push_back(1);
    if (without.empty()) return {}; // of a pattern that was chosen before
    if (without.size() != n)
        return fail(fmt::format("{} chosen for {}", n == 1 ? "one curve is" : fmt::format("{} curves are", n),
                                without.size() == 1 ? "the one rail that has no edges" : "two rails without edges"),
                    "Pattern", "Choose as many curves as there are rails without edges");
    for (std::size_t k = 0; k < n; ++k) m_railCurves[without[k]] = {k};
    return {};
}

Status Layer::findRails(const std::vector<int>& faces) {
    if (auto ok = curvesAsRails(); !ok) return ok;
    if (m_railCurves[0].empty() && m_spec.rail1.empty() && m_spec.rail2.empty()) {
        auto pair = proposeRails(m_part, faces);
        if (!pair) return tl::unexpected(pair.error());
        m_rails = {pair->first, m_kind.rails == 2 ? pair->second : EdgeChain{}};
    } else {
        for (int which = 0; which < 2; ++which) {
            const std::vector<ShapeRef>& picked = which == 0 ? m_spec.rail1 : m_spec.rail2;
            if (picked.empty() && (!m_railCurves[index(which)].empty() || (m_kind.rails == 1 && which == 1))) continue;
            auto edges = resolveEdges(m_part, picked);
            const std::string name = fmt::format("rail {}", which + 1);
            if (!edges) return fail(edges.error().what, name, edges.error().remedy);
            if (edges->empty()) return fail("no edge is picked", name, "Pick the edges that rows run along");
            auto chain = chainOf(m_part, *edges);
            if (!chain) return fail(chain.error().what, name, chain.error().remedy);
            m_rails[index(which)] = *chain;
        }
    }
    const std::set<int> inside(faces.begin(), faces.end());
    for (std::size_t w = 0; w < 2; ++w)
        for (int e : m_rails[w].edges) {
            const EdgeInfo& info = m_part.edges()[index(e)];
            const int face = inside.count(info.faces[0]) ? info.faces[0] : inside.count(info.faces[1]) ? info.faces[1] : -1;
            if (face < 0)
                return fail(fmt::format("edge {} of rail {} lies on none of the picked faces", e, w + 1), fmt::format("rail {}", w + 1),
                            "Pick an edge of the faces, or the face beside it");
            m_railFace[w].push_back(face);
        }
    return {};
}

std::vector<std::uint32_t> Layer::pointsAlong(std::size_t which) const {
    std::vector<std::uint32_t> points;
    for (std::size_t i = 0; i < m_rails[which].edges.size(); ++i) {
        std::vector<std::uint32_t> line = m_mesh.edgeLine[index(m_rails[which].edges[i])];
        if (m_rails[which].reversed[i]) std::reverse(line.begin(), line.end());
        points.insert(points.end(), line.begin(), line.end());
    }
    return points;
}

// The mesh no further than from the ends of one rail straight to those of the other.
Status Layer::endAcross() {
    std::array<std::array<std::uint32_t, 2>, 2> ends{};
    std::vector<std::uint32_t> seeds;
    for (std::size_t w = 0; w < 2; ++w) {
        if (m_rails[w].closed)
            return fail("a closed rail has no ends to go across from", fmt::format("rail {}", w + 1), "Pick a part of it, or let rows go as far as the faces");
        const auto points = pointsAlong(w);
        if (points.size() < 3) return fail("the rail is too short to end rows across from it", fmt::format("rail {}", w + 1), "Use a smaller spacing");
        ends[w] = {points.front(), points.back()};
        if (w == 0)
            for (const auto p : points)
                if (p != points.front() && p != points.back()) seeds.push_back(p);
    }
    const auto far = [&](std::uint32_t a, std::uint32_t b) { return (m_mesh.points[a] - m_mesh.points[b]).norm(); };
    if (far(ends[0][0], ends[1][0]) + far(ends[0][1], ends[1][1]) > far(ends[0][0], ends[1][1]) + far(ends[0][1], ends[1][0])) std::swap(ends[1][0], ends[1][1]);
    const std::size_t before = pointsAlong(1).size();
    auto held = cutAcross(m_mesh, m_part, {{ends[0][0], ends[1][0], 0.0, 1.0}, {ends[0][1], ends[1][1], 0.0, 1.0}}, seeds, m_side);
    if (!held) return tl::unexpected(held.error());
    m_held = std::move(*held);
    if (pointsAlong(1).size() < before)
        return fail("the second rail does not lie on the same piece of the faces as the first", "rail 2", "Pick rails that face each other");
    return {};
}

namespace {

/// A point of the border between two neighbours on it, put into the triangle that has them and into the line of their edge.
std::uint32_t addOnBorder(FieldMesh& mesh, const Part& part, std::uint32_t a, std::uint32_t b, double share) {
    const auto added = static_cast<std::uint32_t>(mesh.points.size());
    for (std::size_t t = 0; t < mesh.triangles.size(); ++t)
        for (std::size_t k = 0; k < 3; ++k) {
            const auto ids = mesh.triangles[t];
            const auto uv = mesh.uv[t];
            const std::size_t l = (k + 1) % 3, m = (k + 2) % 3;
            if (!(ids[k] == a && ids[l] == b) && !(ids[k] == b && ids[l] == a)) continue;
            const double along = ids[k] == a ? share : 1.0 - share;
            const Vec2 at = uv[k] + along * (uv[l] - uv[k]);
            const SurfacePoint s = part.project(mesh.faces[t], mesh.points[ids[k]] + along * (mesh.points[ids[l]] - mesh.points[ids[k]]), at.x(), at.y());
            mesh.points.push_back(s.point);
            mesh.triangles[t] = {ids[k], added, ids[m]};
            mesh.uv[t] = {uv[k], Vec2(s.u, s.v), uv[m]};
            mesh.triangles.push_back({added, ids[l], ids[m]});
            mesh.uv.push_back({Vec2(s.u, s.v), uv[l], uv[m]});
            mesh.faces.push_back(mesh.faces[t]);
            for (auto& line : mesh.edgeLine)
                for (std::size_t i = 1; i < line.size(); ++i)
                    if ((line[i - 1] == a && line[i] == b) || (line[i - 1] == b && line[i] == a)) {
                        line.insert(line.begin() + static_cast<std::ptrdiff_t>(i), added);
                        break;
                    }
            return added;
        }
    return a;
}

/// Where the faces' border lies straight ahead of a point of it: a point of the border there, made where there is none; the point itself where the faces end before.
std::uint32_t borderAhead(FieldMesh& mesh, const Part& part, std::uint32_t from, const Vec3& ahead, double side) {
    const MeshTree tree(treeOf(mesh));
    const std::vector<std::uint64_t> border = borderOf(mesh);
    const Vec3 p = mesh.points[from];
    const double probe = 0.25 * side;
    const auto beyond = tree.closest(p + probe * ahead);
    if (beyond.distance > 0.3 * probe) return from;
    const auto& t = mesh.triangles[beyond.triangle];
    const Vec3 up = (mesh.points[t[1]] - mesh.points[t[0]]).cross(mesh.points[t[2]] - mesh.points[t[0]]).normalized(), across = ahead.cross(up).normalized();
    double nearest = 1e300, at = 0.0;
    std::uint32_t before = from, behind = from;
    for (const std::uint64_t key : border) {
        const auto a = static_cast<std::uint32_t>(key >> 32), b = static_cast<std::uint32_t>(key & 0xffffffffU);
        if (a == from || b == from) continue;
        const double offA = across.dot(mesh.points[a] - p), offB = across.dot(mesh.points[b] - p);
        if (offA * offB > 0.0) continue;
        const double share = offA != offB ? offA / (offA - offB) : 0.0;
        const Vec3 met = mesh.points[a] + share * (mesh.points[b] - mesh.points[a]) - p;
        const double along = met.dot(ahead);
        if (along < 1e-6 || along >= nearest || std::abs(met.dot(up)) > along) continue; // behind, or another side of the part
        nearest = along;
        before = a;
        behind = b;
        at = share;
    }
    constexpr double kThere = 0.05; // of the side: a point that is there will do
    if (at < kThere) return before;
    return at > 1.0 - kThere ? behind : addOnBorder(mesh, part, before, behind, at);
}

} // namespace

// From the ends of both rails straight on to the border: along these lines the field has the rails' own levels, and what lies beyond is left out.
Status Layer::prolongRails() {
    std::vector<Across> ways;
    std::vector<std::uint32_t> seeds;
    for (std::size_t w = 0; w < 2; ++w) {
        if (m_rails[w].closed) continue;
        const auto points = pointsAlong(w);
        if (points.size() < 3) return fail("the rail is too short to be prolonged", fmt::format("rail {}", w + 1), "Use a smaller spacing");
        double whole = 0.0;
        for (std::size_t i = 1; i < points.size(); ++i) whole += (m_mesh.points[points[i]] - m_mesh.points[points[i - 1]]).norm();
        if (w == 0) seeds.assign(points.begin() + 1, points.end() - 1);
        constexpr double kLast = 0.05; // of the rail: a round nose at its end does not say where it leads
        for (const bool last : {false, true}) {
            const std::uint32_t end = last ? points.back() : points.front();
            std::size_t i = last ? points.size() - 2 : 1;
            while (i > 0 && i + 1 < points.size() && (m_mesh.points[points[i]] - m_mesh.points[end]).norm() < kLast * whole) i = last ? i - 1 : i + 1;
            const Vec3 ahead = (m_mesh.points[end] - m_mesh.points[points[i]]).normalized();
            const std::uint32_t to = borderAhead(m_mesh, m_part, end, ahead, m_side);
            const double level = levelOfRail(static_cast<int>(w));
            if (to != end) ways.push_back({end, to, level, level});
        }
    }
    if (ways.empty()) return {};
    auto held = cutAcross(m_mesh, m_part, ways, seeds, m_side);
    if (!held) return tl::unexpected(held.error());
    m_held = std::move(*held);
    return {};
}

// Points of the guides with their levels: evenly between the rails, in the order in which rows without them would come to them, or as these lie.
Status Layer::holdGuides() {
    const auto edges = resolveEdges(m_part, m_spec.guides);
    if (!edges) return fail(edges.error().what, "guides", edges.error().remedy);
    std::array<std::vector<std::uint32_t>, 2> ends;
    for (std::size_t w = 0; w < 2; ++w)
        for (const auto& line : m_railPoints[w]) ends[w].insert(ends[w].end(), line.begin(), line.end());
    FieldMesh whole;
    if (m_help.guidesAsTheyLie) {
        std::vector<std::uint32_t> rails = ends[0];
        rails.insert(rails.end(), ends[1].begin(), ends[1].end());
        whole = m_mesh; // rows run on over what stands there
        bridgeHoles(whole, rails, m_side);
    }
    const auto plain = harmonicField(m_help.guidesAsTheyLie ? whole : m_mesh, ends[0], ends[1], m_held);
    if (!plain) return tl::unexpected(plain.error());
    const std::set<std::uint32_t> onRails = [&] {
        std::set<std::uint32_t> all(ends[0].begin(), ends[0].end());
        all.insert(ends[1].begin(), ends[1].end());
        return all;
    }();
    std::vector<std::pair<double, std::vector<std::uint32_t>>> guides; // mean level, points
    for (const EdgeChain& chain : chainsOf(m_part, *edges)) {
        std::set<std::uint32_t> points;
        for (const int e : chain.edges) points.insert(m_mesh.edgeLine[index(e)].begin(), m_mesh.edgeLine[index(e)].end());
        if (points.empty())
            return fail(fmt::format("edge {} of the guides lies on none of the picked faces", chain.edges.front()), "guides", "Pick an edge between the rails");
        double sum = 0.0;
        for (const auto p : points) {
            if (onRails.count(p))
                return fail(fmt::format("the guide along edge {} meets a rail: rows cannot follow both there", chain.edges.front()), "guides", "Leave it out");
            sum += plain->value[p];
        }
        guides.push_back({sum / static_cast<double>(points.size()), {points.begin(), points.end()}});
    }
    std::sort(guides.begin(), guides.end());
    if (m_help.guidesAsTheyLie)
        for (const auto& [level, points] : guides) m_stops.push_back(level);
    std::set<std::uint32_t> taken;
    for (std::size_t k = 0; k < guides.size(); ++k)
        for (const auto p : guides[k].second) {
            if (!taken.insert(p).second) return fail("two guides cross: rows cannot follow both there", "guides", "Leave one of them out");
            m_held.emplace_back(p, m_help.guidesAsTheyLie ? guides[k].first : static_cast<double>(k + 1) / static_cast<double>(guides.size() + 1));
        }
    return {};
}

namespace {

/// Does an open line end where faces lie all around?
bool endsAmid(const FieldMesh& mesh, const std::vector<std::vector<std::uint32_t>>& lines) {
    std::vector<char> border(mesh.points.size(), 0);
    for (const auto side : borderOf(mesh)) border[side >> 32] = border[side & 0xffffffffU] = 1;
    return std::any_of(lines.begin(), lines.end(), [&](const auto& line) { return line.front() != line.back() && !(border[line.front()] && border[line.back()]); });
}

} // namespace

// Rails become sides of the mesh: edges are, and curves are made so.
Status Layer::beginAtRails() {
    std::array<std::size_t, 2> count{};
    std::vector<RawLine> lines;
    if (curvesAreRails()) {
        m_tree = std::make_shared<const MeshTree>(treeOf(m_mesh));
        std::vector<RawRow> rows = drawnRows();
        for (std::size_t w = 0; w < 2; ++w) {
            for (const std::size_t k : m_railCurves[w])
                for (const RawLine& line : rows[k].lines) m_railRow[w].lines.push_back(line);
            m_railRow[w].level = levelOfRail(static_cast<int>(w));
            count[w] = m_railRow[w].lines.size();
            lines.insert(lines.end(), m_railRow[w].lines.begin(), m_railRow[w].lines.end());
            if (!m_railCurves[w].empty() && count[w] == 0)
                return fail("the curve does not meet the picked faces", fmt::format("rail {}", w + 1), "Pick the faces that it lies on, or another curve");
            if (betweenRails() && count[w] > 1)
                return fail("the curve leaves the faces between its ends: rows between the rails would go through there", fmt::format("rail {}", w + 1),
                            "Lead it around the hole, or keep rows at true distance from it");
        }
    }
    if (!lines.empty()) {
        auto embedded = embedLines(m_mesh, m_part, lines);
        if (!embedded) return tl::unexpected(embedded.error());
        if (betweenRails() && endsAmid(m_mesh, *embedded))
            return fail("a curve ends amid the faces: rows between the rails would go around its end", "Pattern",
                        "Let it run to their border or beyond, close it, or keep rows at true distance from it");
        for (std::size_t i = 0; i < embedded->size(); ++i) m_railPoints[i < count[0] ? 0 : 1].push_back(std::move((*embedded)[i]));
    }
    for (std::size_t w = 0; w < 2; ++w)
        for (const int e : m_rails[w].edges) m_railPoints[w].push_back(m_mesh.edgeLine[index(e)]);
    return {};
}

// Beyond a rail that lies within the faces the field has the rail's own level: there are no rows.
void Layer::keepBetween() {
    keepTriangles(m_mesh, [&](std::size_t t) {
        const auto& ids = m_mesh.triangles[t];
        const auto [low, high] = std::minmax({m_field.value[ids[0]], m_field.value[ids[1]], m_field.value[ids[2]]});
        return low < 1.0 - 1e-9 && high > 1e-9;
    });
    m_field = fieldOf(m_mesh, std::move(m_field.value)); // along the rails only what is between them tells how it rises
}

// The edges of a rail as a row: points on the edges' own curves.
RawLine Layer::railLine(int which) const {
    const auto w = index(which);
    RawLine line;
    line.closed = m_rails[w].closed;
    for (std::size_t i = 0; i < m_rails[w].edges.size(); ++i) {
        const int e = m_rails[w].edges[i];
        const int n = std::max(8, static_cast<int>(std::ceil(m_part.edges()[index(e)].length / 0.25)));
        const bool last = i + 1 == m_rails[w].edges.size() && !line.closed;
        for (int k = 0; k < n + (last ? 1 : 0); ++k) {
            const double t = static_cast<double>(k) / n;
            const int face = m_railFace[w][i];
            const SurfacePoint s = m_part.onEdge(e, m_rails[w].reversed[i] ? 1.0 - t : t, face);
            line.samples.push_back({s.point, s.normal, {s.u, s.v}, face, false});
        }
    }
    return line;
}

// Same direction as the level lines: the gradient on the left. The triangles along the rail know it.
void Layer::turnWithLevels(RawLine& line, int which) const {
    double vote = 0.0;
    TriangleMesh along;
    along.points = m_mesh.points;
    for (const auto& t : m_mesh.triangles)
        if (std::any_of(t.begin(), t.end(), [&](auto p) { return m_field.value[p] == levelOfRail(which); })) along.triangles.push_back(t);
    const MeshTree tree(along);
    const std::size_t n = line.samples.size();
    for (std::size_t i = 0; i + 1 < n; i += std::max<std::size_t>(1, n / 16)) {
        const RowSample& s = line.samples[i];
        const auto hit = tree.closest(s.point);
        const Vec3 g = m_field.gradient[along.triangles[hit.triangle][0]];
        const double side = s.normal.cross(line.samples[i + 1].point - s.point).dot(g);
        vote += side > 0.0 ? 1.0 : -1.0;
    }
    if (vote < 0.0) std::reverse(line.samples.begin(), line.samples.end());
}

} // namespace gyre
