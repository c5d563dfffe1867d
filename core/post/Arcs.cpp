#include "post/Arcs.h"
#include "base/Index.h"
#include "base/Units.h"
#include "post/Post.h"
#include "post/Words.h"
#include <algorithm>
#include <numeric>

namespace gyre {
namespace {

constexpr double kLeastRadius = 0.05, kLargestRadius = 1000.0; // mm: sharper is a corner, flatter is straight
constexpr double kLeastChord = 1e-3;                           // mm
constexpr double kMostSweep = kPi + 1e-3;                      // half a turn: its ends tell the arc whatever the rounding
constexpr double kEvenSpeed = 2e-3;                            // of the speed, where F is inverse time
constexpr std::size_t kLeastMoves = 3, kMostMoves = 4096, kStraightEnough = 24;

/// In the plane square to an axis, its two axes in turn.
Vec2 flat(const Vec3& p, int normal) { return {p[(normal + 1) % 3], p[(normal + 2) % 3]}; }
double turned(const Vec2& a, const Vec2& b) { return std::atan2(a.x() * b.y() - a.y() * b.x(), a.dot(b)); }

} // namespace

double Arc::radius(double t) const {
    const Vec2 middle = flat(from + centre, normal);
    const double first = (flat(from, normal) - middle).norm(), last = (flat(to, normal) - middle).norm();
    return first + t * (last - first);
}

double Arc::sweep() const {
    const Vec2 middle = flat(from + centre, normal), a = flat(from, normal), b = flat(to, normal);
    if ((a - b).norm() < 1e-9) return 2.0 * kPi;
    const double by = turn * turned(a - middle, b - middle);
    return by > 0.0 ? by : by + 2.0 * kPi;
}

Vec3 Arc::at(double t) const {
    const Vec2 middle = flat(from + centre, normal), begin = flat(from, normal) - middle;
    const double angle = std::atan2(begin.y(), begin.x()) + turn * sweep() * t, r = radius(t);
    Vec3 out;
    out[(normal + 1) % 3] = middle.x() + r * std::cos(angle);
    out[(normal + 2) % 3] = middle.y() + r * std::sin(angle);
    out[normal] = from[normal] + t * (to[normal] - from[normal]);
    return out;
}

int normalOf(int plane) { return plane == 17 ? 2 : plane == 18 ? 1 : plane == 19 ? 0 : -1; }

std::optional<Vec3> straightPlace(const Machine& machine, const Act& act) {
    Vec3 out;
    std::array<Vec3, 3> along;
    for (int k = 0; k < 3; ++k) {
        const int j = machine.find(std::string(1, "XYZ"[k]));
        if (j < 0 || machine.joints[index(j)].kind != JointKind::Linear) return std::nullopt;
        out[k] = act.joints[index(j)];
        along[index(k)] = machine.joints[index(j)].direction;
        for (int i = 0; i < k; ++i)
            if (std::abs(along[index(i)].dot(along[index(k)])) > 1e-9) return std::nullopt;
    }
    return out;
}

std::optional<std::size_t> rotaryTurned(const Machine& machine, const Act& a, const Act& b) {
    for (std::size_t j = 0; j < machine.joints.size(); ++j) {
        if (machine.joints[j].kind != JointKind::Rotary || (std::isnan(a.joints[j]) && std::isnan(b.joints[j]))) continue;
        if (!(std::abs(a.joints[j] - b.joints[j]) <= 1e-9)) return j; // also when the one is not known
    }
    return std::nullopt;
}

void setStraightPlace(const Machine& machine, Act& act, const Vec3& place) {
    for (int k = 0; k < 3; ++k)
        if (const int j = machine.find(std::string(1, "XYZ"[k])); j >= 0) act.joints[index(j)] = place[k];
}

// The centre lies on the line square to the chord through its middle, at t from it: with u along the chord and v across from the middle, a place on the circle keeps
// u² + v² − h² = 2 v t (h: half the chord), and t is that of the least squares.
ArcFit fitArc(std::span<const Vec3> way, int normal, double within) {
    ArcFit out;
    if (way.size() <= kLeastMoves) return out;
    const Vec2 from = flat(way.front(), normal), to = flat(way.back(), normal), chord = to - from, middle = 0.5 * (from + to);
    const double half = 0.5 * chord.norm();
    if (half < 0.5 * kLeastChord) return out;
    const Vec2 along = chord / (2.0 * half), across(-along.y(), along.x());
    double vw = 0.0, vv = 0.0;
    for (std::size_t i = 1; i + 1 < way.size(); ++i) {
        const Vec2 d = flat(way[i], normal) - middle;
        const double u = d.dot(along), v = d.dot(across);
        vw += v * (u * u + v * v - half * half);
        vv += v * v;
    }
    out.is = ArcFit::Is::Straight;
    if (vv < 1e-16) return out;
    const double t = 0.5 * vw / vv, radius = std::hypot(half, t);
    if (!(radius <= kLargestRadius)) return out;
    out.is = ArcFit::Is::Neither;
    if (radius < kLeastRadius) return out;

    const Vec2 centre = middle + t * across;
    std::vector<double> angle(way.size(), 0.0), off(way.size(), 0.0);
    double turn = 0.0, sagitta = 0.0;
    for (std::size_t i = 1; i < way.size(); ++i) {
        const Vec2 here = flat(way[i], normal) - centre;
        const double by = turned(flat(way[i - 1], normal) - centre, here);
        if (i == 1) turn = by < 0.0 ? -1.0 : 1.0;
        if (!(by * turn > 0.0) || std::abs(by) > 0.5 * kPi) return out;
        angle[i] = angle[i - 1] + by * turn;
        off[i] = std::abs(here.norm() - radius);
        const double bulge = radius * (1.0 - std::cos(0.5 * by));
        sagitta = std::max(sagitta, bulge + std::max(off[i - 1], off[i]));
    }
    if (angle.back() > kMostSweep) return out;
    double height = 0.0;
    for (std::size_t i = 1; i < way.size(); ++i)
        height = std::max(height, std::abs(way[i][normal] - way[0][normal] - (way.back()[normal] - way[0][normal]) * angle[i] / angle.back()));
    out.strays = std::hypot(sagitta, height);
    if (out.strays > within) return out;
    Vec3 offset = Vec3::Zero();
    offset[(normal + 1) % 3] = centre.x() - from.x();
    offset[(normal + 2) % 3] = centre.y() - from.y();
    out.arc = {way.front(), way.back(), offset, normal, turn > 0.0 ? 1 : -1};
    out.is = ArcFit::Is::Round;
    return out;
}

namespace {

class Rounding {
public:
    Rounding(Program program, const Machine& machine, const Speller& speller, double within)
        : m_in(std::move(program)), m_machine(machine), m_within(within), m_joint(kindOf(m_in.dialect).positions == Positions::Joints) {
        m_normals = {2};
        if (speller.unsaid(Phrase::Plane)) return; // nothing brings it back
        if (!speller.unsaid(Phrase::PlaneZX)) m_normals.push_back(1);
        if (!speller.unsaid(Phrase::PlaneYZ)) m_normals.push_back(0);
    }

    Program run() {
        Program out;
        out.dialect = m_in.dialect;
        out.own = std::move(m_in.own);
        int plane = 17;
        for (std::size_t i = 0; i < m_in.acts.size(); ++i) {
            Act a = m_in.acts[i];
            ControlState s = m_in.stateOf(a);
            if (const std::size_t n = longest(i)) {
                a = m_in.acts[i + n - 1];
                a.arc = static_cast<std::int8_t>(m_best.arc.turn);
                a.centre = m_best.arc.centre.unaryExpr([](double v) { return std::abs(v) < 1e-9 ? 0.0 : v; });
                if (s.feedMode == FeedMode::InverseTime) a.feed = togetherFrom(i, n);
                plane = 19 - m_best.arc.normal;
                out.strays = std::max(out.strays, m_best.strays);
                i += n - 1;
            } else if (a.kind == Act::Kind::Cycle || a.kind == Act::Kind::ToolChange || a.kind == Act::Kind::End || a.aside) {
                plane = 17;
            }
            s.plane = plane;
            out.add(a, s);
        }
        return out;
    }

private:
    [[nodiscard]] std::optional<Vec3> place(const Act& a) const {
        const auto p = m_joint ? straightPlace(m_machine, a) : std::optional(a.tip);
        return p && p->allFinite() ? p : std::nullopt;
    }
    [[nodiscard]] static bool along(const Act& a) { return a.kind == Act::Kind::Move && !a.aside && !a.machine; }
    /// The places that the moves from act i on lead through, as long as one arc could stand for them: the first is where the tool stands before.
    void gather(std::size_t i) {
        m_way.clear();
        if (i == 0) return;
        const Act &start = m_in.acts[i - 1], &first = m_in.acts[i];
        const ControlState& s = m_in.stateOf(first);
        if (!along(start) || start.operation != first.operation || s.points == AtPoints::ExactStop || m_in.stateOf(start).tilt != s.tilt) return;
        if (const auto p = place(start)) m_way.push_back(*p);
        double speed = 0.0;
        for (std::size_t k = i; !m_way.empty() && k < m_in.acts.size() && m_way.size() <= kMostMoves; ++k) {
            const Act& a = m_in.acts[k];
            if (!along(a) || a.rapid || a.operation != first.operation || a.state != first.state || rotaryTurned(m_machine, start, a)) break;
            const auto p = place(a);
            if (!p) break;
            const double now = s.feedMode == FeedMode::InverseTime ? a.feed * (*p - m_way.back()).norm() : feedSaid(a.feed);
            if (k == i) speed = now;
            if (std::abs(now - speed) > (s.feedMode == FeedMode::InverseTime ? kEvenSpeed * speed : 0.0)) break;
            m_way.push_back(*p);
        }
    }
    /// How many acts from i on become one arc; 0: none.
    std::size_t longest(std::size_t i) {
        if (m_gathered <= i || m_way.empty()) { // the way gathered before serves as far as it goes
            gather(i);
            m_first = i;
            m_gathered = i + (m_way.empty() ? 0 : m_way.size() - 1);
        }
        const std::size_t begin = i - m_first;
        if (m_way.size() <= begin + kLeastMoves) return 0;
        std::size_t best = 0;
        for (const int normal : m_normals)
            if (const std::size_t n = longest(begin, normal, best)) best = n;
        return best;
    }
    /// Moves from a place of the way on that keep within of an arc in that plane, more than so many; longer and longer steps, then between the last two.
    std::size_t longest(std::size_t begin, int normal, std::size_t than) {
        const std::size_t most = m_way.size() - 1 - begin;
        std::size_t good = 0, bad = most + 1;
        ArcFit kept;
        const auto fits = [&](std::size_t n) {
            const ArcFit fit = fitArc(std::span(m_way).subspan(begin, n + 1), normal, m_within);
            if (fit.is == ArcFit::Is::Round) {
                good = n;
                kept = fit;
            }
            return fit.is;
        };
        for (std::size_t n = kLeastMoves; n <= most; n = n == most ? most + 1 : std::min(2 * n, most)) {
            const ArcFit::Is is = fits(n);
            if (is == ArcFit::Is::Round) continue;
            bad = n;
            if (is == ArcFit::Is::Neither || n >= kStraightEnough) break;
        }
        if (good == 0) return 0;
        while (good + 1 < bad) {
            const std::size_t n = std::midpoint(good, bad);
            if (fits(n) != ArcFit::Is::Round) bad = n;
        }
        if (good <= than) return 0;
        m_best = kept;
        return good;
    }
    [[nodiscard]] double togetherFrom(std::size_t i, std::size_t n) const {
        double minutes = 0.0;
        for (std::size_t k = i; k < i + n; ++k) minutes += 1.0 / m_in.acts[k].feed;
        return 1.0 / minutes;
    }

    Program m_in;
    const Machine& m_machine;
    const double m_within;
    const bool m_joint;
    std::vector<int> m_normals;
    std::vector<Vec3> m_way;
    std::size_t m_first = 0, m_gathered = 0; ///< the acts that the way leads along: from the first to before the second
    ArcFit m_best;
};

} // namespace

Program withArcs(Program program, const Machine& machine, const Speller& speller) {
    const ProgramWords& words = speller.words();
    if (!(words.arcs > 0.0) || speller.unsaid(Phrase::ArcClockwise) || speller.unsaid(Phrase::ArcCounter)) return program;
    // Ends and centre are rounded, which takes its share.
    const double within = words.arcs - 2.0 * std::pow(10.0, -words.digits().length) * words.unit();
    return within > 0.0 ? Rounding(std::move(program), machine, speller, within).run() : program;
}

} // namespace gyre
