// Walls as rulings: from the grid of faces, or matched between two rails.
#include "base/Units.h"
#include "follow/Swarf.h"
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
};

Ruling rulingAt(const Part& part, const FaceStrip& s, double across) {
    const double a = s.backward ? 1.0 - across : across;
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

/// Rolls around outer corners, and notes inner ones.
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
        const std::size_t behind = (i + 2) % n;
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

} // namespace

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
        std::size_t n = 4;
        std::vector<Ruling> fine;
        for (int round = 0; round < 10; ++round, n *= 2) {
            fine.clear();
            for (std::size_t k = 0; k <= 2 * n; ++k) fine.push_back(rulingAt(part, s, static_cast<double>(k) / static_cast<double>(2 * n)));
            double off = 0.0, apart = 0.0;
            for (std::size_t k = 1; k < fine.size(); k += 2) {
                const auto way = [&](std::size_t i, bool high) {
                    return Vec3(high ? fine[i].high + radius * fine[i].highNormal : fine[i].low + radius * fine[i].lowNormal);
                };
                for (const bool high : {false, true}) off = std::max(off, distanceToSegment(way(k, high), way(k - 1, high), way(k + 1, high)));
                apart = std::max({apart, (fine[k + 1].low - fine[k - 1].low).norm(), (fine[k + 1].high - fine[k - 1].high).norm()});
            }
            if (off <= 0.5 * tolerance && apart <= spacing) break;
        }
        for (std::size_t k = 0; k < fine.size(); k += 2) {
            const bool again = !wall.rulings.empty() && k == 0 && angleBetween(wall.rulings.back().lowNormal, fine[k].lowNormal) < radians(2.0) &&
                               angleBetween(wall.rulings.back().highNormal, fine[k].highNormal) < radians(2.0);
            if (!again) wall.rulings.push_back(fine[k]);
            up += (fine[k].high - fine[k].low).z();
            length += (fine[k].high - fine[k].low).norm();
        }
    }
    if (wall.closed && wall.rulings.size() > 2 && angleBetween(wall.rulings.back().lowNormal, wall.rulings.front().lowNormal) < radians(2.0)) wall.rulings.pop_back();
    // The lower end: that of less height; on level walls the one where material rises beside it (a floor).
    bool turn = up < -0.02 * length;
    if (std::abs(up) <= 0.02 * length) {
        double floor = 0.0;
        for (const Ruling* r : {&wall.rulings.front(), &wall.rulings[wall.rulings.size() / 2]}) {
            const double reach = 0.2 * (r->high - r->low).norm();
            const Vec3 below = r->low + (r->low - r->high).normalized() * 0.05 * reach + reach * r->lowNormal,
                       above = r->high + (r->high - r->low).normalized() * 0.05 * reach + reach * r->highNormal;
            floor += part.tree().closest(above).distance - part.tree().closest(below).distance;
        }
        turn = floor < 0.0;
    }
    if (turn)
        for (Ruling& r : wall.rulings) {
            std::swap(r.low, r.high);
            std::swap(r.lowNormal, r.highNormal);
        }
    roundCorners(wall, radius, tolerance);
    return wall;
}

namespace {

/// A rail with its length at every point.
struct Rail {
    Polyline line;
    std::vector<double> s;
    explicit Rail(const Polyline& l) : line(l), s(arcLengths(l)) {}
    [[nodiscard]] double length() const { return s.back(); }
    [[nodiscard]] Vec3 at(double t) const { return pointAtLength(line, s, t * s.back()); }
    [[nodiscard]] Vec3 along(double t) const {
        const double d = 1e-4 + 0.002;
        const Vec3 v = at(std::min(1.0, t + d)) - at(std::max(0.0, t - d));
        return v.norm() > 1e-12 ? Vec3(v.normalized()) : Vec3::UnitX();
    }
};

} // namespace

Result<Wall> wallOfRails(const Polyline& lower, const Polyline& upperAsPicked, bool closed, const std::vector<std::array<double, 2>>& sync, double tolerance,
                         double spacing, double radius, const MeshTree* surface) {
    if (lower.size() < 2 || upperAsPicked.size() < 2) return fail("a lower and an upper rail are needed", {}, "Pick the edges of both");
    const Polyline upper = alignedWith(lower, upperAsPicked);
    const Rail a(lower), b(upper);
    if (a.length() < 1e-6 || b.length() < 1e-6) return fail("a rail has no length");
    // Pairs that belong together, from the first to the last; between two of them the way of least twist.
    std::vector<std::array<double, 2>> pairs = sync;
    std::sort(pairs.begin(), pairs.end());
    if (pairs.empty() || pairs.front()[0] > 1e-9) pairs.insert(pairs.begin(), {0.0, 0.0});
    if (pairs.back()[0] < 1.0 - 1e-9) pairs.push_back({1.0, 1.0});
    for (std::size_t i = 1; i < pairs.size(); ++i)
        if (pairs[i][1] < pairs[i - 1][1] || pairs[i][1] > 1.0 || pairs[i][0] < 0.0)
            return fail(fmt::format("sync line {} crosses the one before it", i), {}, "Sync lines must not cross each other");
    const double longest = std::max(a.length(), b.length());
    const int all = std::clamp(static_cast<int>(longest / 0.5), 60, surface ? 180 : 400);
    constexpr double kFarOff = 1.0; // mm: a line further from the part has no wall to lie on
    const auto offSurface = [&](const Vec3& l, const Vec3& h) { return surface ? surface->closest(0.5 * (l + h), kFarOff).distance : kFarOff; };
    const auto twist = [&](double s, double t) {
        const Vec3 l = a.at(s), h = b.at(t), r = h - l;
        const double size = r.norm();
        if (size < 1e-9) return 0.0;
        const Vec3 n0 = a.along(s).cross(r), n1 = b.along(t).cross(r);
        const double thin = std::min(n0.norm(), n1.norm()) / size;
        // Off the surface counts as much as the angle it would be seen under, ten times.
        const double off = surface ? 20.0 * std::min(kFarOff, offSurface(l, h)) / size : 0.0;
        return angleBetween(n0, n1) + 0.02 * (1.0 / std::max(0.05, thin) - 1.0) + off;
    };
    // Mean twist where both rails are gone along in proportion, and where it is least.
    double even = 0.0, least = 0.0;
    std::size_t evenCount = 0, leastCount = 0;
    std::vector<std::array<double, 2>> match, proportional;
    for (std::size_t part = 1; part < pairs.size(); ++part) {
        const auto from = pairs[part - 1], to = pairs[part];
        const int n = std::max(4, static_cast<int>(all * std::max(to[0] - from[0], to[1] - from[1])));
        const auto s = [&](int i) { return from[0] + (to[0] - from[0]) * i / n; };
        const auto t = [&](int j) { return from[1] + (to[1] - from[1]) * j / n; };
        const auto id = [&](int i, int j) { return static_cast<std::size_t>(i) * static_cast<std::size_t>(n + 1) + static_cast<std::size_t>(j); };
        std::vector<double> cost(static_cast<std::size_t>(n + 1) * static_cast<std::size_t>(n + 1), 1e300);
        std::vector<char> came(cost.size(), 0);
        cost[0] = 0.0;
        // Standing still on one rail is dearer than going on with both: rulings shall not fan out for a trifle.
        constexpr double kStand = 0.015;
        for (int i = 0; i <= n; ++i)
            for (int j = 0; j <= n; ++j) {
                if (i == 0 && j == 0) continue;
                const double here = twist(s(i), t(j));
                const auto attempt = [&](int pi, int pj, double weight, double extra, char way) {
                    if (pi < 0 || pj < 0) return;
                    const double c = cost[id(pi, pj)] + weight * here * here + extra;
                    if (c < cost[id(i, j)]) {
                        cost[id(i, j)] = c;
                        came[id(i, j)] = way;
                    }
                };
                attempt(i - 1, j - 1, 1.0, 0.0, 0);
                attempt(i - 1, j, 0.5, 0.5 * kStand * kStand, 1);
                attempt(i, j - 1, 0.5, 0.5 * kStand * kStand, 2);
            }
        std::vector<std::array<double, 2>> way;
        for (int i = n, j = n;;) {
            way.push_back({s(i), t(j)});
            if (i == 0 && j == 0) break;
            const char c = came[id(i, j)];
            if (i == 0)
                --j;
            else if (j == 0)
                --i;
            else {
                if (c != 2) --i;
                if (c != 1) --j;
            }
        }
        std::reverse(way.begin(), way.end());
        for (const auto& p : way) {
            least += twist(p[0], p[1]);
            ++leastCount;
        }
        for (int i = match.empty() ? 0 : 1; i <= n; ++i) {
            proportional.push_back({s(i), t(i)});
            even += twist(s(i), t(i));
            ++evenCount;
        }
        match.insert(match.end(), way.begin() + (match.empty() ? 0 : 1), way.end());
    }
    // Least twist is worth its uneven steps where it makes the wall much less twisted: where there are true rulings to be found.
    if (least / static_cast<double>(leastCount) > 0.5 * even / static_cast<double>(evenCount)) match = proportional;
    // Steps of the grid are evened out, the pairs kept.
    const std::vector<std::array<double, 2>> stairs = match;
    for (std::size_t i = 0; i < match.size(); ++i) {
        const auto sum = [&](std::size_t k) { return stairs[k][0] + stairs[k][1]; };
        double weight = 0.0, difference = 0.0;
        const int reach = 6;
        std::size_t room = reach;
        for (const auto& p : pairs)
            for (std::size_t k = 0; k <= static_cast<std::size_t>(reach); ++k) {
                const auto same = [&](std::size_t q) { return q < stairs.size() && std::abs(stairs[q][0] - p[0]) < 1e-12 && std::abs(stairs[q][1] - p[1]) < 1e-12; };
                if ((i >= k && same(i - k)) || same(i + k)) room = std::min(room, k);
            }
        for (std::size_t k = i - std::min(i, room); k <= std::min(stairs.size() - 1, i + room); ++k) {
            weight += 1.0;
            difference += stairs[k][0] - stairs[k][1];
        }
        const double d = difference / weight;
        match[i] = {0.5 * (sum(i) + d), 0.5 * (sum(i) - d)};
    }
    Wall wall;
    wall.closed = closed;
    const auto rulingOf = [&](const std::array<double, 2>& m) {
        const Vec3 l = a.at(std::clamp(m[0], 0.0, 1.0)), h = b.at(std::clamp(m[1], 0.0, 1.0)), r = h - l;
        Ruling out{l, h, a.along(m[0]).cross(r), b.along(m[1]).cross(r), -1, false};
        out.lowNormal.normalize();
        out.highNormal.normalize();
        return out;
    };
    // As many rulings as tolerance and spacing ask for.
    for (std::size_t i = 0; i < match.size(); ++i) {
        if (i > 0) {
            const Ruling from = rulingOf(match[i - 1]), to = rulingOf(match[i]);
            const double apart = std::max((to.low - from.low).norm(), (to.high - from.high).norm()),
                         turn = std::max(angleBetween(from.lowNormal, to.lowNormal), angleBetween(from.highNormal, to.highNormal));
            const int steps =
                static_cast<int>(std::ceil(std::max(apart / spacing, turn > radians(25.0) ? 1.0 : turn / std::sqrt(4.0 * tolerance / std::max(0.5, radius)))));
            for (int k = 1; k < steps; ++k) {
                const double f = static_cast<double>(k) / steps;
                wall.rulings.push_back(rulingOf({(1 - f) * match[i - 1][0] + f * match[i][0], (1 - f) * match[i - 1][1] + f * match[i][1]}));
            }
        }
        wall.rulings.push_back(rulingOf(match[i]));
    }
    for (const Ruling& r : wall.rulings)
        if (const double off = offSurface(r.low, r.high); off < kFarOff) wall.bulge = std::max(wall.bulge, off);
    if (closed && wall.rulings.size() > 2) wall.rulings.pop_back();
    return wall;
}

} // namespace gyre
