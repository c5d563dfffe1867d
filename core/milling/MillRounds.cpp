// Whole round parts about their axis; roughing is handed on.
#include "milling/Miller.h"
#include "milling/Rough.h"
#include <algorithm>

namespace gyre {

namespace {

/// A closed line of edges of one face, laid on the sheet.
struct Rim {
    std::vector<Vec3> points;
    double low = 1e300, high = -1e300, left = 1e300, right = -1e300;
    bool down = true; ///< does the material end there, all along?
    void add(const Vec3& q) {
        points.push_back(q);
        low = std::min(low, q.y());
        high = std::max(high, q.y());
        left = std::min(left, q.x());
        right = std::max(right, q.x());
    }
    [[nodiscard]] double size() const { return std::max(high - low, right - left); }
};

// The edges of a face but for its seams, end to end: a hole on the seam is a line of its own, too.
std::vector<Rim> rimsOf(const Part& part, const FaceInfo& face, const Sheet& sheet) {
    constexpr double kDown = 0.35, kSame = 1e-4; // rad that an edge must turn to be a rim; mm between ends that meet
    std::vector<int> left;
    for (const auto& loop : face.loops)
        for (const int e : loop) {
            const EdgeInfo& edge = part.edges()[static_cast<std::size_t>(e)];
            if (!edge.degenerate && edge.faces[0] != edge.faces[1] && std::find(left.begin(), left.end(), e) == left.end()) left.push_back(e);
        }
    std::vector<Rim> rims;
    while (!left.empty()) {
        Rim rim;
        Polyline line = part.edgeLine(left.back());
        rim.down = part.edges()[static_cast<std::size_t>(left.back())].angle > kDown;
        left.pop_back();
        for (bool grew = true; grew && !line.empty() && (line.front() - line.back()).norm() > kSame;) {
            grew = false;
            for (std::size_t i = 0; i < left.size() && !grew; ++i) {
                Polyline next = part.edgeLine(left[i]);
                if (next.empty()) continue;
                if ((next.back() - line.back()).norm() < kSame) std::reverse(next.begin(), next.end());
                if ((next.front() - line.back()).norm() >= kSame) continue;
                line.insert(line.end(), next.begin() + 1, next.end());
                rim.down = rim.down && part.edges()[static_cast<std::size_t>(left[i])].angle > kDown;
                left.erase(left.begin() + static_cast<std::ptrdiff_t>(i));
                grew = true;
            }
        }
        if (line.size() < 3 || (line.front() - line.back()).norm() > kSame) continue;
        double y = sheet.flat(line.front()).y();
        for (const Vec3& p : line) {
            rim.add(sheet.flat(p, y));
            y = rim.points.back().y();
        }
        rims.push_back(std::move(rim));
    }
    return rims;
}

} // namespace

// Faces have holes where a closed line of edges lies within them, ends the material and does not run around the axis. Each is closed by a
// fan of strips to its middle, laid on the sheet so that it stays as round as the body; a ridge or hollow inside the mouth is not followed.
TriangleMesh Miller::capsOverHoles() const {
    TriangleMesh caps;
    constexpr std::uint32_t kRings = 6;
    for (const FaceInfo& face : m_in.part->faces()) {
        const std::vector<Rim> rims = rimsOf(*m_in.part, face, m_sheet);
        if (rims.size() < 2) continue;
        const auto outer = std::max_element(rims.begin(), rims.end(), [](const Rim& a, const Rim& b) { return a.size() < b.size(); });
        for (auto r = rims.begin(); r != rims.end(); ++r) {
            const bool around = std::abs(r->points.back().y() - r->points.front().y()) > 0.5 * m_sheet.turn() || r->high - r->low > 0.75 * m_sheet.turn();
            if (r == outer || !r->down || around) continue;
            Vec3 middle = Vec3::Zero();
            for (const Vec3& q : r->points) middle += q / static_cast<double>(r->points.size());
            const auto first = static_cast<std::uint32_t>(caps.points.size());
            for (const Vec3& q : r->points)
                for (std::uint32_t ring = 0; ring <= kRings; ++ring) {
                    const double t = static_cast<double>(ring) / kRings;
                    caps.points.push_back(m_sheet.point((1.0 - t) * q + t * middle));
                }
            for (std::uint32_t i = 0; i + 1 < r->points.size(); ++i)
                for (std::uint32_t ring = 0; ring < kRings; ++ring) {
                    const std::uint32_t a = first + i * (kRings + 1) + ring, b = a + kRings + 1;
                    caps.triangles.push_back({a, b, b + 1});
                    if (ring + 1 < kRings) caps.triangles.push_back({a, b + 1, a + 1});
                }
        }
    }
    return caps;
}

// A whole round part: rings or one spiral, the cutter let down on the model everywhere.
// From the largest radius down to the lowest place that looks outward.
Status Miller::roundDepth() {
    double top = 0.0;
    for (const Vec3& p : m_in.part->mesh().points) top = std::max(top, m_sheet.flat(p).z());
    if (m_spec.topBy == MillTop::Stock)
        for (const MeshTree* stock : m_in.stock)
            for (const auto& t : stock->triangles())
                for (const Vec3& p : t) top = std::max(top, m_sheet.flat(p).z());
    // Down to the lowest place that looks outward.
    double lowest = top;
    const TriangleMesh& skin = m_in.part->mesh();
    for (std::size_t i = 0; i < skin.points.size(); ++i) {
        const Vec3 q = m_sheet.flat(skin.points[i]);
        if (i < skin.normals.size() && skin.normals[i].dot(m_sheet.up(q)) > 0.1) lowest = std::min(lowest, q.z());
    }
    MillSpec deep = m_spec;
    deep.depthBy = MillDepth::Model;
    deep.depth = -lowest;
    m_spec = deep;
    return setDepth(m_spec.topBy == MillTop::Typed ? m_spec.top : top, 0.0);
}

Line Miller::wayRound(double from, double to) const {
    // What is still to be cut lies ahead, at larger x: on the right of a way around along +y.
    const double turn = (m_spec.climb ? 1.0 : -1.0) * m_sheet.turn();
    const int n = std::max(1, static_cast<int>(std::ceil((to - from) / m_spec.stepover - 1e-9)));
    Line line;
    switch (m_spec.lines) {
    case MillLines::Spiral:
        line = {Vec2(from, 0.0), Vec2(from, turn), Vec2(to, turn * (n + 1)), Vec2(to, turn * (n + 2))};
        break;
    case MillLines::Rings: // on and on the same way round, one step along between two turns
        for (int i = 0; i <= n; ++i) {
            const double x = from + (to - from) * i / n;
            line.push_back(Vec2(x, turn * i));
            line.push_back(Vec2(x, turn * (i + 1)));
        }
        break;
    case MillLines::Lines: { // lengthwise, there and back
        const int strokes = std::max(3, static_cast<int>(std::ceil(std::abs(turn) / m_spec.stepover - 1e-9)));
        for (int i = 0; i < strokes; ++i) {
            const double y = turn * i / strokes;
            line.push_back(Vec2(i % 2 ? to : from, y));
            line.push_back(Vec2(i % 2 ? from : to, y));
        }
        break;
    }
    }
    return line;
}

Status Miller::roundPart() {
    if (!m_sheet.wrapped) return fail("a whole round needs an axis", {}, "Choose round X, round Y or round Z");
    if (!m_in.model) return fail("there is no model to measure the depth from");
    double from = m_spec.from, to = m_spec.to;
    if (std::abs(to - from) < 1e-9) {
        from = 1e300;
        to = -1e300;
        for (const Vec3& p : m_in.part->mesh().points) {
            from = std::min(from, m_sheet.flat(p).x());
            to = std::max(to, m_sheet.flat(p).x());
        }
    }
    if (auto ok = roundDepth(); !ok) return ok;
    // The picked faces are bosses: the cutter stays further off them than off the rest.
    if (!m_in.faces.empty()) {
        TriangleMesh bosses;
        for (int f : m_in.faces) bosses.append(m_in.part->faceMesh(f));
        m_bosses = MeshTree(bosses);
    }
    if (m_spec.capped)
        if (const TriangleMesh caps = capsOverHoles(); !caps.triangles.empty()) m_caps = MeshTree(caps);
    const Line line = wayRound(from, to);
    m_out.curves.push_back(line);
    const std::vector<double> levels = levelsOf(m_top, m_bottom, m_spec.stepdown);
    m_out.levels = levels.size();
    const Line fine = dense(line);
    for (std::size_t k = 0; k < levels.size(); ++k) {
        FlatPass pass;
        pass.level = static_cast<int>(k);
        for (const Vec2& p : fine) add(pass, p, levels[k], Motion::Cut);
        m_out.flat.push_back(std::move(pass));
    }
    return {};
}

Status Miller::rough() {
    RoughInput in{m_in, m_sheet, m_tool, m_radius, m_leave, m_chord};
    auto made = roughOn(in, m_spec, m_progress);
    if (!made) return tl::unexpected(made.error());
    m_top = m_out.top = made->top;
    m_bottom = m_out.bottom = made->bottom;
    m_out.levels = made->levels;
    m_out.target = made->target;
    m_out.flat = std::move(made->passes);
    for (Finding& f : made->findings) m_out.findings.push_back(std::move(f));
    return {};
}

} // namespace gyre
