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

namespace {

class Runner {
public:
    Runner(std::shared_ptr<const Part> part, const std::vector<Mend>& mends, const MendGround& ground)
        : m_body(part), m_now(std::move(part)), m_mends(mends), m_planes(ground.planes), m_drawn(ground.drawn) {}

    MendResult run(std::size_t i, const std::vector<MendResult>& done) {
        m_done = &done;
        const Mend& m = m_mends[i];
        MendResult r;
        const Status ok = make(m, r);
        if (!ok) {
            r = {};
            r.trouble = ok.error().text();
            return r;
        }
        if (!r.faces.empty()) {
            m_freed.insert(m_freed.end(), r.faces.begin(), r.faces.end());
            m_now = Part::withConstruction(m_body, m_freed, {});
            double area = 0.0;
            for (const auto& f : r.faces) area += f->faces()[0].area;
            r.facts = fmt::format("{} face{}, {:.1f} mm²", r.faces.size(), r.faces.size() == 1 ? "" : "s", area);
        } else if (!r.points.empty()) {
            r.facts = fmt::format("{} point{}", r.points.size(), r.points.size() == 1 ? "" : "s");
        } else {
            double length = 0.0;
            std::size_t knots = 0;
            for (const Curve& c : r.curves) {
                length += c.length();
                knots += c.knots().size();
            }
            const std::string what = r.curves.size() != 1 ? fmt::format("{} curves", r.curves.size()) : r.curves[0].closed() ? "closed" : "open";
            r.facts = fmt::format("{}, {:.3f} mm, {} points", what, length, knots);
        }
        return r;
    }

private:
    Result<std::vector<Curve>> curves(const MendSource& source, const char* which) const {
        if (source.empty()) return fail(fmt::format("the {} curve is not picked yet", which), {}, "Pick its edges, or name what another mend made");
        if (!source.curve.empty()) {
            std::string name = source.curve;
            std::size_t number = 0; // 0: all
            if (const auto slash = name.rfind('/'); slash != std::string::npos && name.find_first_not_of("0123456789", slash + 1) == std::string::npos &&
                                                    slash + 1 < name.size() && slash + 7 > name.size()) {
                number = std::stoul(name.substr(slash + 1));
                name.resize(slash);
            }
            const auto chosen = [&](const std::vector<Curve>& all) -> Result<std::vector<Curve>> {
                if (all.empty()) return fail(fmt::format("'{}' made no curve", name));
                if (number == 0) return all;
                if (number > all.size()) return fail(fmt::format("'{}' has {} curves only", name, all.size()));
                return std::vector<Curve>{all[number - 1]};
            };
            if (const auto drawn = m_drawn.find(name); drawn != m_drawn.end()) return chosen(drawn->second);
            for (std::size_t i = 0; i < m_done->size(); ++i)
                if (m_mends[i].name == name) {
                    const MendResult& r = (*m_done)[i];
                    if (!r.trouble.empty()) return fail(fmt::format("'{}' above could not be made", name));
                    return chosen(r.curves);
                }
            return fail(fmt::format("no mend above and no drawing is called '{}'", name), {}, "Mends start from those above them");
        }
        const auto edges = resolveEdges(*m_now, source.edges);
        if (!edges) return tl::unexpected(edges.error());
        const auto chain = chainOf(*m_now, *edges);
        if (!chain) return tl::unexpected(chain.error());
        Curve whole;
        for (std::size_t i = 0; i < chain->edges.size(); ++i) {
            auto c = m_now->edgeCurve(chain->edges[i]);
            if (!c) return tl::unexpected(c.error());
            whole = joined(whole, chain->reversed[i] ? c->reversed() : *c);
        }
        return std::vector<Curve>{whole};
    }

    Status drawn(const Mend& m, MendResult& r) const {
        std::vector<Vec3> points;
        for (const auto& p : m.points) points.emplace_back(p[0], p[1], p[2]);
        if (m.choice("shape") == 2) { // through the air, from every first point to the second
            for (std::size_t i = 0; i + 1 < points.size(); i += 2) {
                if ((points[i + 1] - points[i]).norm() < 1e-6) return fail(fmt::format("both points of line {} are the same", i / 2 + 1));
                r.curves.push_back(straightLines({points[i], points[i + 1]}));
            }
            if (r.curves.empty()) return fail("a line needs two points", {}, "Click where it begins and where it ends");
            return {};
        }
        auto c = drawnOn(*m_body, points, m.choice("shape") == 0, m.choice("ends") == 1);
        if (!c) return tl::unexpected(c.error());
        r.curves.push_back(*c);
        return {};
    }

    static Curve helixOf(const Mend& m) {
        const int k = m.choice("axis");
        const Vec3 axis = axisOf(k), x = axisOf((k + 1) % 3), y = axisOf((k + 2) % 3), centre(m.number("cx"), m.number("cy"), m.number("cz"));
        const double a = radians(m.number("start")), turns = m.number("turns"), sign = m.choice("hand") == 1 ? -1.0 : 1.0;
        const double pitch = m.number("pitch"), growth = m.choice("growth") == 1 ? m.number("endPitch") - pitch : 0.0;
        return helix(centre, axis, centre + m.number("radius") * (std::cos(a) * x + std::sin(a) * y), sign * 2.0 * kPi * turns, (pitch + 0.5 * growth) * turns,
                     growth * turns);
    }

    Status make(const Mend& m, MendResult& r) const {
        const MendForm& form = formOf(m.kind);
        std::vector<int> faces;
        if (form.asks("faces")) {
            auto found = resolveFaces(*m_now, m.faces);
            if (!found) return tl::unexpected(found.error());
            faces = *found;
        }
        const bool facesNeeded = m.kind == MendKind::FreedFace || m.kind == MendKind::GridLine || m.kind == MendKind::OffsetOnFace || m.kind == MendKind::Project ||
                                 (m.kind == MendKind::OffsetAway && m.choice("along") == 0);
        if (facesNeeded && faces.empty()) return fail("no face is picked yet", {}, "Pick the face");
        if (m.kind == MendKind::FreedFace) {
            for (const int f : faces) {
                auto one = m_now->freedFace(f, m.choice("extent") == 1, m.number("grow"));
                if (!one) return tl::unexpected(one.error());
                r.faces.push_back(*one);
            }
            return {};
        }
        if (m.kind == MendKind::GridLine) {
            for (const int f : faces) {
                auto c = m_now->gridLine(f, m.choice("along") == 1, 0.01 * m.number("at"));
                if (!c) return tl::unexpected(c.error());
                r.curves.push_back(*c);
            }
            return {};
        }
        if (m.kind == MendKind::Sketch) return sketch(m, r);
        if (m.kind == MendKind::Drawn) return drawn(m, r);
        if (m.kind == MendKind::Helix) {
            r.curves.push_back(helixOf(m));
            return {};
        }
        const auto first = curves(m.first, "first");
        if (!first) return tl::unexpected(first.error());
        const bool secondNeeded = m.kind == MendKind::Middle || (m.kind == MendKind::Trim && !m.second.empty()) || (m.kind == MendKind::Join && !m.second.empty());
        std::vector<Curve> second;
        if (secondNeeded) {
            auto s = curves(m.second, "second");
            if (!s) return tl::unexpected(s.error());
            second = *s;
        }
        if (m.kind == MendKind::Join) {
            second.insert(second.begin(), first->begin(), first->end());
            if (second.size() < 2 && m.second.empty()) return fail("there is only one curve to join", {}, "Pick the second");
            r.curves.push_back(joinAll(second));
            return {};
        }
        for (const Curve& c : *first)
            if (const auto ok = fromCurve(m, c, second, faces, r); !ok) return ok;
        return {};
    }

    /// End to end, each turned and placed where it comes nearest.
    static Curve joinAll(std::vector<Curve> left) {
        Curve whole = left.front();
        left.erase(left.begin());
        while (!left.empty() && !whole.closed()) {
            double least = 1e300;
            std::size_t which = 0;
            int how = 0;
            for (std::size_t i = 0; i < left.size(); ++i)
                for (int k = 0; k < 4; ++k) {
                    const Vec3 mine = k & 1 ? whole.start() : whole.end(), theirs = k & 2 ? left[i].end() : left[i].start();
                    if (const double d = (mine - theirs).norm(); d < least) {
                        least = d;
                        which = i;
                        how = k;
                    }
                }
            if (how & 1) whole = whole.reversed();
            const Curve next = how & 2 ? left[which].reversed() : left[which];
            whole = joined(whole, next);
            if (how & 1 && !whole.closed()) whole = whole.reversed();
            left.erase(left.begin() + static_cast<std::ptrdiff_t>(which));
        }
        return whole;
    }

    Status fromCurve(const Mend& m, const Curve& c, const std::vector<Curve>& second, const std::vector<int>& faces, MendResult& r) const {
        const auto keep = [&](Result<Curve> made) -> Status {
            if (!made) return tl::unexpected(made.error());
            r.curves.push_back(std::move(*made));
            return {};
        };
        switch (m.kind) {
        case MendKind::Edges:
            return keep(c);
        case MendKind::Middle:
            return keep(middleOf(c, second.front()).map([up = Frame(Eigen::Translation3d(m.number("raise") * Vec3(Vec3::Unit(m.choice("along")))))](const Curve& middle) {
                return middle.moved(up);
            }));
        case MendKind::OffsetOnFace:
            return keep(offsetOnFaces(*m_now, faces, c, m.number("distance")));
        case MendKind::OffsetAway:
            return keep(offsetAway(*m_now, faces, c, static_cast<Away>(m.choice("along")), m.number("distance")));
        case MendKind::Project: {
            auto pieces = projected(*m_now, faces, c, static_cast<Away>(m.choice("along")));
            if (!pieces) return tl::unexpected(pieces.error());
            r.curves.insert(r.curves.end(), pieces->begin(), pieces->end());
            return {};
        }
        case MendKind::Extend:
            return keep(extended(c, m.number("start"), m.number("end"), m.choice("shape") == 1));
        case MendKind::Trim:
            return keep(trimmed(m, c, second));
        case MendKind::Simplify: {
            const auto fewer = m.drop.empty() ? Result<Curve>(c) : withoutKnots(c, m.drop);
            if (!fewer) return tl::unexpected(fewer.error());
            return keep(simplified(*fewer, m.number("tolerance")));
        }
        case MendKind::Copy: {
            const int count = static_cast<int>(m.number("count"));
            Frame step = Frame::Identity(), now = Frame::Identity();
            step.linear() = rotation(axisOf(m.choice("axis")), radians(m.number("turn")));
            step.translation() = Vec3(m.number("dx"), m.number("dy"), m.number("dz"));
            for (int i = 0; i < count; ++i) {
                now = step * now;
                r.curves.push_back(c.moved(now));
            }
            return {};
        }
        default:
            return fail("this kind does not start from a curve");
        }
    }

    static Result<Curve> trimmed(const Mend& m, const Curve& c, const std::vector<Curve>& second) {
        const double whole = c.length();
        double from = m.number("start"), to = whole - m.number("end");
        if (!second.empty()) {
            // Where the two come nearest: the best of many places, refined.
            double best = 0.0, least = 1e300;
            const int n = std::clamp(static_cast<int>(whole / 0.2), 64, 20000);
            const auto apart = [&](double s) { return second.front().closest(c.at(c.atLength(s))).distance; };
            for (int i = 0; i <= n; ++i)
                if (const double d = apart(whole * i / n); d < least) {
                    least = d;
                    best = whole * i / n;
                }
            double a = std::max(0.0, best - whole / n), b = std::min(whole, best + whole / n);
            for (int i = 0; i < 200 && b - a > 1e-10; ++i) {
                const double p = a + 0.381966 * (b - a), q = b - 0.381966 * (b - a);
                (apart(p) < apart(q) ? b : a) = apart(p) < apart(q) ? q : p;
            }
            const double cut = 0.5 * (a + b);
            (m.choice("keep") == 1 ? from : to) = m.choice("keep") == 1 ? std::max(from, cut) : std::min(to, cut);
        }
        if (!(to - from > 1e-6)) return fail(fmt::format("nothing is left of {:.3f} mm", whole), {}, "Take off less");
        return c.between(from, to);
    }

    Status sketch(const Mend& m, MendResult& r) const {
        if (m.points.empty()) return fail("the sketch has no points yet", {}, "Write them as: 0 0; 10 0; 10 5");
        const int on = m.choice("on");
        const double radius = m.number("radius");
        Frame place = Frame::Identity();
        if (on == 6) {
            if (m_planes.empty()) return fail("there is no work plane yet", {}, "Make one under Planes");
            const auto number = static_cast<std::size_t>(m.choice("plane"));
            if (number > m_planes.size()) return fail(fmt::format("there is no work plane {}; there are {}", number, m_planes.size()));
            place = m_planes[number - 1].frame();
        } else {
            const int k = on % 3; // XY, YZ, ZX; about X, Y, Z
            const int x = on < 3 ? k : (k + 1) % 3;
            place.linear().col(0) = axisOf(x);
            place.linear().col(1) = axisOf((x + 1) % 3);
            place.linear().col(2) = axisOf((x + 2) % 3);
        }
        const bool round = on >= 3 && on < 6;
        const auto at = [&](const std::array<double, 3>& p) -> Vec3 {
            if (!round) return place * Vec3(p[0], p[1], 0.0);
            return place * Vec3(radius * std::cos(radians(p[1])), radius * std::sin(radians(p[1])), p[0]); // along the axis, and round it
        };
        if (m.choice("as") == 1) {
            for (const auto& p : m.points) r.points.push_back(at(p));
            return {};
        }
        if (m.points.size() < 2) return fail("lines need two points at least");
        Curve whole;
        const bool closed = m.choice("ends") == 1;
        for (std::size_t i = 0; i + (closed ? 0 : 1) < m.points.size(); ++i) {
            const auto &a = m.points[i], &b = m.points[(i + 1) % m.points.size()];
            const Vec3 p = at(a), q = at(b);
            if (std::hypot(b[0] - a[0], b[1] - a[1]) < 1e-9) continue;
            if (round) {
                if (a[2] != 0.0) return fail("on a cylinder lines run straight or as helices; arcs are not known there");
                whole = joined(whole, helix(place.translation(), place.linear().col(2), p, radians(b[1] - a[1]), b[0] - a[0]), 1e-9);
            } else {
                whole = joined(whole, bulgedLine(p, q, place.linear().col(2), a[2]), 1e-9);
            }
        }
        if (whole.pieces() == 0) return fail("all points of the sketch are one");
        r.curves.push_back(whole);
        return {};
    }

    std::shared_ptr<const Part> m_body, m_now; ///< without construction; with the faces made so far
    std::vector<std::shared_ptr<const Part>> m_freed;
    const std::vector<Mend>& m_mends;
    const std::vector<WorkPlane>& m_planes;
    const std::map<std::string, std::vector<Curve>>& m_drawn;
    const std::vector<MendResult>* m_done = nullptr;
};

} // namespace

std::vector<MendResult> runMends(const std::shared_ptr<const Part>& part, const std::vector<Mend>& mends, const MendGround& ground) {
    Runner runner(part, mends, ground);
    std::vector<MendResult> results;
    for (std::size_t i = 0; i < mends.size(); ++i) {
        results.push_back(runner.run(i, results));
        results.back().name = mends[i].name;
    }
    return results;
}

std::shared_ptr<const Part> mendedPart(const std::shared_ptr<const Part>& part, const std::vector<MendResult>& results) {
    std::vector<std::shared_ptr<const Part>> faces;
    std::vector<Curve> lines;
    for (const MendResult& r : results) {
        faces.insert(faces.end(), r.faces.begin(), r.faces.end());
        for (const Curve& c : r.curves)
            if (c.pieces() > 0) lines.push_back(c);
    }
    return faces.empty() && lines.empty() ? part : Part::withConstruction(part, faces, lines);
}

} // namespace gyre
