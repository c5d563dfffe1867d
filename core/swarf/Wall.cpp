// Walls as rulings: from the grid of faces, or matched between two rails.
#include "base/Parallel.h"
#include "base/Units.h"
#include "swarf/Swarf.h"
#include "target/Target.h"
#include <fmt/format.h>
#include <set>

namespace gyre {
namespace {

constexpr double kSame = 2e-3; // mm: ends of neighbouring faces

/// A face as a strip along one of its own parameters.
struct FaceStrip {
    int face = -1;
    bool alongV = true; ///< rulings run along v, for many u
    Vec2 low, high;     ///< parameters
    double bulge = 0.0;
    bool aligned = true; ///< its border runs along its grid
    bool backward = false, upsideDown = false;
    std::shared_ptr<const std::array<Curve, 2>> border; ///< of planes whose grid lies askew to their border: lower and upper side of it
};

/// The border of a plane face in pieces from corner to corner, in order around it; empty when it cannot be told.
std::vector<Curve> borderPieces(const Part& part, int face) {
    const auto& loops = part.faces()[static_cast<std::size_t>(face)].loops;
    if (loops.empty()) return {};
    const auto chain = chainOf(part, loops.front());
    if (!chain || !chain->closed) return {};
    CurveChain whole(kSame);
    for (std::size_t i = 0; i < chain->edges.size(); ++i) {
        const auto curve = part.edgeCurve(chain->edges[i]);
        if (!curve) return {};
        whole.add(chain->reversed[i] ? curve->reversed() : *curve);
    }
    const Curve loop = whole.take();
    std::vector<double> corners;
    double s = 0.0;
    for (std::size_t i = 0; i < loop.knots().size() && loop.closed(); s += loop.pieceLength(i), ++i)
        if (angleBetween(loop.knots()[i].before, loop.knots()[i].after) > radians(20.0)) corners.push_back(s);
    std::vector<Curve> out;
    for (std::size_t i = 0; i < corners.size(); ++i) out.push_back(loop.between(corners[i], i + 1 < corners.size() ? corners[i + 1] : corners.front() + loop.length()));
    return out;
}

/// The ways to take a plane face as a strip between two straight sides of its border, the steepest first.
std::vector<std::array<Curve, 2>> borderStrips(const Part& part, int face) {
    const std::vector<Curve> pieces = borderPieces(part, face);
    const std::size_t n = pieces.size();
    if (n < 4 || n > 40) return {};
    const auto straight = [](const Curve& c) { return (c.end() - c.start()).norm() > c.length() - 1e-4; };
    const auto rise = [](const Curve& c) { return std::abs((c.end() - c.start()).z()); };
    const auto joinedUp = [&](std::size_t from, std::size_t to) { // from one piece to before another
        CurveChain chain(kSame);
        for (std::size_t k = from % n; k != to; k = (k + 1) % n) chain.add(pieces[k]);
        return chain.take();
    };
    std::vector<std::pair<double, std::array<Curve, 2>>> ways;
    for (std::size_t i = 0; i < n; ++i)
        for (std::size_t j = i + 2; j < n; ++j) {
            if ((j + 1) % n == i || !straight(pieces[i]) || !straight(pieces[j])) continue;
            ways.push_back({rise(pieces[i]) + rise(pieces[j]), {joinedUp(i + 1, j), joinedUp(j + 1, i).reversed()}});
        }
    std::stable_sort(ways.begin(), ways.end(), [](const auto& a, const auto& b) { return a.first > b.first + 1e-9; });
    std::vector<std::array<Curve, 2>> out;
    for (auto& w : ways) out.push_back(std::move(w.second));
    return out;
}

Ruling rulingAt(const Part& part, const FaceStrip& s, double across) {
    const double a = s.backward ? 1.0 - across : across;
    if (s.border) {
        const Vec3 normal = part.faces()[static_cast<std::size_t>(s.face)].normal;
        return {pointAt((*s.border)[s.upsideDown ? 1 : 0], a), pointAt((*s.border)[s.upsideDown ? 0 : 1], a), normal, normal, s.face, false};
    }
    const auto at = [&](double along) {
        const double b = s.upsideDown ? 1.0 - along : along, fu = s.alongV ? a : b, fv = s.alongV ? b : a;
        return part.evaluate(s.face, (1.0 - fu) * s.low.x() + fu * s.high.x(), (1.0 - fv) * s.low.y() + fv * s.high.y());
    };
    const SurfacePoint l = at(0.0), h = at(1.0);
    return {l.point, h.point, l.normal, h.normal, s.face, false};
}

/// How far the lines of a family leave their chords at most; a huge number when they have none.
double bulgeOf(const Part& part, const FaceStrip& s) {
    double most = 0.0;
    for (int i = 0; i <= 8; ++i) {
        const Ruling r = rulingAt(part, s, i / 8.0);
        if ((r.high - r.low).norm() < 1e-6) return 1e9;
        for (int k = 1; k < 8; ++k) {
            const double a = i / 8.0, b = k / 8.0, fu = s.alongV ? a : b, fv = s.alongV ? b : a;
            const Vec3 p = part.evaluate(s.face, (1.0 - fu) * s.low.x() + fu * s.high.x(), (1.0 - fv) * s.low.y() + fv * s.high.y()).point;
            most = std::max(most, distanceToSegment(p, r.low, r.high));
        }
    }
    return most;
}

/// Does the face's border run along its grid? Points of the grid's rim must all lie on the face.
bool rimOnFace(const Part& part, int face, const Vec2& low, const Vec2& high) {
    const MeshTree own(part.faceMesh(face));
    for (int i = 0; i <= 4; ++i)
        for (int side = 0; side < 4; ++side) {
            const double t = i / 4.0, fu = side == 0 ? 0.0 : side == 1 ? 1.0 : t, fv = side == 2 ? 0.0 : side == 3 ? 1.0 : t;
            const Vec3 p = part.evaluate(face, (1.0 - fu) * low.x() + fu * high.x(), (1.0 - fv) * low.y() + fv * high.y()).point;
            if (own.closest(p, 1.0).distance > part.deflection() + 0.02) return false;
        }
    return true;
}

/// Both ways to take a face as a strip, the straighter one first; for planes that which stands steeper.
std::array<FaceStrip, 2> stripsOf(const Part& part, int face) {
    std::array<FaceStrip, 2> out;
    const auto [low, high] = part.parameterBounds(face);
    const bool aligned = rimOnFace(part, face, low, high);
    if (!aligned && !part.isMesh() && part.faces()[static_cast<std::size_t>(face)].kind == SurfaceKind::Plane) {
        const auto ways = borderStrips(part, face);
        for (std::size_t k = 0; k < out.size() && !ways.empty(); ++k) {
            out[k].face = face;
            out[k].border = std::make_shared<const std::array<Curve, 2>>(ways[std::min(k, ways.size() - 1)]);
        }
        if (!ways.empty()) return out;
    }
    for (int k = 0; k < 2; ++k) {
        FaceStrip& s = out[static_cast<std::size_t>(k)];
        s.face = face;
        s.alongV = k == 0;
        s.low = low;
        s.high = high;
        s.bulge = bulgeOf(part, s);
        s.aligned = aligned;
    }
    const auto steep = [&](const FaceStrip& s) {
        const Ruling r = rulingAt(part, s, 0.5);
        return std::abs((r.high - r.low).normalized().z());
    };
    const bool bothStraight = out[0].bulge < 1e-4 && out[1].bulge < 1e-4;
    if (bothStraight ? steep(out[1]) > steep(out[0]) + 1e-6 : out[1].bulge < out[0].bulge) std::swap(out[0], out[1]);
    return out;
}

bool meets(const Ruling& a, const Ruling& b, bool& turned) {
    if ((a.low - b.low).norm() < kSame && (a.high - b.high).norm() < kSame) return turned = false, true;
    if ((a.low - b.high).norm() < kSame && (a.high - b.low).norm() < kSame) return turned = true, true;
    return false;
}

/// Puts `next` behind (or, if not `atEnd`, before) the strip so that both share a side; false when they share none.
bool joins(const Part& part, const FaceStrip& strip, FaceStrip& next, bool atEnd) {
    const Ruling here = rulingAt(part, strip, atEnd ? 1.0 : 0.0);
    for (const bool backward : {false, true}) {
        FaceStrip s = next;
        s.backward = backward;
        s.upsideDown = false;
        bool turned = false;
        if (!meets(here, rulingAt(part, s, atEnd ? 0.0 : 1.0), turned)) continue;
        s.upsideDown = turned;
        next = s;
        return true;
    }
    return false;
}

bool closes(const Part& part, const std::vector<FaceStrip>& chain) {
    bool turned = false;
    return meets(rulingAt(part, chain.back(), 1.0), rulingAt(part, chain.front(), 0.0), turned) && !turned;
}

/// Chains strips of faces out of `pool`, starting with `first`, forward and back.
std::vector<FaceStrip> chained(const Part& part, const FaceStrip& first, std::vector<int> pool, double straight) {
    std::vector<FaceStrip> chain{first};
    std::erase(pool, first.face);
    for (const bool atEnd : {true, false})
        for (bool more = true; more && !closes(part, chain);) {
            more = false;
            const FaceStrip& end = atEnd ? chain.back() : chain.front();
            for (const int f : pool) {
                bool taken = false;
                for (FaceStrip s : stripsOf(part, f))
                    if (s.aligned && s.bulge < straight && joins(part, end, s, atEnd)) {
                        chain.insert(atEnd ? chain.end() : chain.begin(), s);
                        taken = true;
                        break;
                    }
                if (!taken) continue;
                std::erase(pool, f);
                more = true;
                break;
            }
        }
    return chain;
}

} // namespace

void roundCorners(Wall& wall, double radius, double tolerance) {
    std::vector<Ruling> out;
    const std::size_t n = wall.rulings.size();
    wall.corners.clear();
    for (std::size_t i = 0; i < n; ++i) {
        const Ruling& a = wall.rulings[i];
        out.push_back(a);
        if (i + 1 == n && !wall.closed) break;
        const Ruling& b = wall.rulings[(i + 1) % n];
        const double turn = std::max(angleBetween(a.lowNormal, b.lowNormal), angleBetween(a.highNormal, b.highNormal));
        if (turn < radians(2.0) || (a.low - b.low).norm() > kSame) continue; // not one place with two normals
        const std::size_t behind = wall.closed ? (i + 2) % n : std::min(i + 2, n - 1);
        const Vec3 ahead = wall.rulings[behind].low - b.low;
        const bool outer = (b.lowNormal - a.lowNormal).dot(ahead) < 0.0 ? false : true;
        wall.corners.push_back({out.size() - 1, outer});
        if (!outer) continue;
        const int steps = std::max(2, static_cast<int>(std::ceil(turn / std::sqrt(8.0 * tolerance / std::max(0.5, radius)))));
        for (int k = 1; k < steps; ++k) {
            Ruling r = a;
            const double t = static_cast<double>(k) / steps;
            r.lowNormal = slerp(a.lowNormal, b.lowNormal, t);
            r.highNormal = slerp(a.highNormal, b.highNormal, t);
            r.corner = true;
            out.push_back(r);
        }
    }
    wall.rulings = std::move(out);
}

void layOnPart(Wall& wall, const Part& body) {
    const std::size_t n = wall.rulings.size();
    wall.bow.assign(n, {});
    std::vector<int> loose(n, 0);
    const TriangleMesh& mesh = body.mesh();
    parallelFor(n, 16, [&](std::size_t i) {
        const Ruling& r = wall.rulings[i];
        if (r.corner) return;
        const double reach = 0.25 * (r.high - r.low).norm();
        for (int k = 0; k < kWallSamples; ++k) {
            const double v = static_cast<double>(k) / (kWallSamples - 1);
            const Vec3 p = r.low + v * (r.high - r.low), normal = ((1.0 - v) * r.lowNormal + v * r.highNormal).normalized();
            const ClosestPoint near = body.tree().closest(p, reach);
            if (near.distance >= reach) {
                ++loose[i];
                continue;
            }
            const Vec3 flat =
                (mesh.corner(near.triangle, 1) - mesh.corner(near.triangle, 0)).cross(mesh.corner(near.triangle, 2) - mesh.corner(near.triangle, 0)).normalized();
            if (std::abs(flat.dot(normal)) < 0.5) { // an edge or another wall: nothing to compare with
                if (near.distance > kSame) ++loose[i];
                continue;
            }
            double off = (near.point - p).dot(flat) / normal.dot(flat);
            if (!body.isMesh()) {
                const int face = mesh.faces[near.triangle];
                SurfacePoint foot = body.project(face, p);
                double exact = off;
                for (int round = 0; round < 4; ++round) {
                    const Vec3 there = p + exact * normal;
                    foot = body.project(face, there, foot.u, foot.v);
                    if (std::abs(foot.normal.dot(normal)) < 0.3) break;
                    exact += (foot.point - there).dot(foot.normal) / normal.dot(foot.normal);
                }
                if (std::abs(exact - off) < 0.1 + 2.0 * body.deflection()) off = exact; // else the face ends before
            }
            if (std::abs(off) < 2.0 * reach) wall.bow[i][static_cast<std::size_t>(k)] = off;
        }
    });
    double most = 0.0;
    for (const auto& line : wall.bow)
        for (const double off : line) most = std::max(most, std::abs(off));
    std::size_t lost = 0;
    for (const int l : loose) lost += static_cast<std::size_t>(l);
    wall.loose = n == 0 ? 0.0 : static_cast<double>(lost) / static_cast<double>(n * kWallSamples);
    wall.bulge = std::max(wall.bulge, most);
    if (most < 1e-5) wall.bow.clear();
}

std::vector<int> wallFaces(const Part& part, int face) {
    const FaceStrip first = stripsOf(part, face)[0];
    if (!first.aligned || part.isMesh()) return {face};
    // Only what shares an edge with the wall found so far can go on with it.
    std::vector<int> chain{face};
    std::set<int> seen{face};
    for (std::size_t i = 0; i < chain.size(); ++i)
        for (const auto& loop : part.faces()[static_cast<std::size_t>(chain[i])].loops)
            for (const int e : loop) {
                const EdgeInfo& info = part.edges()[static_cast<std::size_t>(e)];
                for (const int other : info.faces)
                    if (other >= 0 && other < part.bodyFaces() && seen.size() < 400 && info.kind == CurveKind::Line && seen.insert(other).second) chain.push_back(other);
                if (info.kind != CurveKind::Line && info.length > 1e-6) { // straight lines of free-form faces
                    double off = 0.0;
                    for (const Vec3& p : part.edgeLine(e)) off = std::max(off, distanceToSegment(p, info.start, info.end));
                    if (off < 1e-3)
                        for (const int other : info.faces)
                            if (other >= 0 && other < part.bodyFaces() && seen.size() < 400 && seen.insert(other).second) chain.push_back(other);
                }
            }
    std::vector<int> out;
    for (const FaceStrip& s : chained(part, first, chain, 0.02)) out.push_back(s.face);
    return out;
}

namespace {

/// Rulings so near to each other that the cutter's middle bends by half the tolerance between every second; those between are there too.
std::vector<Ruling> fineEnough(const Part& part, const FaceStrip& s, double tolerance, double spacing, double radius) {
    std::size_t n = 4;
    std::vector<Ruling> fine;
    for (int round = 0; round < 10; ++round, n *= 2) {
        fine.clear();
        for (std::size_t k = 0; k <= 2 * n; ++k) fine.push_back(rulingAt(part, s, static_cast<double>(k) / static_cast<double>(2 * n)));
        double off = 0.0, apart = 0.0;
        for (std::size_t k = 1; k < fine.size(); k += 2) {
            const auto way = [&](std::size_t i, bool high) { return Vec3(high ? fine[i].high + radius * fine[i].highNormal : fine[i].low + radius * fine[i].lowNormal); };
            for (const bool high : {false, true}) off = std::max(off, distanceToSegment(way(k, high), way(k - 1, high), way(k + 1, high)));
            apart = std::max({apart, (fine[k + 1].low - fine[k - 1].low).norm(), (fine[k + 1].high - fine[k - 1].high).norm()});
        }
        if (off <= 0.5 * tolerance && apart <= spacing) break;
    }
    return fine;
}

/// The lower end: that of less height; on level walls the one where material rises beside it (a floor).
bool upsideDown(const Wall& wall, const Part& part, double up, double length) {
    if (std::abs(up) > 0.02 * length) return up < 0.0;
    double floor = 0.0;
    for (const Ruling* r : {&wall.rulings.front(), &wall.rulings[wall.rulings.size() / 2]}) {
        const double reach = 0.2 * (r->high - r->low).norm();
        const Vec3 below = r->low + (r->low - r->high).normalized() * 0.05 * reach + reach * r->lowNormal,
                   above = r->high + (r->high - r->low).normalized() * 0.05 * reach + reach * r->highNormal;
        floor += part.tree().closest(above).distance - part.tree().closest(below).distance;
    }
    return floor < 0.0;
}

} // namespace

Result<Wall> wallOfFaces(const Part& part, const std::vector<int>& faces, double tolerance, double spacing, double radius) {
    if (faces.empty()) return fail("no face is picked", {}, "Click the faces of a wall");
    if (part.isMesh()) return fail("faces of a mesh have no straight lines of their own", {}, "Pick a lower and an upper rail");
    const FaceStrip first = stripsOf(part, faces.front())[0];
    for (const int f : faces)
        if (!stripsOf(part, f)[0].aligned)
            return fail(fmt::format("the border of face {} does not run along its straight lines", f), {}, "Pick a lower and an upper rail");
    std::vector<FaceStrip> chain = chained(part, first, faces, 1e9);
    if (chain.size() != faces.size()) {
        // A plane's rulings may have to run the other way.
        chain = chained(part, stripsOf(part, faces.front())[1], faces, 1e9);
        if (chain.size() != faces.size())
            return fail(fmt::format("the {} picked faces are no wall of one piece: {} hang together", faces.size(), chain.size()), {},
                        "Pick the faces between them, or fewer");
    }
    Wall wall;
    wall.closed = chain.size() > 1 || (rulingAt(part, chain.front(), 0.0).low - rulingAt(part, chain.front(), 1.0).low).norm() < kSame ? closes(part, chain) : false;
    double up = 0.0, length = 0.0;
    for (const FaceStrip& s : chain) {
        wall.faces.push_back(s.face);
        wall.bulge = std::max(wall.bulge, s.bulge);
        const std::vector<Ruling> fine = fineEnough(part, s, tolerance, spacing, radius);
        for (std::size_t k = 0; k < fine.size(); k += 2) {
            const bool again = !wall.rulings.empty() && k == 0 && angleBetween(wall.rulings.back().lowNormal, fine[k].lowNormal) < radians(2.0) &&
                               angleBetween(wall.rulings.back().highNormal, fine[k].highNormal) < radians(2.0);
            if (!again) wall.rulings.push_back(fine[k]);
            up += (fine[k].high - fine[k].low).z();
            length += (fine[k].high - fine[k].low).norm();
        }
    }
    if (wall.closed && wall.rulings.size() > 2 && angleBetween(wall.rulings.back().lowNormal, wall.rulings.front().lowNormal) < radians(2.0)) wall.rulings.pop_back();
    if (upsideDown(wall, part, up, length))
        for (Ruling& r : wall.rulings) {
            std::swap(r.low, r.high);
            std::swap(r.lowNormal, r.highNormal);
        }
    roundCorners(wall, radius, tolerance);
    if (wall.bulge > 1e-4) layOnPart(wall, part);
    return wall;
}

} // namespace gyre
