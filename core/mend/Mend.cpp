#include "mend/Mend.h"
#include "base/Units.h"
#include "target/Target.h"
#include <fmt/format.h>

namespace gyre {

namespace {

std::string placeWords(const Vec3& p) { return fmt::format("{:.2f} {:.2f} {:.2f}", p.x(), p.y(), p.z()); }

/// Some faces of a part as one mesh, to find which of them is near or in the way.
class Ground {
public:
    Ground(const Part& part, std::vector<int> faces) : m_part(part), m_faces(std::move(faces)) {
        if (m_faces.empty())
            for (int f = 0; f < part.bodyFaces(); ++f) m_faces.push_back(f);
        for (const int f : m_faces) {
            TriangleMesh one = part.faceMesh(f);
            one.faces.assign(one.triangles.size(), f);
            m_mesh.append(one);
        }
        m_tree = MeshTree(m_mesh);
    }
    struct Spot {
        int face;
        SurfacePoint at;
    };
    [[nodiscard]] Spot nearest(const Vec3& p) const {
        if (m_faces.size() == 1) return {m_faces[0], m_part.project(m_faces[0], p)};
        // Between two faces the exact feet decide.
        const int first = m_mesh.faces[m_tree.closest(p).triangle];
        return {first, m_part.project(first, p)};
    }
    /// The first thing met from `far` along the unit direction.
    [[nodiscard]] std::optional<Spot> along(const Vec3& from, const Vec3& direction) const {
        const RayHit hit = m_tree.ray(from, direction);
        if (!hit.hit) return std::nullopt;
        const int face = m_mesh.faces[hit.triangle];
        double t = hit.distance;
        if (m_part.isMesh()) {
            const SurfacePoint s = m_part.project(face, from + t * direction);
            return Spot{face, {from + t * direction, s.normal, 0.0, 0.0}};
        }
        SurfacePoint s = m_part.project(face, from + t * direction);
        for (int i = 0; i < 40; ++i) { // where the line meets the tangent plane, again and again
            const double fall = direction.dot(s.normal);
            if (std::abs(fall) < 1e-6) break;
            const double step = (s.point - (from + t * direction)).dot(s.normal) / fall;
            t += step;
            s = m_part.project(face, from + t * direction, s.u, s.v);
            if (std::abs(step) < 1e-12) break;
        }
        return Spot{face, s};
    }
    [[nodiscard]] Box bounds() const { return m_mesh.bounds(); }

private:
    const Part& m_part;
    std::vector<int> m_faces;
    TriangleMesh m_mesh;
    MeshTree m_tree;
};

Vec3 axisOf(int k) { return Vec3::Unit(k); }

} // namespace

// A line that does not turn aside bends with the surface only: x″ = κ(x, x′)·N. Runge–Kutta of the fourth order, with the point
// put back on the surface after every step. On a mesh the steps themselves follow the triangles.
Result<SurfacePoint> straightOnFace(const Part& part, int face, const Vec3& start, const Vec3& direction, double length) {
    SurfacePoint s = part.project(face, start);
    Vec3 d = rejected(direction, s.normal);
    if (!(d.norm() > 1e-9)) return fail("the direction stands square to the face", placeWords(start));
    d.normalize();
    if (length < 0.0) d = -d;
    length = std::abs(length);
    const int steps = std::clamp(static_cast<int>(std::ceil(length / (part.isMesh() ? 0.05 : 0.25))), 4, 4000);
    const double h = length / steps;
    for (int i = 0; i < steps && h > 0.0; ++i) {
        const auto bendAt = [&](const Vec3& p, const Vec3& way) {
            const SurfacePoint foot = part.project(face, p, s.u, s.v);
            return part.bend(face, foot, way);
        };
        Vec3 next, way;
        if (part.isMesh()) {
            next = s.point + h * d;
            way = d;
        } else {
            const Vec3 k1 = part.bend(face, s, d);
            const Vec3 d2 = d + 0.5 * h * k1, k2 = bendAt(s.point + 0.5 * h * d, d2);
            const Vec3 d3 = d + 0.5 * h * k2, k3 = bendAt(s.point + 0.5 * h * d2, d3);
            const Vec3 d4 = d + h * k3, k4 = bendAt(s.point + h * d3, d4);
            next = s.point + h / 6.0 * (d + 2.0 * d2 + 2.0 * d3 + d4);
            way = d + h / 6.0 * (k1 + 2.0 * k2 + 2.0 * k3 + k4);
        }
        const SurfacePoint foot = part.isMesh() ? part.project(face, next) : part.project(face, next, s.u, s.v);
        if ((foot.point - next).norm() > 0.25 * h + 1e-9)
            return fail("the surface ends there", placeWords(next), "Use a smaller distance, or free the face of its trim and let it grow");
        s = foot;
        d = rejected(way, s.normal).normalized();
    }
    return s;
}

Result<Curve> offsetOnFaces(const Part& part, const std::vector<int>& faces, const Curve& curve, double distance) {
    const Ground ground(part, faces);
    return sampledAlong(curve, [&](const Curve::Place& p) -> Result<Vec3> {
        const Vec3 at = curve.at(p);
        const auto spot = ground.nearest(at);
        if ((spot.at.point - at).norm() > 0.05) return fail("the curve does not lie on the face", placeWords(at), "Project it onto the face first");
        const auto end = straightOnFace(part, spot.face, spot.at.point, spot.at.normal.cross(curve.tangent(p)), distance);
        if (!end) return tl::unexpected(end.error());
        return end->point;
    });
}

Result<Curve> offsetAway(const Part& part, const std::vector<int>& faces, const Curve& curve, Away way, double distance) {
    if (way != Away::Normal) {
        Frame f = Frame::Identity();
        f.translation() = distance * axisOf(static_cast<int>(way) - 1);
        return curve.moved(f);
    }
    const Ground ground(part, faces);
    return sampledAlong(curve, [&](const Curve::Place& p) -> Result<Vec3> {
        const Vec3 at = curve.at(p);
        return Vec3(at + distance * ground.nearest(at).at.normal);
    });
}

Result<std::vector<Curve>> projected(const Part& part, const std::vector<int>& faces, const Curve& curve, Away way) {
    if (curve.pieces() == 0) return fail("the curve has no length");
    const Ground ground(part, faces);
    if (way == Away::Normal) {
        auto one = sampledAlong(curve, [&](const Curve::Place& p) -> Result<Vec3> { return ground.nearest(curve.at(p)).at.point; });
        if (!one) return tl::unexpected(one.error());
        return std::vector<Curve>{*one};
    }
    const Vec3 down = -axisOf(static_cast<int>(way) - 1);
    const Box box = ground.bounds();
    const double high = std::max((-down).dot(box.high), (-down).dot(curve.bounds().high)) + 10.0;
    const auto drop = [&](const Vec3& p) { return ground.along(p + (high - (-down).dot(p)) * -down, down); };
    const double whole = curve.length();
    const int n = std::clamp(static_cast<int>(whole / 0.25), 64, 8192);
    const auto hits = [&](double s) { return drop(curve.at(curve.atLength(s))).has_value(); };
    std::vector<std::pair<double, double>> stretches;
    bool before = false;
    for (int i = 0; i <= n; ++i) {
        const double s = whole * i / n;
        const bool now = hits(std::min(s, curve.closed() ? whole * (1 - 1e-12) : whole));
        if (now != before) {
            double edge = s;
            if (i > 0) { // where the border lies between this look and the one before
                double a = whole * (i - 1) / n, b = s;
                for (int k = 0; k < 50; ++k) {
                    const double m = 0.5 * (a + b);
                    (hits(m) == before ? a : b) = m;
                }
                edge = now ? b : a;
            }
            if (now)
                stretches.emplace_back(edge, whole);
            else
                stretches.back().second = edge;
        }
        before = now;
    }
    std::vector<Curve> out;
    for (const auto& [from, to] : stretches) {
        if (to - from < 1e-6) continue;
        const Curve piece = from <= 0.0 && to >= whole ? curve : curve.between(from, to);
        auto one = sampledAlong(piece, [&](const Curve::Place& p) -> Result<Vec3> {
            const Vec3 at = piece.at(p);
            const auto spot = drop(at);
            return spot ? spot->at.point : ground.nearest(at).at.point;
        });
        if (!one) return tl::unexpected(one.error());
        out.push_back(std::move(*one));
    }
    if (out.empty()) return fail("nothing of the faces lies below the curve", {}, "Choose other faces or another way");
    return out;
}

namespace {

Curve smoothThrough(const std::vector<Vec3>& on, bool closed) {
    const std::size_t n = on.size();
    std::vector<CurveKnot> knots;
    for (std::size_t i = 0; i < n; ++i) {
        // The tangent of the circle through the point and its neighbours; at an open end that of the first or last arc.
        const auto at = [&](std::ptrdiff_t k) { return on[static_cast<std::size_t>((k + static_cast<std::ptrdiff_t>(n)) % static_cast<std::ptrdiff_t>(n))]; };
        const std::ptrdiff_t mid =
            closed ? static_cast<std::ptrdiff_t>(i) : std::clamp<std::ptrdiff_t>(static_cast<std::ptrdiff_t>(i), 1, static_cast<std::ptrdiff_t>(n) - 2);
        const Vec3 a = at(mid) - at(mid - 1), b = at(mid + 1) - at(mid);
        const Vec3 before = a / a.squaredNorm(), after = b / b.squaredNorm();
        Vec3 t = before + after;
        if (!closed && i == 0) t = 2.0 * a / a.norm() - t.normalized();
        if (!closed && i + 1 == n) t = 2.0 * b / b.norm() - t.normalized();
        t = t.norm() > 1e-12 ? Vec3(t.normalized()) : Vec3(b.normalized());
        knots.push_back({on[i], t, t});
    }
    return Curve(knots, closed);
}

} // namespace

// A curve in space through the points, and its foot on the skin. Where the skin runs on, feet move no further than the curve does;
// where one foot leaps ahead of its neighbours the curve has gone through the body or past an end.
Result<Curve> drawnOn(const Part& part, const std::vector<Vec3>& points, bool smooth, bool closed) {
    constexpr double kOff = 1.0;
    const Ground ground(part, {});
    std::vector<Vec3> on;
    for (const Vec3& p : points) {
        const Vec3 foot = ground.nearest(p).at.point;
        if ((foot - p).norm() > kOff)
            return fail(fmt::format("point {} lies {:.2f} mm off the part", on.size() + 1, (foot - p).norm()), placeWords(p), "Click it on the part");
        if (on.empty() || (foot - on.back()).norm() > 1e-6) on.push_back(foot);
    }
    if (closed && on.size() > 1 && (on.front() - on.back()).norm() < 1e-6) on.pop_back();
    if (on.size() < 2 || (closed && on.size() < 3))
        return fail(closed ? "a closed curve needs three points at least" : "a curve needs two points at least", {}, "Click them on the part");
    const std::size_t n = on.size();
    Curve air = straightLines(on, closed);
    if (smooth && n > 2) air = smoothThrough(on, closed);
    const auto foot = [&](const Vec3& p) { return ground.nearest(p).at.point; };
    // Closer and closer points of the skin, from what lies midway between two of them. At an edge the feet leap from one face to the
    // other; halving brings them to the edge. Where a middle lies too far inside, there is no telling which way round is meant.
    constexpr double kStep = 0.2, kInside = 0.36;
    Polyline skin{on.front()};
    bool leaps = false;
    std::optional<Vec3> lost;
    const std::function<void(const Vec3&, const Vec3&, const Vec3&, int)> fill = [&](const Vec3& a, const Vec3& b, const Vec3& middle, int depth) {
        const double gap = (b - a).norm();
        const Vec3 m = foot(middle);
        const double far = std::max((m - a).norm(), (m - b).norm());
        const bool over = (m - a).norm() + (m - b).norm() > 1.002 * gap; // it bends: an edge may lie between
        if (gap <= (over ? 1e-5 : kStep) || lost || depth > 60) {
            skin.push_back(b);
            return;
        }
        if ((m - middle).norm() > kInside * gap || far > 0.95 * gap) {
            lost = m;
            return;
        }
        leaps = leaps || (over && gap < 0.01);
        fill(a, m, 0.5 * (a + m), depth + 1);
        fill(m, b, 0.5 * (m + b), depth + 1);
    };
    for (std::size_t piece = 0; piece < air.pieces(); ++piece) {
        fill(on[piece], on[(piece + 1) % n], air.at(piece, 0.5), 0);
        if (lost)
            return fail(fmt::format("between points {} and {} the part's skin cannot be followed", piece + 1, (piece + 1) % n + 1), placeWords(*lost),
                        "Set another point between them");
    }
    if (closed) skin.pop_back();
    const Curve rough = straightLines(skin, closed);
    if (part.isMesh()) return rough; // every point lies on the triangles; between them the skin is as rough as they are
    const Curve& guide = leaps ? rough : air;
    return sampledAlong(guide, [&](const Curve::Place& p) -> Result<Vec3> { return foot(guide.at(p)); });
}

Result<Curve> extended(const Curve& curve, double atStart, double atEnd, bool asArc) {
    if (curve.pieces() == 0) return fail("the curve has no length");
    if (curve.closed()) return fail("a closed curve has no ends to extend");
    const auto tail = [&](const Curve& c, double length) {
        const CurveKnot &end = c.knots().back(), &before = c.knots()[c.knots().size() - 2];
        const Vec3 t = end.before;
        // The circle that leaves the end along its tangent and passes through the knot before.
        const Vec3 chord = before.point - end.point, side = rejected(chord, t);
        const double curvature = 2.0 * side.norm() / chord.squaredNorm();
        if (!asArc || curvature * length < 1e-9) return straightLines({end.point, end.point + length * t});
        const Vec3 toCentre = side.normalized(), centre = end.point + toCentre / curvature;
        return circleArc(centre, t.cross(toCentre).normalized(), end.point, curvature * length);
    };
    Curve out = curve;
    if (atEnd > 0.0) out = joined(out, tail(out, atEnd));
    if (atStart > 0.0) out = joined(out.reversed(), tail(out.reversed(), atStart)).reversed();
    return out;
}

} // namespace gyre
