#include "part/Holes.h"
#include "base/Index.h"
#include "base/Units.h"
#include <algorithm>
#include <bitset>
#include <fmt/format.h>
#include <set>

namespace gyre {
namespace {

constexpr double kSameLine = 1e-3;   // mm between axes
constexpr double kSameTurn = 1e-4;   // rad between axes
constexpr double kSameRadius = 2e-3; // mm; a mesh part's cylinders are fitted

/// Concave faces about one axis that touch each other: half cylinders, a cylinder and its cone.
struct Section {
    Vec3 point, axis;
    double low = 1e300, high = -1e300; ///< along the axis from `point`
    double lowRadius = 0.0, highRadius = 0.0;
    std::vector<int> faces;
    std::bitset<720> covered; ///< around the axis
    [[nodiscard]] bool around() const { return covered.count() >= 715; }
};

double distanceToAxis(const Vec3& p, const Vec3& point, const Vec3& axis) { return rejected(p - point, axis).norm(); }

bool sameAxis(const Vec3& pointA, const Vec3& axisA, const Vec3& pointB, const Vec3& axisB) {
    const double turn = angleBetween(axisA, axisB);
    return std::min(turn, kPi - turn) < kSameTurn && distanceToAxis(pointB, pointA, axisA) < kSameLine;
}

/// Does the outward normal point to the axis?
bool concave(const FaceInfo& f) {
    const Vec3 out = rejected(f.centre - f.axisPoint, f.axis);
    return out.norm() > 1e-9 && f.normal.dot(out) < 0.0;
}

class Finder {
public:
    explicit Finder(const Part& part) : m_part(part), m_faces(part.faces()) {
        m_neighbours.resize(m_faces.size());
        for (const EdgeInfo& e : part.edges())
            if (e.faces[0] >= 0 && e.faces[1] >= 0 && e.faces[0] != e.faces[1]) {
                m_neighbours[index(e.faces[0])].insert(e.faces[1]);
                m_neighbours[index(e.faces[1])].insert(e.faces[0]);
            }
        const Box box = part.tree().bounds();
        m_middle = box.centre();
        m_size = box.diagonal();
    }

    std::vector<Hole> run() {
        collect();
        std::vector<Hole> holes;
        std::vector<char> used(m_sections.size(), 0);
        for (std::size_t i = 0; i < m_sections.size(); ++i) {
            if (used[i]) continue;
            std::vector<std::size_t> chain{i};
            used[i] = 1;
            for (std::size_t k = 0; k < chain.size(); ++k)
                for (std::size_t j = 0; j < m_sections.size(); ++j)
                    if (!used[j] && linked(m_sections[chain[k]], m_sections[j])) {
                        used[j] = 1;
                        chain.push_back(j);
                    }
            if (auto hole = holeOf(chain)) holes.push_back(std::move(*hole));
        }
        return holes;
    }

private:
    bool turned(int f) const {
        const FaceInfo& info = m_faces[index(f)];
        return (info.kind == SurfaceKind::Cylinder || info.kind == SurfaceKind::Cone) && info.axis.norm() > 0.5 && concave(info);
    }

    // Faces of one cylinder or one cone that touch are one section.
    void collect() {
        std::vector<char> used(m_faces.size(), 0);
        for (int f = 0; f < static_cast<int>(m_faces.size()); ++f) {
            if (used[index(f)] || !turned(f)) continue;
            const FaceInfo& first = m_faces[index(f)];
            Section s;
            s.point = first.axisPoint;
            s.axis = first.axis;
            std::vector<int> open{f};
            used[index(f)] = 1;
            while (!open.empty()) {
                const int g = open.back();
                open.pop_back();
                s.faces.push_back(g);
                for (const int n : m_neighbours[index(g)]) {
                    const FaceInfo& other = m_faces[index(n)];
                    if (used[index(n)] || !turned(n) || other.kind != first.kind || !sameAxis(s.point, s.axis, other.axisPoint, other.axis)) continue;
                    if (first.kind == SurfaceKind::Cylinder ? std::abs(other.radius - first.radius) > kSameRadius : !sameCone(f, n)) continue;
                    used[index(n)] = 1;
                    open.push_back(n);
                }
            }
            measure(s, first);
            if (s.around()) m_sections.push_back(std::move(s));
        }
    }

    // Do the points of both lie on one cone: does the radius of the one, continued, agree with the other's?
    bool sameCone(int f, int g) const {
        const FaceInfo& a = m_faces[index(f)];
        const auto ends = [&](int face) {
            std::pair<Vec2, Vec2> e{{1e300, 0.0}, {-1e300, 0.0}};
            for (const Vec3& p : m_part.faceMesh(face).points) {
                const Vec2 q(a.axis.dot(p - a.axisPoint), distanceToAxis(p, a.axisPoint, a.axis));
                if (q.x() < e.first.x()) e.first = q;
                if (q.x() > e.second.x()) e.second = q;
            }
            return e;
        };
        const auto [a0, a1] = ends(f);
        const auto [b0, b1] = ends(g);
        const double slope = (a1.y() - a0.y()) / std::max(1e-9, a1.x() - a0.x());
        return std::abs(a0.y() + slope * (b0.x() - a0.x()) - b0.y()) < 0.02 && std::abs(a0.y() + slope * (b1.x() - a0.x()) - b1.y()) < 0.02;
    }

    void measure(Section& s, const FaceInfo& kind) const {
        const Vec3 x = anyPerpendicular(s.axis), y = s.axis.cross(x);
        for (const int f : s.faces) {
            const TriangleMesh& m = m_part.faceMesh(f);
            for (const Vec3& p : m.points) {
                const double t = s.axis.dot(p - s.point), r = distanceToAxis(p, s.point, s.axis);
                if (t < s.low - 1e-9 || (t < s.low + 1e-9 && r < s.lowRadius)) {
                    s.low = t;
                    s.lowRadius = r;
                }
                if (t > s.high + 1e-9 || (t > s.high - 1e-9 && r < s.highRadius)) {
                    s.high = t;
                    s.highRadius = r;
                }
            }
            for (std::size_t t = 0; t < m.triangles.size(); ++t) {
                std::array<double, 3> angle{};
                for (int c = 0; c < 3; ++c) {
                    const Vec3 d = m.corner(t, c) - s.point;
                    angle[index(c)] = std::atan2(d.dot(y), d.dot(x));
                    if (std::hypot(d.dot(x), d.dot(y)) < 1e-9) angle[index(c)] = angle[0]; // the tip of a cone lies in every direction
                }
                const double a = angle[0], low = std::min({0.0, std::remainder(angle[1] - a, 2 * kPi), std::remainder(angle[2] - a, 2 * kPi)}),
                             high = std::max({0.0, std::remainder(angle[1] - a, 2 * kPi), std::remainder(angle[2] - a, 2 * kPi)});
                const int from = static_cast<int>(std::floor((a + low + 2 * kPi) / (2 * kPi) * 720.0)),
                          to = static_cast<int>(std::floor((a + high + 2 * kPi) / (2 * kPi) * 720.0));
                for (int k = from; k <= to; ++k) s.covered.set(static_cast<std::size_t>(((k % 720) + 720) % 720));
            }
        }
        if (kind.kind == SurfaceKind::Cylinder) s.lowRadius = s.highRadius = kind.radius;
    }

    // Two sections of one hole touch each other, or a ring square to the axis between them.
    bool linked(const Section& a, const Section& b) const {
        if (!sameAxis(a.point, a.axis, b.point, b.axis)) return false;
        for (const int f : a.faces)
            for (const int n : m_neighbours[index(f)]) {
                if (std::find(b.faces.begin(), b.faces.end(), n) != b.faces.end()) return true;
                if (!isStep(n, a)) continue;
                for (const int m : m_neighbours[index(n)])
                    if (std::find(b.faces.begin(), b.faces.end(), m) != b.faces.end()) return true;
            }
        return false;
    }

    // A step's ring touches nothing but the two sections: a plate's top face touches its outline and other holes.
    bool isStep(int face, const Section& s) const {
        const FaceInfo& info = m_faces[index(face)];
        if (info.kind == SurfaceKind::Torus || info.kind == SurfaceKind::FreeForm || info.kind == SurfaceKind::Sphere) // rounded step
            return sameAxis(info.axisPoint, info.axis.norm() > 0.5 ? info.axis : s.axis, s.point, s.axis);
        if (info.kind != SurfaceKind::Plane || std::abs(std::abs(info.normal.dot(s.axis)) - 1.0) > 1e-7) return false;
        return std::all_of(m_neighbours[index(face)].begin(), m_neighbours[index(face)].end(), [&](int n) {
            const FaceInfo& other = m_faces[index(n)];
            return turned(n) && sameAxis(s.point, s.axis, other.axisPoint, other.axis);
        });
    }

    // Is the section empty, or does a boss stand in it? Rays across the axis must meet nothing before the wall.
    bool empty(const Section& s) const {
        const Vec3 x = anyPerpendicular(s.axis), y = s.axis.cross(x);
        for (const double h : {0.1, 0.5, 0.9}) {
            const double r = (1.0 - h) * s.lowRadius + h * s.highRadius;
            const Vec3 from = s.point + ((1.0 - h) * s.low + h * s.high) * s.axis;
            for (int k = 0; k < 8; ++k) {
                const double a = kPi * k / 4.0 + 0.1;
                const RayHit hit = m_part.tree().ray(from, std::cos(a) * x + std::sin(a) * y);
                if (hit.hit && hit.distance < 0.97 * r - 0.02) return false;
            }
        }
        return true;
    }

    std::optional<Hole> holeOf(const std::vector<std::size_t>& chain) const {
        const Section& first = m_sections[chain[0]];
        std::vector<HoleSection> along; // by height over first.point along first.axis
        Hole hole;
        for (const auto c : chain) {
            const Section& s = m_sections[c];
            if (!empty(s)) return std::nullopt;
            const double shift = first.axis.dot(s.point - first.point);
            if (s.axis.dot(first.axis) > 0.0)
                along.push_back({shift + s.low, shift + s.high, s.lowRadius, s.highRadius});
            else
                along.push_back({shift - s.high, shift - s.low, s.highRadius, s.lowRadius});
            hole.faces.insert(hole.faces.end(), s.faces.begin(), s.faces.end());
        }
        std::sort(along.begin(), along.end(), [](const HoleSection& a, const HoleSection& b) { return a.from < b.from; });
        std::sort(hole.faces.begin(), hole.faces.end());
        const double low = along.front().from, high = along.back().to;
        // A ray along the axis: closed where it meets something within the hole's end.
        const Vec3 middle = first.point + 0.5 * (low + high) * first.axis;
        const auto closedAt = [&](double sign) -> std::optional<double> {
            const RayHit hit = m_part.tree().ray(middle, sign * first.axis);
            const double end = 0.5 * (high - low);
            const double widest = sign > 0.0 ? along.back().toRadius : along.front().fromRadius;
            if (!hit.hit || hit.distance > end + 1.2 * widest + 0.05) return std::nullopt;
            return hit.distance;
        };
        const auto up = closedAt(1.0), down = closedAt(-1.0);
        if (up && down) return std::nullopt; // a cavity
        bool alongAxis = true;               // does the mouth lie at the high end?
        if (up || down) {
            alongAxis = !up;
            const double closed = up ? *up : *down, end = 0.5 * (high - low);
            const HoleSection& last = up ? along.back() : along.front();
            const double tip = up ? last.toRadius : last.fromRadius;
            hole.bottom = last.cone() && tip < 0.05 ? HoleBottom::Cone : closed > end + 0.02 ? HoleBottom::Round : HoleBottom::Flat;
        } else {
            hole.bottom = HoleBottom::Through;
            alongAxis = mouthAtHigh(first, along, hole.airBehind);
        }
        hole.direction = alongAxis ? first.axis : Vec3(-first.axis);
        hole.mouth = first.point + (alongAxis ? high : low) * first.axis;
        hole.depth = high - low;
        // A wide, flat recess is milled, not drilled.
        double widest = 0.0;
        for (const HoleSection& s : along) widest = std::max({widest, s.fromRadius, s.toRadius});
        if (hole.bottom != HoleBottom::Through && hole.depth < 0.2 * widest) return std::nullopt;
        // A cone alone is a seat or a countersink, unless it is as slim as a drill's point is not.
        constexpr double kSlim = 0.5; // of the radius, for each mm of depth
        if (std::all_of(along.begin(), along.end(), [](const HoleSection& s) { return s.cone() && std::abs(s.toRadius - s.fromRadius) > kSlim * (s.to - s.from); }))
            return std::nullopt;
        for (const HoleSection& s : along)
            hole.sections.push_back(alongAxis ? HoleSection{high - s.to, high - s.from, s.toRadius, s.fromRadius}
                                              : HoleSection{s.from - low, s.to - low, s.fromRadius, s.toRadius});
        std::sort(hole.sections.begin(), hole.sections.end(), [](const HoleSection& a, const HoleSection& b) { return a.from < b.from; });
        return hole;
    }

    // Through holes are entered where there is air for the tool all around, from the wider end, from outside, else from above.
    bool mouthAtHigh(const Section& s, const std::vector<HoleSection>& along, bool& airBehind) const {
        const double low = along.front().from, high = along.back().to;
        const double lowRadius = along.front().fromRadius, highRadius = along.back().toRadius;
        const Vec3 x = anyPerpendicular(s.axis), y = s.axis.cross(x);
        const auto air = [&](double at, double sign, double radius) {
            if (m_part.tree().ray(s.point + at * s.axis, sign * s.axis).hit) return false;
            for (int k = 0; k < 8; ++k) {
                const double a = kPi * k / 4.0 + 0.05;
                const Vec3 from = s.point + at * s.axis + 0.9 * radius * (std::cos(a) * x + std::sin(a) * y);
                // A curved or leaning surface around the mouth begins at the hole itself.
                if (const RayHit hit = m_part.tree().ray(from, sign * s.axis); hit.hit && hit.distance > 2.0 * radius) return false;
            }
            return true;
        };
        const bool airHigh = air(high, 1.0, highRadius), airLow = air(low, -1.0, lowRadius);
        airBehind = airHigh && airLow;
        if (airHigh != airLow) return airHigh;
        if (std::abs(highRadius - lowRadius) > 1e-3) return highRadius > lowRadius;
        const double outHigh = (s.point + high * s.axis - m_middle).norm(), outLow = (s.point + low * s.axis - m_middle).norm();
        if (std::abs(outHigh - outLow) > 0.05 * m_size) return outHigh > outLow;
        for (const int k : {2, 1, 0})
            if (std::abs(s.axis[k]) > 1e-6) return s.axis[k] > 0.0;
        return true;
    }

    const Part& m_part;
    const std::vector<FaceInfo>& m_faces;
    std::vector<std::set<int>> m_neighbours;
    std::vector<Section> m_sections;
    Vec3 m_middle;
    double m_size = 0.0;
};

} // namespace

const char* holeBottomName(HoleBottom b) {
    switch (b) {
    case HoleBottom::Through:
        return "through";
    case HoleBottom::Flat:
        return "flat";
    case HoleBottom::Cone:
        return "cone";
    case HoleBottom::Round:
        return "round";
    }
    return "";
}

double Hole::diameter() const {
    double least = 1e300, any = 0.0;
    for (const HoleSection& s : sections) {
        any = std::max({any, s.fromRadius, s.toRadius});
        if (!s.cone()) least = std::min(least, s.fromRadius);
    }
    return 2.0 * (least < 1e299 ? least : any);
}

std::string Hole::words(bool withDepth) const {
    std::size_t cylinders = 0;
    for (const HoleSection& s : sections) cylinders += !s.cone();
    const bool chamfered = sections.size() > 1 && sections.front().cone() && sections.front().fromRadius > sections.front().toRadius;
    std::string text = fmt::format("Ø{:.4g}", diameter());
    if (bottom == HoleBottom::Through) text += " through";
    if (withDepth) text += fmt::format(", {:.4g} deep", depth);
    if (bottom == HoleBottom::Cone) text += " to the tip";
    if (bottom == HoleBottom::Round) text += ", round end";
    if (cylinders > 1) text += fmt::format(", {} steps", cylinders);
    if (chamfered) text += ", chamfered";
    return text;
}

std::vector<Hole> findHoles(const Part& part, const std::vector<int>& onFaces) {
    std::vector<Hole> holes = Finder(part).run();
    if (onFaces.empty()) return holes;
    const std::set<int> wanted(onFaces.begin(), onFaces.end());
    std::set<int> near = wanted; // and all that touch them
    for (const EdgeInfo& e : part.edges())
        for (int k = 0; k < 2; ++k)
            if (wanted.count(e.faces[index(k)]) && e.faces[index(1 - k)] >= 0) near.insert(e.faces[index(1 - k)]);
    std::erase_if(holes, [&](const Hole& h) { return std::none_of(h.faces.begin(), h.faces.end(), [&](int f) { return near.count(f); }); });
    return holes;
}

Hole reversed(const Hole& hole) {
    if (hole.bottom != HoleBottom::Through) return hole;
    Hole r = hole;
    r.mouth = hole.mouth - hole.depth * hole.direction;
    r.direction = -hole.direction;
    r.sections.clear();
    for (auto s = hole.sections.rbegin(); s != hole.sections.rend(); ++s) r.sections.push_back({hole.depth - s->to, hole.depth - s->from, s->toRadius, s->fromRadius});
    return r;
}

std::vector<HoleGroup> groupHoles(const std::vector<Hole>& holes, const std::optional<AxisLine>& rotary) {
    const auto fourAxis = [&](const Hole& h) {
        if (!rotary) return false;
        const Vec3 across = rotary->direction.cross(h.direction);
        return std::abs(rotary->direction.dot(h.direction)) < 2e-4 && std::abs((h.mouth - rotary->point).dot(across)) < 0.01;
    };
    const auto alike = [](const Hole& a, const Hole& b) {
        if (a.bottom != b.bottom || a.sections.size() != b.sections.size()) return false;
        // How long a plain hole through a curved wall is depends on how it leans; the drill is the same.
        if (a.bottom == HoleBottom::Through && a.sections.size() == 1)
            return std::abs(a.diameter() - b.diameter()) < 0.04 && !a.sections[0].cone() && !b.sections[0].cone() &&
                   std::abs(a.depth - b.depth) < 0.02 + 0.3 * std::min(a.depth, b.depth);
        if (std::abs(a.depth - b.depth) > 0.02) return false;
        for (std::size_t i = 0; i < a.sections.size(); ++i) {
            const HoleSection &s = a.sections[i], &t = b.sections[i];
            if (std::max({std::abs(s.from - t.from), std::abs(s.to - t.to), std::abs(s.fromRadius - t.fromRadius), std::abs(s.toRadius - t.toRadius)}) > 0.02)
                return false;
        }
        return true;
    };
    std::vector<HoleGroup> groups;
    for (std::size_t i = 0; i < holes.size(); ++i) {
        const bool four = fourAxis(holes[i]);
        const auto group = std::find_if(groups.begin(), groups.end(), [&](const HoleGroup& g) { return g.fourAxis == four && alike(holes[g.holes.front()], holes[i]); });
        if (group != groups.end())
            group->holes.push_back(i);
        else
            groups.push_back({{i}, four, {}});
    }
    for (HoleGroup& g : groups) {
        const Hole& first = holes[g.holes.front()];
        const bool parallel = std::all_of(g.holes.begin(), g.holes.end(), [&](std::size_t i) { return angleBetween(holes[i].direction, first.direction) < 1e-4; });
        const bool sameDepth = std::all_of(g.holes.begin(), g.holes.end(), [&](std::size_t i) { return std::abs(holes[i].depth - first.depth) < 0.02; });
        g.words = fmt::format("{} × {}{}", g.holes.size(), first.words(sameDepth),
                              g.fourAxis            ? ", 4-axis"
                              : g.holes.size() == 1 ? ""
                              : parallel            ? ", one direction"
                                                    : ", many directions");
    }
    return groups;
}

} // namespace gyre
