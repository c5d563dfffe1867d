// Rows that are curves laid onto the faces.
#include "base/Index.h"
#include "pattern/Beside.h"
#include "pattern/Layer.h"
#include <algorithm>

namespace gyre {
namespace {

/// The line's points and more between them, none further apart than a step; closed ones do not repeat the first.
Polyline closeTogether(const Polyline& line, bool closed) {
    constexpr double kStep = 0.3; // mm
    Polyline out;
    const std::size_t n = line.size();
    for (std::size_t i = 0; i + 1 < n; ++i) {
        const int parts = std::clamp(static_cast<int>(std::ceil((line[i + 1] - line[i]).norm() / kStep)), 1, 100000);
        for (int k = 0; k < parts; ++k) out.push_back(line[i] + static_cast<double>(k) / parts * (line[i + 1] - line[i]));
    }
    if (!closed && n > 0) out.push_back(line.back());
    return out;
}

} // namespace

// The point of the faces that a point of a curve falls to; none where it falls beside them.
std::optional<RowSample> Layer::footOf(const Vec3& p, const Rims& rims) const {
    constexpr double kBeside = 0.001; // mm
    Vec3 at = p;
    std::uint32_t triangle = 0;
    if (m_spec.onto < 0 || !m_kind.drawn) {
        const ClosestPoint near = m_tree->closest(p);
        at = near.point;
        triangle = near.triangle;
    } else {
        const Vec3 axis = Vec3::Unit(m_spec.onto);
        const RayHit up = m_tree->ray(p - 1e-7 * axis, axis), down = m_tree->ray(p + 1e-7 * axis, -axis);
        const RayHit& hit = !down.hit || (up.hit && up.distance < down.distance) ? up : down;
        if (!hit.hit) return std::nullopt;
        at = &hit == &up ? Vec3(p + (hit.distance - 1e-7) * axis) : Vec3(p - (hit.distance - 1e-7) * axis);
        triangle = hit.triangle;
    }
    const auto& t = m_mesh.triangles[triangle];
    const int face = m_mesh.faces[triangle];
    const Vec3 &a = m_mesh.points[t[0]], &b = m_mesh.points[t[1]], &c = m_mesh.points[t[2]];
    const Vec3 n = (b - a).cross(c - a);
    const double whole = std::max(n.squaredNorm(), 1e-18);
    const double v = (at - a).cross(c - a).dot(n) / whole, w = (b - a).cross(at - a).dot(n) / whole;
    if (face < 0) return RowSample{at, n.normalized(), Vec2::Zero(), -1, false};
    const auto& corners = m_mesh.uv[triangle];
    const Vec2 uv = (1.0 - v - w) * corners[0] + v * corners[1] + w * corners[2];
    if (m_spec.onto >= 0 && m_kind.drawn) {
        // Along the axis to the exact face.
        const Vec3 axis = Vec3::Unit(m_spec.onto);
        RowSample s = exact(face, at, uv);
        for (int i = 0; i < 8; ++i) {
            const double steep = axis.dot(s.normal);
            if (std::abs(steep) < 1e-3) break;
            at += (s.point - at).dot(s.normal) / steep * axis;
            s = exact(face, at, s.uv);
            if ((s.point - at).norm() < 1e-8) break;
        }
        return s;
    }
    const RowSample s = exact(face, p, uv);
    // The nearest place may lie on a side of its triangle, the foot beyond it. At a border it is off the faces then; at an edge the edge is met.
    constexpr double kOn = 1e-6;
    const std::array<double, 3> share{1.0 - v - w, v, w};
    // At a corner of a triangle no side need be of the border, though the corner is.
    if (std::count_if(share.begin(), share.end(), [](double x) { return x <= kOn; }) == 2 &&
        rejected(s.point - m_tree->closest(s.point).point, s.normal).norm() > kBeside)
        return std::nullopt;
    for (std::size_t k = 0; k < 3; ++k) {
        if (share[(k + 2) % 3] > kOn) continue;
        const Vec3 &from = m_mesh.points[t[k]], &to = m_mesh.points[t[(k + 1) % 3]];
        const double beyond = (s.point - at).dot((to - from).cross(n).normalized());
        const auto key = pairKey(t[k], t[(k + 1) % 3]);
        if (beyond > kBeside && std::binary_search(rims.border.begin(), rims.border.end(), key)) return std::nullopt;
        if (beyond > kBeside && std::binary_search(rims.edges.begin(), rims.edges.end(), key)) return exact(face, at, uv);
    }
    return s;
}

Layer::Rims Layer::rimsOf() const {
    std::vector<std::pair<std::uint64_t, int>> sides; // with the face
    for (std::size_t i = 0; i < m_mesh.triangles.size(); ++i)
        for (std::size_t c = 0; c < 3; ++c) sides.emplace_back(pairKey(m_mesh.triangles[i][c], m_mesh.triangles[i][(c + 1) % 3]), m_mesh.faces[i]);
    std::sort(sides.begin(), sides.end());
    Rims out;
    for (std::size_t i = 0; i < sides.size();) {
        std::size_t end = i + 1;
        while (end < sides.size() && sides[end].first == sides[i].first) ++end;
        if (end - i == 1)
            out.border.push_back(sides[i].first);
        else if (sides[i].second != sides[end - 1].second)
            out.edges.push_back(sides[i].first);
        i = end;
    }
    return out;
}

namespace {

using Foot = std::optional<RowSample>;

bool alike(const Foot& a, const Foot& b) { return a.has_value() == b.has_value() && (!a || a->face == b->face); }

/// A curve's feet on the faces, put together to lines.
class Falling {
public:
    Falling(const Polyline& curve, const std::function<Foot(const Vec3&)>& footOf)
        : m_closed(curve.size() > 3 && (curve.front() - curve.back()).norm() < 1e-6), m_points(closeTogether(curve, m_closed)), m_footOf(footOf) {
        for (const Vec3& p : m_points) m_feet.push_back(footOf(p));
    }
    std::vector<RawLine> lines() {
        const std::size_t n = m_points.size(), spans = m_closed ? n : n - 1;
        for (std::size_t i = 0; i < spans; ++i) {
            if (m_feet[i]) put(*m_feet[i]);
            span(i, (i + 1) % n);
        }
        if (!m_closed && m_feet.back()) put(*m_feet.back());
        m_line.closed = m_closed && m_whole;
        // What was broken elsewhere goes on from the end of the curve to its beginning.
        if (m_closed && !m_whole && m_feet.front() && !m_line.samples.empty() && !m_lines.empty() && m_lines.front().samples.front().point == m_feet.front()->point) {
            for (const RowSample& s : m_lines.front().samples) put(s);
            m_lines.erase(m_lines.begin());
        }
        flush();
        return std::move(m_lines);
    }

private:
    void flush() {
        if (m_line.samples.size() > 1) m_lines.push_back(std::move(m_line));
        m_line = {};
    }
    void put(const RowSample& s) {
        constexpr double kSame = 1e-4; // mm: many points of a curve fall to one of an edge
        if (m_line.samples.empty() || (m_line.samples.back().point - s.point).norm() > kSame || m_line.samples.back().face != s.face) m_line.samples.push_back(s);
    }
    void breakOff() {
        flush();
        m_whole = false;
    }
    // Up to the edge where the face changes, or the faces end. Of both sides of an edge one point is enough; its face is the one that comes.
    void span(std::size_t i, std::size_t next) {
        const Foot &a = m_feet[i], &b = m_feet[next];
        if (alike(a, b)) {
            constexpr double kJump = 20.0; // times the way along the curve: another part of the faces lies nearer from here on
            if (a && (a->point - b->point).norm() > kJump * (m_points[next] - m_points[i]).norm() + 0.05) breakOff();
            return;
        }
        double from = 0.0, to = 1.0;
        std::array<Foot, 2> ends{a, b};
        for (int k = 0; k < 14; ++k) {
            const double middle = 0.5 * (from + to);
            Foot foot = m_footOf((1.0 - middle) * m_points[i] + middle * m_points[next]);
            const bool still = alike(foot, ends[0]);
            (still ? from : to) = middle;
            ends[still ? 0 : 1].swap(foot);
        }
        const auto& [before, behind] = ends;
        const bool together = before && behind && (before->point - behind->point).norm() < 0.05;
        if (before && !together) put(*before);
        if (!together) breakOff();
        if (behind) put(*behind);
    }
    bool m_closed, m_whole = true;
    Polyline m_points;
    const std::function<Foot(const Vec3&)>& m_footOf;
    std::vector<Foot> m_feet;
    RawLine m_line;
    std::vector<RawLine> m_lines;
};

} // namespace

std::vector<RawRow> Layer::drawnRows() const {
    const Rims rims = rimsOf();
    const std::function<Foot(const Vec3&)> foot = [&](const Vec3& p) { return footOf(p, rims); };
    std::vector<RawRow> rows;
    for (const Polyline& curve : m_help.curves) {
        RawRow row;
        row.level = static_cast<double>(rows.size());
        if (curve.size() > 1) row.lines = Falling(curve, foot).lines();
        rows.push_back(std::move(row));
    }
    return rows;
}

Result<CornerRows> Layer::rowsInCorners(const std::vector<int>& faces, double spacing, Progress& progress) const {
    const auto body = m_part.body();
    return cornerRows(body ? *body : m_part, faces, m_spec, m_radius, spacing, progress);
}

// The mesh grows to the rows of others, or begins at those on it; they are what distances are counted from.
Status Layer::beginBeside(double spacing) {
    if (!m_help.beside) return fail("no operation is chosen whose rows these begin at", "Pattern", "Choose one that stands before this one");
    constexpr double kReach = 2.5; // of the wider of both spacings
    auto seam = rowsLieOn(m_mesh, *m_help.beside) ? beginOnRows(m_mesh, m_part, *m_help.beside)
                                                  : growToRows(m_mesh, *m_help.beside, kReach * std::max(spacing, m_help.beside->spacing()));
    if (!seam) return tl::unexpected(seam.error());
    m_railPoints[0] = std::move(seam->lines);
    m_besideRow = std::move(seam->row);
    return {};
}

} // namespace gyre
