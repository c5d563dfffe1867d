#include "touch/Touch.h"
#include "base/Parallel.h"
#include "milling/Dropper.h"
#include "milling/Mill.h"
#include "tool/Contact.h"
#include "touch/TouchSpec.h"
#include <algorithm>

namespace gyre {
namespace {

/// Somewhere on the way over the guiding faces.
struct Guide {
    Vec3 tip, axis, contact, normal, feed;
    int face;
};

Guide between(const Guide& a, const Guide& b, double t) {
    const auto turned = [t](const Vec3& x, const Vec3& y) {
        const Vec3 v = (1.0 - t) * x + t * y;
        return v.norm() > 1e-9 ? Vec3(v.normalized()) : x;
    };
    return {a.tip + t * (b.tip - a.tip), slerp(a.axis, b.axis, t), a.contact + t * (b.contact - a.contact),
            turned(a.normal, b.normal),  turned(a.feed, b.feed),   t < 0.5 ? a.face : b.face};
}

/// Where it came to rest; `moved` is told along its own direction.
struct Rest {
    Guide at; ///< with the true tip; contact and normal are those of the guiding faces until it is known what is touched
    double moved = 0.0;
};

class Onto {
public:
    Onto(const Part& body, const Cutter& cutter, const TouchSpec& spec, double leave, double tolerance)
        : m_body(body), m_cutter(cutter), m_spec(spec), m_leave(leave), m_tolerance(tolerance), m_step(firstStep(cutter, 0.5 * tolerance)),
          m_ball(touchesWithBall(cutter)), m_radius(0.5 * cutter.diameter), m_dropped(cutter) {
        if (spec.by != TouchBy::AlongNormal) return;
        m_dropped = Cutter{};
        m_dropped.shape = CutterShape::Ball;
        m_dropped.diameter = cutter.diameter;
        m_dropped.fluteLength = m_radius;
    }

    /// Nothing where the part is not within reach.
    [[nodiscard]] std::optional<Rest> rest(const Guide& g) const {
        const bool normal = m_spec.by == TouchBy::AlongNormal;
        const Vec3 way = normal ? g.normal : g.axis;
        // A ball that moves along the normal is let down as if that were its axis.
        const Vec3 tip = normal ? Vec3(g.tip + m_radius * g.axis - m_radius * way) : g.tip;
        const double range = 2.0 * m_spec.reach, down = dropOnto(m_body.tree(), m_dropped, {tip + m_spec.reach * way, way}, range, m_leave);
        if (down <= 0.0 || down >= range) return std::nullopt;
        double moved = m_spec.reach - down;
        if (!m_body.isMesh()) moved += liftOntoFaces(m_body, m_dropped, {tip + moved * way, way}, m_leave);
        Rest out{g, moved};
        out.at.tip += moved * way;
        return out;
    }
    /// Adds what lies between two places, and the second; `a` is there already.
    void fill(const Guide& from, const Rest& a, const Guide& to, const Rest& b, std::vector<Rest>& out) const { // NOLINT(misc-no-recursion)
        constexpr double kNearest = 2e-3;                                                                       // mm
        if ((to.tip - from.tip).norm() < kNearest) {
            if (std::abs(b.moved - a.moved) > 0.5 * m_tolerance) out.push_back(beforeStep(from, a, to, b));
            out.push_back(b);
            return;
        }
        const Guide middle = between(from, to, 0.5);
        const auto m = rest(middle);
        if (!m || straight(a, *m, b, 0.5)) {
            out.push_back(b);
            return;
        }
        fill(from, a, middle, *m, out);
        fill(middle, *m, to, b, out);
    }
    [[nodiscard]] bool straight(const Rest& a, const Rest& m, const Rest& b, double t) const {
        return (m.at.tip - a.at.tip - t * (b.at.tip - a.at.tip)).norm() <= 0.25 * m_tolerance;
    }
    [[nodiscard]] double step() const { return m_step; }
    // Of a ball the nearest place of the part, on facets with the normal blended between them, so that lead and tilt do not tremble. Others touch, as far
    // as is told, with the place of theirs that looks against the guiding normal.
    void touched(Guide& g) const {
        if (m_ball) {
            const Vec3 middle = g.tip + m_radius * g.axis;
            const ClosestPoint c = m_body.tree().closest(middle, 2.0 * (m_radius + m_leave) + 1.0);
            if (c.distance < 1e299 && c.distance > 1e-6) {
                const int face = m_body.mesh().faces[c.triangle];
                const SurfacePoint s = m_body.project(face, m_body.isMesh() ? c.point : middle);
                const ClosestPoint on = m_body.tree().closest(s.point, 2.0 * m_body.deflection() + 0.01);
                const bool exact = !m_body.isMesh() && on.distance < 1e299 && m_body.mesh().faces[on.triangle] == face;
                const Vec3 way = (middle - (exact ? s.point : c.point)).normalized();
                constexpr double kAlike = 0.8; // cosine: beyond it an edge or a corner is touched
                g.normal = m_body.isMesh() && s.normal.dot(way) > kAlike ? s.normal : way;
                g.contact = middle - m_radius * g.normal;
                return;
            }
        }
        g.contact = g.tip - tipFromContact(m_cutter, Vec3::Zero(), g.normal, g.axis).tip;
    }

private:
    // Over a step of the part it goes up first and then on, or on and then down.
    [[nodiscard]] Rest beforeStep(const Guide& from, const Rest& a, const Guide& to, const Rest& b) const {
        const bool rises = b.moved > a.moved;
        Rest out{rises ? from : to, std::max(a.moved, b.moved)};
        out.at.tip += out.moved * (m_spec.by == TouchBy::AlongNormal ? out.at.normal : out.at.axis);
        return out;
    }
    const Part& m_body;
    const Cutter& m_cutter;
    const TouchSpec& m_spec;
    double m_leave, m_tolerance, m_step;
    bool m_ball;
    double m_radius;
    Cutter m_dropped;
};

/// One pass on its way: the pieces it becomes.
class Laid {
public:
    Laid(const Onto& onto, const Pass& pass) : m_onto(onto), m_pass(pass) {}

    void run() {
        const std::size_t n = m_pass.path.size();
        if (n == 0) return;
        m_before = guide(0);
        m_rest = m_onto.rest(m_before);
        const bool firstRests = m_rest.has_value();
        if (m_rest) m_piece.push_back(*m_rest);
        for (std::size_t i = 1; i < n; ++i) span(guide(i));
        whole = firstRests && pieces.empty() && m_rest;
        const bool lastRests = m_rest.has_value();
        flush();
        // Of a closed pass the piece that comes to its first place goes on from there.
        if (m_pass.closed && pieces.size() > 1 && firstRests && lastRests) {
            pieces.back().insert(pieces.back().end(), pieces.front().begin() + 1, pieces.front().end());
            pieces.erase(pieces.begin());
        }
        std::erase_if(pieces, [](const std::vector<Rest>& p) { return p.size() < 2; });
        for (auto& piece : pieces)
            for (Rest& r : piece) m_onto.touched(r.at);
    }
    std::vector<std::vector<Rest>> pieces;
    bool whole = false; ///< all of it rests
    double left = 0.0, longest = 0.0;
    std::size_t stretches = 0;
    Vec3 leftAt = Vec3::Zero();

private:
    using Rests = std::vector<std::optional<Rest>>;
    [[nodiscard]] Guide guide(std::size_t i) const {
        const Toolpath& p = m_pass.path;
        return {p.tip[i], p.axis[i], p.contact[i], p.normal[i], m_pass.feedDirection[i], p.face[i]};
    }
    // From location to location in steps that miss nothing; of these only those stay that are not on the way.
    void span(const Guide& to) {
        const Guide from = m_before;
        const int steps = std::clamp(static_cast<int>(std::ceil((to.tip - from.tip).norm() / m_onto.step() - 1e-9)), 1, 100000);
        Rests rests{m_rest};
        std::vector<Guide> guides{from};
        for (int k = 1; k <= steps; ++k) {
            guides.push_back(k == steps ? to : between(from, to, static_cast<double>(k) / steps));
            rests.push_back(m_onto.rest(guides.back()));
        }
        for (std::size_t k = 0; k < rests.size();) {
            std::size_t end = k;
            while (end + 1 < rests.size() && rests[end + 1].has_value() == rests[k].has_value()) ++end;
            if (rests[k])
                thin(guides, rests, k, end);
            else
                leave(guides[k], guides[end]);
            if (end + 1 < rests.size()) border(guides[end], rests[end], guides[end + 1], rests[end + 1]);
            k = end + 1;
        }
        m_before = to;
        m_rest = rests.back();
    }
    void thin(const std::vector<Guide>& guides, const Rests& rests, std::size_t first, std::size_t last) { // NOLINT(misc-no-recursion)
        if (first == last) return;
        if (last == first + 1) {
            m_onto.fill(guides[first], *rests[first], guides[last], *rests[last], m_piece);
            return;
        }
        bool onTheWay = true;
        for (std::size_t k = first + 1; k < last && onTheWay; ++k)
            onTheWay = m_onto.straight(*rests[first], *rests[k], *rests[last], static_cast<double>(k - first) / static_cast<double>(last - first));
        if (onTheWay) {
            m_piece.push_back(*rests[last]);
            return;
        }
        const std::size_t middle = (first + last) / 2;
        thin(guides, rests, first, middle);
        thin(guides, rests, middle, last);
    }
    // Where the part comes within reach, or goes out of it.
    void border(const Guide& a, const std::optional<Rest>& atA, const Guide& b, const std::optional<Rest>& atB) {
        const bool begins = !atA;
        double out = begins ? 0.0 : 1.0, in = 1.0 - out;
        std::optional<Rest> last = begins ? atB : atA;
        for (int i = 0; i < 14; ++i) {
            const double middle = 0.5 * (out + in);
            const auto m = m_onto.rest(between(a, b, middle));
            (m ? in : out) = middle;
            if (m) last = m;
        }
        const Guide edge = between(a, b, in);
        if (begins) {
            leave(a, edge);
            endLeft();
            m_piece.push_back(*last);
            m_onto.fill(edge, *last, b, *atB, m_piece);
        } else {
            m_onto.fill(a, *atA, edge, *last, m_piece);
            flush();
            leave(edge, b);
        }
    }
    void leave(const Guide& a, const Guide& b) {
        m_now += (b.tip - a.tip).norm();
        m_nowAt = b.contact;
    }
    void endLeft() {
        if (m_now > 0.0) ++stretches;
        left += m_now;
        if (m_now > longest) {
            longest = m_now;
            leftAt = m_nowAt;
        }
        m_now = 0.0;
    }
    void flush() {
        endLeft();
        if (!m_piece.empty()) pieces.push_back(std::move(m_piece));
        m_piece.clear();
    }

    const Onto& m_onto;
    const Pass& m_pass;
    Guide m_before{};
    std::optional<Rest> m_rest; ///< there
    std::vector<Rest> m_piece;
    double m_now = 0.0; ///< left out since the last piece, mm
    Vec3 m_nowAt = Vec3::Zero();
};

Pass passOf(const Pass& guiding, const std::vector<Rest>& piece, bool whole) {
    Pass out;
    out.row = guiding.row;
    out.origin = guiding.origin;
    out.closed = guiding.closed && whole;
    out.path.reserve(piece.size());
    for (const Rest& r : piece) {
        if (!out.path.empty() && r.at.tip == out.path.tip.back() && r.at.axis == out.path.axis.back()) continue;
        out.path.push(r.at.tip, r.at.axis, r.at.contact, r.at.normal, Motion::Cut, guiding.row, 0.0, r.at.face);
        out.feedDirection.push_back(r.at.feed);
    }
    return out;
}

} // namespace

bool touchesWithBall(const Cutter& c) { return c.shape == CutterShape::Ball || c.shape == CutterShape::Lollipop || c.shape == CutterShape::TaperedBall; }

Result<TouchResult> touchPart(const Part& body, const Cutter& cutter, const std::vector<Pass>& guiding, const TouchSpec& spec, double leave, double tolerance,
                              Progress& progress) {
    if (leave < 0.0) return fail("a cutter that rests on the part leaves nothing less than it", {}, "Leave 0 or more, or touch the faces themselves");
    if (spec.by == TouchBy::AlongNormal && !touchesWithBall(cutter))
        return fail("only a round cutter can be moved along the normal until it rests on the part", {}, "Take a ball, or move it along its axis");
    const Onto onto(body, cutter, spec, leave, tolerance);
    std::vector<Laid> laid;
    laid.reserve(guiding.size());
    for (const Pass& p : guiding) laid.emplace_back(onto, p);
    if (!parallelFor(
            laid.size(), 1, [&](std::size_t i) { laid[i].run(); }, &progress))
        return cancelledError();
    TouchResult out;
    double longest = 0.0;
    bool any = false;
    for (std::size_t i = 0; i < laid.size(); ++i) {
        for (const auto& piece : laid[i].pieces) {
            for (const Rest& r : piece) {
                out.lowest = any ? std::min(out.lowest, r.moved) : r.moved;
                out.highest = any ? std::max(out.highest, r.moved) : r.moved;
                any = true;
            }
            out.passes.push_back(passOf(guiding[i], piece, laid[i].whole));
        }
        out.left += laid[i].left;
        out.stretches += laid[i].stretches;
        if (laid[i].longest > longest) {
            longest = laid[i].longest;
            out.leftAt = laid[i].leftAt;
        }
    }
    return out;
}

std::size_t bytesOf(const TouchResult& result) {
    std::size_t n = sizeof result;
    for (const Pass& p : result.passes) n += sizeof p + p.path.size() * (5 * sizeof(Vec3) + 4 * sizeof(int));
    return n;
}

} // namespace gyre
