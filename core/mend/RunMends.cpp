// The mends of a job, one after the other, each on what those above it made.
#include "base/Units.h"
#include "mend/Mend.h"
#include "target/Target.h"
#include <fmt/format.h>

namespace gyre {

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
        const Vec3 axis = Vec3::Unit(k), x = Vec3::Unit((k + 1) % 3), y = Vec3::Unit((k + 2) % 3), centre(m.number("cx"), m.number("cy"), m.number("cz"));
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
            step.linear() = rotation(Vec3::Unit(m.choice("axis")), radians(m.number("turn")));
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
            place.linear().col(0) = Vec3::Unit(x);
            place.linear().col(1) = Vec3::Unit((x + 1) % 3);
            place.linear().col(2) = Vec3::Unit((x + 2) % 3);
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
