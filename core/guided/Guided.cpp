#include "guided/Guided.h"
#include "base/Units.h"
#include "geom/FindingAt.h"
#include "guided/BesideCurve.h"
#include "guided/CurveSpec.h"
#include <fmt/format.h>

namespace gyre {
namespace {

/// The surface's normal beside a curve.
class Beside {
public:
    explicit Beside(const GuideInput& in) : m_in(in) {
        for (const int f : in.faces) m_trees.emplace_back(in.part->faceMesh(f));
    }
    [[nodiscard]] Vec3 normal(const Vec3& p) const {
        if (!m_trees.empty()) {
            std::size_t best = 0;
            double least = 1e300;
            for (std::size_t i = 0; i < m_trees.size(); ++i)
                if (const double d = m_trees[i].closest(p).distance; d < least) {
                    least = d;
                    best = i;
                }
            return m_in.part->project(m_in.faces[best], p).normal;
        }
        // On an edge the faces on both sides count alike.
        const Part& part = m_in.part->body() ? *m_in.part->body() : *m_in.part;
        const ClosestPoint near = part.tree().closest(p);
        const int face = part.mesh().faces[near.triangle];
        Vec3 sum = part.project(face, p).normal;
        for (const EdgeInfo& e : part.edges()) {
            const int other = e.faces[0] == face ? e.faces[1] : e.faces[1] == face ? e.faces[0] : -1;
            if (e.degenerate || other < 0 || other == face || part.faces()[static_cast<std::size_t>(other)].bounds.distance(p) > near.distance + 0.05) continue;
            const SurfacePoint s = part.project(other, p);
            if ((s.point - p).norm() < near.distance + part.deflection() + 0.01) sum += s.normal;
        }
        return sum.norm() > 1e-6 ? Vec3(sum.normalized()) : part.project(face, p).normal;
    }

private:
    const GuideInput& m_in;
    std::vector<MeshTree> m_trees;
};

} // namespace

Result<std::vector<Row>> guideRows(const GuideInput& in, const CurveSpec& spec, const Fineness& fineness) {
    if (spec.by == CurveBy::Channel) {
        if (in.channel.empty()) return fail("no channel is picked", {}, "Click its faces");
        std::vector<Row> rows = in.channel;
        if (spec.reversed)
            for (Row& r : rows) {
                std::reverse(r.points.begin(), r.points.end());
                std::reverse(r.normals.begin(), r.normals.end());
                std::reverse(r.faces.begin(), r.faces.end());
            }
        return rows;
    }
    if (in.curves.empty()) return fail("no curve is picked", {}, "Click edges in the view, or choose a drawing");
    if (!(spec.from < spec.to)) return fail("the part of the curve that is cut ends before it begins", {}, "Swap both ends");
    std::vector<Row> rows;
    const Beside beside(in);
    for (const Curve& whole : in.curves) {
        const double length = whole.length();
        if (length < 1e-6) continue;
        const bool all = spec.from <= 1e-9 && spec.to >= 1.0 - 1e-9;
        Curve c = all ? whole : whole.between(spec.from * length, spec.to * length);
        if (spec.reversed) c = c.reversed();
        Row row;
        row.closed = all && whole.closed();
        Polyline line = c.polyline(0.25 * fineness.chord);
        if (row.closed && line.size() > 1) {
            if (spec.entry > 0.0) { // begins elsewhere: a point of its own there
                const double start = spec.entry * c.length();
                const Curve two = joined(c.between(start, c.length()), c.between(0.0, start));
                line = two.polyline(0.25 * fineness.chord);
                if ((line.front() - line.back()).norm() > 1e-9) line.push_back(line.front());
            }
        }
        for (std::size_t i = 0; i < line.size(); ++i) {
            if (i > 0) {
                const double d = (line[i] - line[i - 1]).norm();
                if (d < 1e-9) continue;
                const int steps = static_cast<int>(std::ceil(d / fineness.longest));
                for (int k = 1; k < steps; ++k) row.points.push_back(line[i - 1] + (line[i] - line[i - 1]) * k / steps);
            }
            row.points.push_back(line[i]);
        }
        if (row.closed && row.points.size() > 2 && (row.points.front() - row.points.back()).norm() < 1e-6) row.points.pop_back();
        if (row.points.size() < 2) continue;
        for (const Vec3& p : row.points) row.normals.push_back(beside.normal(p));
        row.faces.assign(row.points.size(), -1);
        row.index = static_cast<int>(rows.size());
        rows.push_back(std::move(row));
    }
    if (rows.empty()) return fail("the curves have no length");
    for (std::size_t i = 0; i < rows.size(); ++i) rows[i].level = rows.size() > 1 ? static_cast<double>(i) / static_cast<double>(rows.size() - 1) : 0.0;
    return rows;
}

namespace {

/// One time round a closed way, and `overlap` mm further.
void goOn(std::vector<AxisPose>& poses, std::vector<Vec3>& contacts, std::vector<Vec3>& normals, double overlap) {
    const std::size_t n = poses.size();
    double left = overlap;
    for (std::size_t k = 0; k < n; ++k) {
        const std::size_t i = k % n;
        if (k > 0) {
            const double d = (poses[i].tip - poses[i - 1].tip).norm();
            if (d >= left) {
                const double t = left / d;
                poses.push_back({poses[i - 1].tip + t * (poses[i].tip - poses[i - 1].tip), slerp(poses[i - 1].axis, poses[i].axis, t)});
                contacts.push_back(contacts[i - 1] + t * (contacts[i] - contacts[i - 1]));
                normals.push_back(slerp(normals[i - 1], normals[i], t));
                return;
            }
            left -= d;
        }
        poses.push_back(poses[i]);
        contacts.push_back(contacts[i]);
        normals.push_back(normals[i]);
    }
}

class Guider {
public:
    Guider(const CurveSpec& spec, const Assembly& tool, double leave, double tolerance) : m_spec(spec), m_cutter(tool.cutter), m_leave(leave), m_tolerance(tolerance) {}

    void follow(const Row& row, const std::vector<Vec3>& axes, const std::vector<Vec3>& feeds, std::size_t levels) {
        double aside = 0.0;
        if (m_spec.side != CurveSide::On) aside = m_spec.offset;
        if (m_spec.by == CurveBy::Side) aside += flankRadius(m_cutter, std::max(flankStart(m_cutter), -m_spec.axial)) + m_leave;
        if (m_spec.side == CurveSide::Right) aside = -aside;
        BesideWays ways;
        if (std::abs(aside) > 1e-9) {
            ways = waysBeside(row, axes, feeds, aside, m_tolerance);
        } else {
            BesideWay way;
            way.closed = row.closed;
            for (std::size_t i = 0; i < row.points.size(); ++i) way.places.push_back({row.points[i], row.normals[i], axes[i], Vec3::Zero()});
            ways.ways.push_back(std::move(way));
        }
        m_left += ways.left;
        m_corners.insert(m_corners.end(), ways.corners.begin(), ways.corners.end());
        for (const BesideWay& way : ways.ways)
            for (std::size_t level = 0; level < levels; ++level)
                lay(way, std::abs(aside), m_spec.depth * static_cast<double>(level + 1) / static_cast<double>(levels), level % 2 == 1);
    }
    void tellCorners(const Vec3& start) {
        const bool none = m_out.passes.empty();
        if (m_corners.empty() && !none) return;
        m_out.findings.push_back(
            findingAt(none ? Rank::Stop : Rank::Look, "curve-corners", "Pattern",
                      none ? "the cutter has no room beside the curve"
                           : fmt::format("{:.2f} mm of the curve, at {} {}, are not touched", m_left, m_corners.size(), m_corners.size() == 1 ? "place" : "places"),
                      "the curve turns in there more tightly than the cutter's side, which stops where it touches both sides",
                      m_corners.empty() ? start : m_corners.front(), m_left));
    }
    AlongResult& result() { return m_out; }

private:
    void lay(const BesideWay& way, double aside, double down, bool returning) {
        std::vector<AxisPose> poses;
        std::vector<Vec3> contacts, normals;
        for (const BesidePlace& place : way.places) {
            const Vec3 &n = place.normal, &a = place.axis;
            // In a channel depth is counted from above: the last pass lies on its floor.
            const double above = m_spec.by == CurveBy::Channel ? m_spec.depth - down : -down;
            Vec3 p = place.at + (above + m_leave) * n;
            if (m_spec.by == CurveBy::Side) p -= m_leave * n;
            p += aside * place.away;
            Vec3 tip = p;
            if (m_spec.by == CurveBy::BallCentre) tip = p - 0.5 * m_cutter.diameter * a;
            if (m_spec.by == CurveBy::Channel) tip = tipFromContact(m_cutter, p, n, a).tip;
            tip += m_spec.axial * a;
            poses.push_back({tip, a});
            contacts.push_back(m_spec.by == CurveBy::Channel ? p : tip);
            normals.push_back(n);
        }
        if (!way.closed && m_spec.backAndForth && returning) {
            std::reverse(poses.begin(), poses.end());
            std::reverse(contacts.begin(), contacts.end());
            std::reverse(normals.begin(), normals.end());
        }
        const bool over = way.closed && m_spec.overlap > 0.0;
        if (over) goOn(poses, contacts, normals, m_spec.overlap);
        m_out.passes.push_back(passAlong(poses, contacts, normals, way.closed && !over, static_cast<int>(m_out.passes.size()), -1));
        m_out.passes.back().origin.row = m_out.passes.back().row;
    }

    const CurveSpec& m_spec;
    const Cutter& m_cutter;
    double m_leave, m_tolerance;
    double m_left = 0.0;
    std::vector<Vec3> m_corners;
    AlongResult m_out;
};

} // namespace

Result<AlongResult> guidedPasses(const std::vector<Row>& rows, const AxisResult& axes, const CurveSpec& spec, const Assembly& tool, double leave, double tolerance) {
    const CutterShape shape = tool.cutter.shape;
    const bool ball = shape == CutterShape::Ball || shape == CutterShape::TaperedBall || shape == CutterShape::Lollipop;
    if (spec.by == CurveBy::BallCentre && !ball)
        return fail(fmt::format("a {} has no ball whose middle could follow a curve", cutterShapeName(shape)), {}, "Choose a ball, or let the tip follow");
    if (spec.by == CurveBy::Side && spec.side == CurveSide::On)
        return fail("the cutter's side can follow a curve on its left or on its right", {}, "Choose left or right");
    const auto levels = spec.depth > 0.0 && spec.stepdown > 0.0 ? std::max<std::size_t>(1, static_cast<std::size_t>(std::ceil(spec.depth / spec.stepdown - 1e-6))) : 1;
    if (levels * rows.size() > 20000) return fail(fmt::format("{} passes would be needed", levels * rows.size()), {}, "Use a larger step");
    Guider guider(spec, tool, leave, tolerance);
    double length = 0.0;
    for (std::size_t r = 0; r < rows.size(); ++r) {
        for (std::size_t i = 1; i < rows[r].points.size(); ++i) length += (rows[r].points[i] - rows[r].points[i - 1]).norm();
        guider.follow(rows[r], axes.axes[r], axes.feeds[r], levels);
    }
    if (!rows.empty()) guider.tellCorners(rows.front().points.front());
    AlongResult out = std::move(guider.result());
    out.rows = rows;
    measurePasses(out);
    out.what = spec.by == CurveBy::Channel ? fmt::format("a channel {:.1f} mm long", length)
                                           : fmt::format("{} {} · {:.3f} m", rows.size(), rows.size() == 1 ? "curve" : "curves", length / 1000.0);
    out.how = fmt::format("{} {} · {:.2f} m{}", out.passes.size(), out.passes.size() == 1 ? "pass" : "passes", out.length / 1000.0,
                          spec.depth > 0.0 ? fmt::format(" · {:.2f} deep", spec.depth) : "");
    return out;
}

} // namespace gyre
