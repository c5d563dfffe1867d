#include "edgebreak/EdgeSections.h"
#include "edgebreak/BreakSpec.h"
#include "geom/FindingAt.h"
#include "target/Target.h"
#include <fmt/format.h>
#include <set>

namespace gyre {

double legOfRound(double radius, double bend) { return radius * std::tan(0.5 * bend); }

namespace {

/// An edge of a hole, and which end of it.
struct HoleEnd {
    int edge;
    bool far;
    std::size_t hole;
};

std::vector<HoleEnd> endsOf(const Part& part, const std::vector<Hole>& holes) {
    std::vector<HoleEnd> out;
    for (std::size_t h = 0; h < holes.size(); ++h) {
        const Hole& hole = holes[h];
        const std::set<int> own(hole.faces.begin(), hole.faces.end());
        for (const int f : hole.faces)
            for (const auto& loop : part.faces()[static_cast<std::size_t>(f)].loops)
                for (const int e : loop) {
                    const EdgeInfo& info = part.edges()[static_cast<std::size_t>(e)];
                    if (info.degenerate || own.count(info.faces[0]) == own.count(info.faces[1]) || info.angle < kLeastEdgeBend) continue;
                    const double deep = -(info.middle - hole.mouth).dot(hole.direction);
                    const bool far = deep > 0.5 * hole.depth;
                    if (far && hole.bottom != HoleBottom::Through) continue;
                    out.push_back({e, far, h});
                }
    }
    return out;
}

namespace {

// The round's middle lies its radius below both faces; its ends are the feet on them.
void seatRound(const Part& part, const EdgeInfo& info, double r, const Vec3& into, const std::array<SurfacePoint, 2>& foot, EdgeSection& s) {
    Vec3 centre = s.at - r / std::max(0.05, std::cos(0.5 * s.bend)) * (foot[0].normal + foot[1].normal).normalized();
    std::array<SurfacePoint, 2> end = foot;
    for (int i = 0; i < 12; ++i) {
        std::array<Vec3, 2> n;
        Vec2 off;
        for (std::size_t k = 0; k < 2; ++k) {
            end[k] = part.project(info.faces[k], centre + r * end[k].normal, end[k].u, end[k].v);
            n[k] = end[k].normal;
            off[static_cast<Eigen::Index>(k)] = (centre - end[k].point).dot(n[k]) + r;
        }
        if (off.norm() < 1e-11) break;
        const Vec3 x = into, y = s.along.cross(x);
        Eigen::Matrix2d m;
        for (Eigen::Index k = 0; k < 2; ++k) m.row(k) << n[static_cast<std::size_t>(k)].dot(x), n[static_cast<std::size_t>(k)].dot(y);
        if (std::abs(m.determinant()) < 1e-9) break;
        const Vec2 step = -m.inverse() * off;
        centre += step.x() * x + step.y() * y;
    }
    for (std::size_t k = 0; k < 2; ++k) {
        s.leg[k] = centre + r * rejected(end[k].normal, s.along).normalized();
        s.normal[k] = end[k].normal;
    }
}

} // namespace

EdgeSection sectionAt(const Part& part, const BreakSpec& spec, int edge, const Vec3& at, const Vec3& along) {
    const EdgeInfo& info = part.edges()[static_cast<std::size_t>(edge)];
    EdgeSection s;
    s.at = at;
    s.along = along;
    std::array<SurfacePoint, 2> foot;
    for (std::size_t k = 0; k < 2; ++k) {
        foot[k] = part.project(info.faces[k], at);
        s.normal[k] = foot[k].normal;
    }
    s.bend = angleBetween(s.normal[0], s.normal[1]);
    // Into a face, square to the edge: at a convex edge away from the other face's outside.
    std::array<Vec3, 2> into;
    bool swap = false;
    for (std::size_t k = 0; k < 2; ++k) {
        into[k] = rejected(s.normal[k].cross(along), along).normalized();
        if (into[k].dot(s.normal[1 - k]) > 0.0) into[k] = -into[k];
        if (k == 0) swap = into[k].dot(s.normal[k].cross(along)) < 0.0;
    }
    s.convex = info.angle > 0.0;
    const double leg = spec.round ? legOfRound(spec.size, s.bend) : spec.size;
    for (std::size_t k = 0; k < 2; ++k) {
        Vec3 p = at + leg * into[k];
        SurfacePoint on = foot[k];
        for (int i = 0; i < 4; ++i) {
            on = part.project(info.faces[k], p, on.u, on.v);
            const Vec3 flat = rejected(on.point - at, along);
            if (flat.norm() < 1e-9) break;
            p = at + leg * flat.normalized();
        }
        s.leg[k] = p;
        s.normal[k] = on.normal;
    }
    if (spec.round && s.bend > 1e-3) seatRound(part, info, spec.size, into[0], foot, s);
    if (swap) {
        std::swap(s.leg[0], s.leg[1]);
        std::swap(s.normal[0], s.normal[1]);
    }
    const Vec3 facet = (s.leg[1] - s.leg[0]).normalized();
    s.out = along.cross(facet).normalized();
    if (s.out.dot(s.normal[0] + s.normal[1]) < 0.0) s.out = -s.out;
    return s;
}

} // namespace

std::vector<EdgeRun> edgeRuns(const BreakInput& in, const std::vector<int>& edges) {
    constexpr double kCorner = 12.0 * kPi / 180.0;
    std::set<int> left(edges.begin(), edges.end());
    const auto ends = endsOf(*in.part, in.holes);
    std::vector<EdgeRun> runs;
    while (!left.empty()) {
        const int first = *left.begin();
        std::vector<int> mine;
        for (const int e : tangentChain(*in.part, first, kCorner))
            if (left.count(e)) mine.push_back(e);
        // Of a smooth line of edges take the piece that hangs together.
        std::vector<int> piece{first};
        left.erase(first);
        for (bool more = true; more;) {
            more = false;
            for (const int e : mine) {
                if (!left.count(e)) continue;
                std::vector<int> longer = piece;
                longer.push_back(e);
                if (const auto put = chainOf(*in.part, longer); put && put->edges.size() == longer.size()) {
                    piece = longer;
                    left.erase(e);
                    more = true;
                }
            }
        }
        const auto chain = chainOf(*in.part, piece);
        if (!chain) continue;
        EdgeRun run;
        run.edges = chain->edges;
        run.reversed.assign(chain->reversed.begin(), chain->reversed.end());
        run.closed = chain->closed;
        for (const HoleEnd& e : ends)
            if (e.edge == first) {
                run.hole = e.hole;
                run.far = e.far;
            }
        runs.push_back(std::move(run));
    }
    return runs;
}

std::vector<EdgeSection> sectionsAlong(const BreakInput& in, const BreakSpec& spec, const EdgeRun& run, const Cutter& cutter, const Fineness& fineness, bool& missing) {
    const Part& part = *in.part;
    std::vector<EdgeSection> out;
    missing = false;
    for (std::size_t i = 0; i < run.edges.size(); ++i) {
        const auto curve = part.edgeCurve(run.edges[i]);
        if (!curve || curve->pieces() == 0) {
            missing = true;
            continue;
        }
        const Curve c = run.reversed[i] ? curve->reversed() : *curve;
        const double length = c.length();
        const auto at = [&](double s) {
            const Curve::Place p = c.atLength(s);
            return sectionAt(part, spec, run.edges[i], c.at(p), c.tangent(p));
        };
        std::size_t n = std::max<std::size_t>(2, static_cast<std::size_t>(std::ceil(length / fineness.longest)));
        std::vector<EdgeSection> fine;
        for (int round = 0; round < 9; ++round, n *= 2) {
            fine.clear();
            for (std::size_t k = 0; k <= 2 * n; ++k) fine.push_back(at(length * static_cast<double>(k) / static_cast<double>(2 * n)));
            double off = 0.0;
            const auto way = [&](const EdgeSection& s) { return Vec3(s.at + 0.5 * cutter.diameter * s.out); };
            for (std::size_t k = 1; k < fine.size(); k += 2) {
                off = std::max(off, distanceToSegment(way(fine[k]), way(fine[k - 1]), way(fine[k + 1])));
                off = std::max(off, distanceToSegment(fine[k].at, fine[k - 1].at, fine[k + 1].at));
            }
            if (off <= fineness.chord) break;
        }
        // Every other one was there to look between.
        for (std::size_t k = 0; k < fine.size(); k += 2) {
            const bool joint = k == 0 && !out.empty(), last = run.closed && i + 1 == run.edges.size() && k + 1 == fine.size();
            if (!joint && !last) out.push_back(std::move(fine[k]));
        }
    }
    // A leg that ends beyond its face has no material there.
    for (EdgeSection& s : out) {
        if (!run.closed && std::min((s.at - out.front().at).norm(), (s.at - out.back().at).norm()) < 2.0 * spec.size) continue; // beside a corner
        const double across = in.part->tree().closest(s.leg[0], 1.0).distance, other = in.part->tree().closest(s.leg[1], 1.0).distance;
        s.onFaces = std::max(across, other) < in.part->deflection() + 0.05 * spec.size + 1e-3;
    }
    return out;
}

std::vector<int> edgesToBreak(const BreakInput& in, const BreakSpec& spec, std::vector<Finding>& findings) {
    const Part& part = *in.part;
    std::set<int> out;
    std::size_t inner = 0, lone = 0;
    Vec3 innerAt = Vec3::Zero();
    const auto take = [&](int e, double sharper, bool asked) {
        const EdgeInfo& info = part.edges()[static_cast<std::size_t>(e)];
        if (info.degenerate) return;
        if (info.faces[0] < 0 || info.faces[1] < 0 || info.faces[0] == info.faces[1]) {
            lone += asked ? 1 : 0;
            return;
        }
        if (info.angle < std::max(sharper, kLeastEdgeBend)) {
            if (asked) {
                ++inner;
                innerAt = info.middle;
            }
            return;
        }
        out.insert(e);
    };
    switch (spec.edges) {
    case BreakEdges::Picked:
        for (const int e : in.edges) take(e, 0.0, true);
        break;
    case BreakEdges::Faces:
        for (const int f : in.faces)
            for (const auto& loop : part.faces()[static_cast<std::size_t>(f)].loops)
                for (const int e : loop) take(e, radians(spec.sharper), false);
        break;
    case BreakEdges::Body:
        for (int e = 0; e < part.bodyEdges(); ++e) take(e, radians(spec.sharper), false);
        break;
    default:
        for (const HoleEnd& e : endsOf(part, in.holes))
            if (spec.edges == BreakEdges::HolesBoth || e.far == (spec.edges == BreakEdges::HolesFar)) take(e.edge, 0.0, false);
    }
    const auto told = [&](std::size_t n, const char* code, const std::string& text, const std::string& reason) {
        if (n == 0) return;
        findings.push_back(findingAt(Rank::Look, code, "Target", text, reason, innerAt, static_cast<double>(n)));
    };
    told(inner, "edge-inner", fmt::format("{} of the picked edges {} not broken", inner, inner == 1 ? "is" : "are"),
         "it bends inward or not at all: only sharp outer edges can be broken");
    told(lone, "edge-alone", fmt::format("{} of the picked edges {} not broken", lone, lone == 1 ? "is" : "are"), "it has a face on one side only");
    return {out.begin(), out.end()};
}

} // namespace gyre
