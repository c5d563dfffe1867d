#include "target/Target.h"
#include "base/Index.h"
#include <algorithm>
#include <fmt/format.h>
#include <map>
#include <set>

namespace gyre {
namespace {

constexpr double kSamePoint = 1e-4; // mm; ends of neighbouring edges in exchanged files

const EdgeInfo& edgeOf(const Part& part, int e) { return part.edges()[index(e)]; }
Vec3 startOf(const Part& part, int e, bool reversed) { return reversed ? edgeOf(part, e).end : edgeOf(part, e).start; }
Vec3 endOf(const Part& part, int e, bool reversed) { return startOf(part, e, !reversed); }

// Direction of travel at the start or end of an edge, from its polyline.
Vec3 tangent(const Part& part, int e, bool reversed, bool atEnd) {
    const Polyline& line = part.edgeLine(e);
    if (line.size() < 2) return Vec3::Zero();
    const bool last = atEnd != reversed;
    Vec3 d = last ? Vec3(line[line.size() - 1] - line[line.size() - 2]) : Vec3(line[1] - line[0]);
    if (reversed) d = -d;
    return d.normalized();
}

Result<std::vector<int>> resolved(const std::vector<ShapeRef>& refs, const auto& find) {
    std::set<int> found;
    for (const auto& r : refs) {
        const Result<int> i = find(r);
        if (!i) return tl::unexpected(i.error());
        found.insert(*i);
    }
    return std::vector<int>(found.begin(), found.end());
}

// Walks from the first unused edge to the next one that starts where it ends, as long as there is one.
std::vector<EdgeChain> link(const Part& part, std::vector<int> left) {
    std::vector<EdgeChain> chains;
    while (!left.empty()) {
        EdgeChain chain;
        chain.edges.push_back(left.front());
        chain.reversed.push_back(false);
        left.erase(left.begin());
        const auto extend = [&](bool atEnd) {
            const Vec3 here = atEnd ? endOf(part, chain.edges.back(), chain.reversed.back()) : startOf(part, chain.edges.front(), chain.reversed.front());
            for (std::size_t i = 0; i < left.size(); ++i)
                for (bool reversed : {false, true}) {
                    const Vec3 there = atEnd ? startOf(part, left[i], reversed) : endOf(part, left[i], reversed);
                    if ((there - here).norm() > kSamePoint) continue;
                    chain.edges.insert(atEnd ? chain.edges.end() : chain.edges.begin(), left[i]);
                    chain.reversed.insert(atEnd ? chain.reversed.end() : chain.reversed.begin(), reversed);
                    left.erase(left.begin() + static_cast<std::ptrdiff_t>(i));
                    return true;
                }
            return false;
        };
        const auto isClosed = [&] {
            return (startOf(part, chain.edges.front(), chain.reversed.front()) - endOf(part, chain.edges.back(), chain.reversed.back())).norm() <= kSamePoint;
        };
        while (!isClosed() && extend(true)) {
        }
        while (!isClosed() && extend(false)) {
        }
        chain.closed = isClosed();
        chains.push_back(std::move(chain));
    }
    return chains;
}

} // namespace

Result<std::vector<int>> resolveFaces(const Part& part, const std::vector<ShapeRef>& refs) {
    return resolved(refs, [&](const ShapeRef& r) { return part.findFace(r); });
}

Result<std::vector<int>> resolveEdges(const Part& part, const std::vector<ShapeRef>& refs) {
    return resolved(refs, [&](const ShapeRef& r) { return part.findEdge(r); });
}

Polyline chainLine(const Part& part, const EdgeChain& chain) {
    Polyline out;
    for (std::size_t i = 0; i < chain.edges.size(); ++i) {
        Polyline line = part.edgeLine(chain.edges[i]);
        if (chain.reversed[i]) std::reverse(line.begin(), line.end());
        out.insert(out.end(), line.begin() + (out.empty() || line.empty() ? 0 : 1), line.end());
    }
    return out;
}

double chainLength(const Part& part, const EdgeChain& chain) {
    double sum = 0.0;
    for (int e : chain.edges) sum += edgeOf(part, e).length;
    return sum;
}

Result<EdgeChain> chainOf(const Part& part, const std::vector<int>& edges) {
    if (edges.empty()) return fail("no edge is picked");
    auto chains = link(part, edges);
    if (chains.size() != 1) return fail(fmt::format("the picked edges form {} separate lines", chains.size()), {}, "Pick the edges between them, or fewer");
    return chains.front();
}

std::vector<EdgeChain> chainsOf(const Part& part, const std::vector<int>& edges) { return link(part, edges); }

std::vector<EdgeChain> borderLoops(const Part& part, const std::vector<int>& faces) {
    const std::set<int> inside(faces.begin(), faces.end());
    std::vector<int> border;
    for (std::size_t e = 0; e < part.edges().size(); ++e) {
        const EdgeInfo& info = part.edges()[e];
        if (info.degenerate) continue;
        const int n = (inside.count(info.faces[0]) ? 1 : 0) + (inside.count(info.faces[1]) ? 1 : 0);
        if (n == 1) border.push_back(static_cast<int>(e));
    }
    auto loops = link(part, border);
    std::stable_sort(loops.begin(), loops.end(), [&](const EdgeChain& a, const EdgeChain& b) { return chainLength(part, a) > chainLength(part, b); });
    return loops;
}

std::vector<EdgeChain> borderSides(const Part& part, const std::vector<int>& faces, double cornerAngle) {
    std::vector<EdgeChain> sides;
    for (const EdgeChain& loop : borderLoops(part, faces)) {
        const std::size_t n = loop.edges.size();
        if (n == 0) continue;
        std::vector<std::size_t> corners; // a corner lies before edge i
        for (std::size_t i = 0; i < n; ++i) {
            if (i == 0 && !loop.closed) continue;
            const std::size_t before = (i + n - 1) % n;
            const Vec3 in = tangent(part, loop.edges[before], loop.reversed[before], true), out = tangent(part, loop.edges[i], loop.reversed[i], false);
            if (angleBetween(in, out) > cornerAngle) corners.push_back(i);
        }
        if (!loop.closed) corners.insert(corners.begin(), 0);
        if (corners.empty()) {
            sides.push_back(loop);
            continue;
        }
        for (std::size_t c = 0; c < corners.size(); ++c) {
            const std::size_t from = corners[c], to = c + 1 < corners.size() ? corners[c + 1] : loop.closed ? corners[0] + n : n;
            EdgeChain side;
            for (std::size_t i = from; i < to; ++i) {
                side.edges.push_back(loop.edges[i % n]);
                side.reversed.push_back(loop.reversed[i % n]);
            }
            sides.push_back(std::move(side));
        }
    }
    return sides;
}

namespace {
constexpr double kBorderCorner = 0.6; // rad: sharper turns of the border end a rail
} // namespace

EdgeChain sideOf(const Part& part, const std::vector<int>& faces, int edge) {
    for (EdgeChain& side : borderSides(part, faces, kBorderCorner))
        if (std::find(side.edges.begin(), side.edges.end(), edge) != side.edges.end()) return side;
    return {{edge}, {false}, edgeOf(part, edge).closed};
}

namespace {
/// Faces reached from `face` over edges where the surface is smooth to within `angle`, as long as `joins` lets them.
std::vector<int> spread(const Part& part, int face, double angle, const auto& joins) {
    std::set<int> found{face};
    std::vector<int> open{face};
    while (!open.empty()) {
        const int f = open.back();
        open.pop_back();
        for (const EdgeInfo& e : part.edges()) {
            if (e.degenerate || std::abs(e.angle) > angle) continue;
            const int other = e.faces[0] == f ? e.faces[1] : e.faces[1] == f ? e.faces[0] : -1;
            if (other >= 0 && joins(other) && found.insert(other).second) open.push_back(other);
        }
    }
    return {found.begin(), found.end()};
}
} // namespace

std::vector<int> tangentFaces(const Part& part, int face, double angle) {
    return spread(part, face, angle, [](int) { return true; });
}

std::vector<int> filletFaces(const Part& part, int face) {
    const auto round = [&](int f) { // the small radius of a fillet piece; 0: none
        const FaceInfo& i = part.faces()[index(f)];
        return i.kind == SurfaceKind::Cylinder || i.kind == SurfaceKind::Torus || i.kind == SurfaceKind::Sphere ? i.radius : 0.0;
    };
    const double radius = round(face);
    if (!(radius > 0.0)) return {face};
    return spread(part, face, 0.02, [&](int other) { return std::abs(round(other) - radius) < 0.01 * radius; });
}

std::vector<int> levelFaces(const Part& part, int face) {
    const FaceInfo& own = part.faces()[index(face)];
    if (own.kind != SurfaceKind::Plane) return {face};
    std::vector<int> found;
    for (std::size_t f = 0; f < part.faces().size(); ++f) {
        const FaceInfo& i = part.faces()[f];
        if (i.kind == SurfaceKind::Plane && i.normal.dot(own.normal) > 1.0 - 1e-8 && std::abs((i.centre - own.centre).dot(own.normal)) < 1e-3)
            found.push_back(static_cast<int>(f));
    }
    return found;
}

std::vector<int> tangentChain(const Part& part, int edge, double angle) {
    std::vector<int> chain{edge};
    std::set<int> used{edge};
    for (const bool forward : {true, false}) {
        int at = edge;
        bool reversed = !forward; // run the first edge so that its end is where we go on
        for (;;) {
            const Vec3 here = endOf(part, at, reversed), way = tangent(part, at, reversed, true);
            int next = -1;
            bool turned = false;
            double least = angle;
            for (std::size_t e = 0; e < part.edges().size(); ++e) {
                const int i = static_cast<int>(e);
                if (part.edges()[e].degenerate || used.count(i)) continue;
                for (const bool r : {false, true}) {
                    if ((startOf(part, i, r) - here).norm() > kSamePoint) continue;
                    if (const double a = angleBetween(way, tangent(part, i, r, false)); a < least) {
                        least = a;
                        next = i;
                        turned = r;
                    }
                }
            }
            if (next < 0) break;
            used.insert(next);
            chain.push_back(next);
            at = next;
            reversed = turned;
        }
    }
    return chain;
}

std::vector<std::vector<int>> loopsOf(const Part& part, int edge) {
    std::vector<std::vector<int>> loops;
    for (const int f : std::set<int>(edgeOf(part, edge).faces.begin(), edgeOf(part, edge).faces.end()))
        if (f >= 0)
            for (const auto& loop : part.faces()[index(f)].loops)
                if (std::find(loop.begin(), loop.end(), edge) != loop.end()) {
                    std::vector<int> clean;
                    for (const int e : loop)
                        if (!edgeOf(part, e).degenerate && std::find(clean.begin(), clean.end(), e) == clean.end()) clean.push_back(e);
                    loops.push_back(std::move(clean));
                }
    std::stable_sort(loops.begin(), loops.end(), [](const auto& a, const auto& b) { return a.size() < b.size(); });
    return loops;
}

Result<RailPair> proposeRails(const Part& part, const std::vector<int>& faces) {
    if (faces.empty()) return fail("no face is picked", {}, "Pick the faces to cut");
    auto sides = borderSides(part, faces, kBorderCorner);
    std::vector<EdgeChain> loops;
    for (const auto& s : sides)
        if (s.closed) loops.push_back(s);
    const auto heightOf = [&](const EdgeChain& c) {
        double z = 0.0;
        for (int e : c.edges) z += edgeOf(part, e).middle.z();
        return z / static_cast<double>(c.edges.size());
    };
    const auto ordered = [&](const EdgeChain& a, const EdgeChain& b) { return heightOf(a) <= heightOf(b) ? RailPair{a, b} : RailPair{b, a}; };
    if (loops.size() >= 2) return ordered(loops[0], loops[1]);
    // Two sides that share no corner, the longest together.
    const auto ends = [&](const EdgeChain& c) { return std::pair{startOf(part, c.edges.front(), c.reversed.front()), endOf(part, c.edges.back(), c.reversed.back())}; };
    double best = 0.0;
    RailPair pair;
    for (std::size_t i = 0; i < sides.size(); ++i)
        for (std::size_t j = i + 1; j < sides.size(); ++j) {
            if (sides[i].closed || sides[j].closed) continue;
            const auto [a, b] = ends(sides[i]);
            const auto [c, d] = ends(sides[j]);
            const double apart = std::min({(a - c).norm(), (a - d).norm(), (b - c).norm(), (b - d).norm()});
            if (apart <= kSamePoint) continue;
            const double shorter = std::min(chainLength(part, sides[i]), chainLength(part, sides[j]));
            if (shorter > best) {
                best = shorter;
                pair = ordered(sides[i], sides[j]);
            }
        }
    if (best <= 0.0) return fail("the border of the picked faces has no two opposite sides", {}, "Pick both rails yourself");
    return pair;
}

} // namespace gyre
