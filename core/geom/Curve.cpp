#include "geom/Curve.h"
#include "base/Units.h"
#include <fmt/format.h>

namespace gyre {

namespace {

constexpr double kCornerAngle = 1e-4; // rad: tangents closer than this are one

bool smoothAt(const CurveKnot& k) { return angleBetween(k.before, k.after) < kCornerAngle; }

// A cubic through two points in given directions. For an arc of angle θ these handles, (c/3)/cos²(θ/4), are off by O(θ⁶).
std::array<Vec3, 4> cubicOf(const Vec3& a, const Vec3& ta, const Vec3& tb, const Vec3& b) {
    const Vec3 chord = b - a;
    const double c = chord.norm();
    const double half = c > 0.0 ? 0.5 * (angleBetween(ta, chord) + angleBetween(tb, chord)) : 0.0;
    const double handle = (2.0 / 3.0) * c / (1.0 + std::cos(std::min(half, 2.0)));
    return {a, a + handle * ta, b - handle * tb, b};
}

Vec3 bezier(const std::array<Vec3, 4>& p, double t) {
    const double s = 1.0 - t;
    return s * s * s * p[0] + 3.0 * s * s * t * p[1] + 3.0 * s * t * t * p[2] + t * t * t * p[3];
}
Vec3 bezierSlope(const std::array<Vec3, 4>& p, double t) {
    const double s = 1.0 - t;
    return 3.0 * (s * s * (p[1] - p[0]) + 2.0 * s * t * (p[2] - p[1]) + t * t * (p[3] - p[2]));
}

double bezierLength(const std::array<Vec3, 4>& p, double upTo = 1.0) {
    // Gauss–Legendre, eight places.
    static constexpr double x[4] = {0.1834346424956498, 0.5255324099163290, 0.7966664774136267, 0.9602898564975363};
    static constexpr double w[4] = {0.3626837833783620, 0.3137066458778873, 0.2223810344533745, 0.1012285362903763};
    double sum = 0.0;
    for (int i = 0; i < 4; ++i)
        for (const double sign : {-1.0, 1.0}) sum += w[i] * bezierSlope(p, 0.5 * upTo * (1.0 + sign * x[i])).norm();
    return 0.5 * upTo * sum;
}

// Foot of q on one piece: the best of some places, made exact by Newton.
double footOn(const std::array<Vec3, 4>& p, const Vec3& q, double& t) {
    constexpr int kTries = 8;
    double best = 1e300;
    for (int i = 0; i <= kTries; ++i) {
        const double d = (bezier(p, static_cast<double>(i) / kTries) - q).squaredNorm();
        if (d < best) {
            best = d;
            t = static_cast<double>(i) / kTries;
        }
    }
    for (int i = 0; i < 60; ++i) {
        const Vec3 r = bezier(p, t) - q, d = bezierSlope(p, t);
        const Vec3 dd = 6.0 * ((1.0 - t) * (p[2] - 2.0 * p[1] + p[0]) + t * (p[3] - 2.0 * p[2] + p[1]));
        double slope = d.squaredNorm() + r.dot(dd);
        if (!(slope > 1e-4 * d.squaredNorm())) slope = d.squaredNorm();
        if (!(slope > 0.0)) break;
        const double next = std::clamp(t - r.dot(d) / slope, 0.0, 1.0);
        if (std::abs(next - t) < 1e-15) break;
        t = next;
    }
    return (bezier(p, t) - q).norm();
}

} // namespace

Curve::Curve(std::vector<CurveKnot> knots, bool closed) : m_knots(std::move(knots)), m_closed(closed) {
    double end = 0.0;
    for (std::size_t i = 0; i < pieces(); ++i) {
        const CurveKnot &a = m_knots[i], &b = m_knots[(i + 1) % m_knots.size()];
        m_cubics.push_back(cubicOf(a.point, a.after, b.before, b.point));
        m_ends.push_back(end += bezierLength(m_cubics.back()));
    }
    if (pieces() == 0 && !m_knots.empty()) m_cubics.push_back({m_knots[0].point, m_knots[0].point, m_knots[0].point, m_knots[0].point}); // a mere point
}

Vec3 Curve::at(std::size_t piece, double t) const { return bezier(cubic(piece), t); }

Vec3 Curve::tangent(std::size_t piece, double t) const {
    const Vec3 d = bezierSlope(cubic(piece), t);
    return d.norm() > 0.0 ? Vec3(d.normalized()) : m_knots[piece].after;
}

double Curve::pieceLength(std::size_t piece) const { return m_ends[piece] - (piece > 0 ? m_ends[piece - 1] : 0.0); }

double Curve::length() const { return m_ends.empty() ? 0.0 : m_ends.back(); }

Box Curve::bounds() const {
    Box b;
    for (std::size_t i = 0; i < pieces(); ++i)
        for (const Vec3& p : cubic(i)) b.add(p);
    return b;
}

double Curve::lengthAt(const Place& p) const { return bezierLength(cubic(p.piece), p.t) + (p.piece > 0 ? m_ends[p.piece - 1] : 0.0); }

Curve::Place Curve::atLength(double s) const {
    if (m_closed && pieces() > 0) {
        const double whole = length();
        s -= std::floor(s / whole) * whole;
    }
    if (s <= 0.0 || pieces() == 0) return {0, 0.0};
    const auto i = std::min(static_cast<std::size_t>(std::lower_bound(m_ends.begin(), m_ends.end(), s) - m_ends.begin()), pieces() - 1);
    if (i > 0) s -= m_ends[i - 1];
    const auto& p = cubic(i);
    const double l = bezierLength(p);
    if (s >= l) return {i, 1.0};
    double t = s / l;
    for (int k = 0; k < 20; ++k) {
        const double off = bezierLength(p, t) - s, speed = bezierSlope(p, t).norm();
        if (!(speed > 0.0)) break;
        const double next = std::clamp(t - off / speed, 0.0, 1.0);
        if (std::abs(next - t) < 1e-15) break;
        t = next;
    }
    return {i, t};
}

Curve::Foot Curve::closest(const Vec3& q) const {
    Foot best;
    for (std::size_t i = 0; i < pieces(); ++i) {
        const auto& p = cubic(i);
        Box box;
        for (const Vec3& v : p) box.add(v); // the piece lies in the hull of these
        const Vec3 out = (box.low - q).cwiseMax(q - box.high).cwiseMax(0.0);
        if (out.norm() >= best.distance) continue;
        double t = 0.0;
        const double d = footOn(p, q, t);
        if (d >= best.distance) continue;
        best.piece = i;
        best.t = t;
        best.distance = d;
        best.point = bezier(p, t);
    }
    if (pieces() == 0 && !m_knots.empty()) {
        best.point = m_knots[0].point;
        best.distance = (best.point - q).norm();
    }
    return best;
}

Polyline Curve::polyline(double tolerance) const {
    Polyline out;
    if (m_knots.empty()) return out;
    out.push_back(m_knots[0].point);
    for (std::size_t i = 0; i < pieces(); ++i) {
        const auto& p = cubic(i);
        // A chord of a cubic is off by at most an eighth of its largest second derivative.
        const double bend = 6.0 * std::max((p[2] - 2.0 * p[1] + p[0]).norm(), (p[3] - 2.0 * p[2] + p[1]).norm());
        const int n = std::clamp(static_cast<int>(std::ceil(std::sqrt(bend / (8.0 * tolerance)))), 1, 10000);
        for (int k = 1; k <= n; ++k) out.push_back(bezier(p, static_cast<double>(k) / n));
    }
    return out;
}

Curve Curve::reversed() const {
    std::vector<CurveKnot> k;
    for (auto it = m_knots.rbegin(); it != m_knots.rend(); ++it) k.push_back({it->point, -it->after, -it->before});
    return {std::move(k), m_closed};
}

Curve Curve::moved(const Frame& f) const {
    std::vector<CurveKnot> k;
    for (const CurveKnot& x : m_knots) k.push_back({f * x.point, f.linear() * x.before, f.linear() * x.after});
    return {std::move(k), m_closed};
}

Curve Curve::between(double from, double to) const {
    const std::size_t count = pieces();
    if (count == 0) return *this;
    const double whole = length();
    if (!m_closed) {
        from = std::clamp(from, 0.0, whole);
        to = std::clamp(to, 0.0, whole);
    }
    // Pieces are cut where the stretch ends; a part of a cubic is well within tolerance the cubic of its own ends.
    std::vector<CurveKnot> k;
    Place a = atLength(from), b = atLength(to);
    // At a knot the stretch has the tangent of its own side: knots may be corners.
    if (a.t > 1.0 - 1e-9 && (m_closed || a.piece + 1 < count)) a = {(a.piece + 1) % count, 0.0};
    if (b.t < 1e-9 && (m_closed || b.piece > 0)) b = {(b.piece + count - 1) % count, 1.0};
    const Vec3 ta = tangent(a), tb = tangent(b);
    k.push_back({at(a), ta, ta});
    double s = from;
    for (std::size_t i = a.piece, n = 0; n <= 2 * count + 1; i = (i + 1) % count, ++n) {
        s += n == 0 ? pieceLength(i) - bezierLength(cubic(i), a.t) : pieceLength(i);
        if (s >= to - 1e-9) break;
        const CurveKnot& next = m_knots[(i + 1) % m_knots.size()];
        if ((next.point - k.back().point).norm() > 1e-9) k.push_back(next);
    }
    k.push_back({at(b), tb, tb});
    return {std::move(k), false};
}

Curve alignedWith(const Curve& beside, const Curve& curve) {
    if (beside.pieces() == 0 || curve.pieces() == 0) return curve;
    Curve out = curve;
    if (curve.closed()) {
        const double start = curve.lengthAt(curve.closest(beside.start()));
        if (start > 1e-9 && start < curve.length() - 1e-9) {
            auto knots = curve.between(start, start + curve.length()).knots();
            knots.front().before = knots.back().before;
            knots.pop_back();
            out = Curve(std::move(knots), true);
        }
    }
    double asItIs = 0.0, turned = 0.0;
    for (int i = 0; i <= 8; ++i) {
        const Vec3 p = pointAt(beside, i / 8.0);
        asItIs += (pointAt(out, i / 8.0) - p).norm();
        turned += (pointAt(out, (8 - i) / 8.0) - p).norm();
    }
    if (turned >= asItIs) return out;
    if (!out.closed()) return out.reversed();
    auto knots = out.reversed().knots(); // the start stays where it is
    std::rotate(knots.begin(), knots.end() - 1, knots.end());
    return {std::move(knots), true};
}

Curve straightLines(const Polyline& points, bool closed) {
    std::vector<CurveKnot> k;
    for (const Vec3& p : points)
        if (k.empty() || (p - k.back().point).norm() > 1e-9) k.push_back({p, Vec3::Zero(), Vec3::Zero()});
    if (closed && k.size() > 2 && (k.front().point - k.back().point).norm() <= 1e-9) k.pop_back();
    const std::size_t n = k.size();
    if (n < 2) return {};
    for (std::size_t i = 0; i < n; ++i) {
        const bool last = i + 1 == n;
        if (last && !closed) break;
        const Vec3 d = (k[(i + 1) % n].point - k[i].point).normalized();
        k[i].after = d;
        k[(i + 1) % n].before = d;
    }
    if (!closed) {
        k.front().before = k.front().after;
        k.back().after = k.back().before;
    }
    return {std::move(k), closed};
}

Curve helix(const Vec3& centre, const Vec3& axis, const Vec3& from, double angle, double rise, double growth) {
    const Vec3 arm = rejected(from - centre, axis), foot = from - arm;
    const double r = arm.norm();
    // Pieces short enough for the cubic: θ⁶·r/4600 stays below the tolerance.
    const double widest = std::min(0.6, std::pow(4600.0 * kCurveTolerance / std::max(r, 1e-3), 1.0 / 6.0) * (rise == 0.0 ? 1.0 : 0.4));
    const int n = std::max(1, static_cast<int>(std::ceil(std::abs(angle) / widest)));
    const Vec3 side = axis.cross(arm);
    std::vector<CurveKnot> k;
    const bool ring = rise == 0.0 && std::abs(std::abs(angle) - 2.0 * kPi) < 1e-12;
    for (int i = 0; i <= n - (ring ? 1 : 0); ++i) {
        const double share = static_cast<double>(i) / n, a = angle * share;
        const Vec3 t = (angle * (std::cos(a) * side - std::sin(a) * arm) + (rise + growth * (share - 0.5)) * axis).normalized();
        k.push_back({foot + std::cos(a) * arm + std::sin(a) * side + (rise * share + 0.5 * growth * share * (share - 1.0)) * axis, t, t});
    }
    return {std::move(k), ring};
}

Curve circleArc(const Vec3& centre, const Vec3& axis, const Vec3& from, double angle) { return helix(centre, axis, from, angle, 0.0); }

// The centre lies off the chord's middle by (1 − b²)/(4b) chords, to the left for b > 0.
Curve bulgedLine(const Vec3& from, const Vec3& to, const Vec3& normal, double bulge) {
    if (std::abs(bulge) < 1e-12) return straightLines({from, to});
    const Vec3 centre = 0.5 * (from + to) + (1.0 - bulge * bulge) / (4.0 * bulge) * normal.cross(to - from);
    return circleArc(centre, normal, from, 4.0 * std::atan(bulge));
}

void CurveChain::add(const Curve& piece) {
    if (piece.pieces() == 0) return;
    const auto& more = piece.knots();
    auto first = more.begin();
    if (!m_knots.empty()) {
        CurveKnot& last = m_knots.back();
        if ((last.point - first->point).norm() <= m_tolerance) {
            last.after = first->after;
        } else {
            const Vec3 d = (first->point - last.point).normalized();
            last.after = d;
            m_knots.push_back({first->point, d, first->after});
        }
        ++first;
    }
    m_knots.insert(m_knots.end(), first, more.end());
    if (piece.closed()) m_knots.push_back(more.front()); // all of it, back to where it began
}

Curve CurveChain::take() {
    std::vector<CurveKnot> k = std::move(m_knots);
    m_knots.clear();
    const bool closes = k.size() > 2 && (k.back().point - k.front().point).norm() <= m_tolerance;
    if (closes) {
        k.front().before = k.back().before;
        k.pop_back();
    }
    return {std::move(k), closes};
}

Curve joined(const Curve& a, const Curve& b, double tolerance) {
    if (a.pieces() == 0) return b;
    if (b.pieces() == 0) return a;
    CurveChain chain(tolerance);
    chain.add(a);
    chain.add(b);
    return chain.take();
}

namespace {

constexpr double kStep = 1e-4; // of a piece, for differences

/// Unit tangent of f at t; looks only to the side where the piece is.
Result<Vec3> slope(const CurveFunction& f, double t) {
    const double h = t < 0.5 ? kStep : -kStep;
    const bool inside = t >= kStep && t <= 1.0 - kStep;
    Vec3 d;
    if (inside) {
        const auto a = f(t - kStep), b = f(t + kStep);
        if (!a) return a;
        if (!b) return b;
        d = *b - *a;
    } else {
        const auto p = f(t), a = f(t + h), b = f(t + 2.0 * h), c = f(t + 3.0 * h);
        for (const auto* x : {&p, &a, &b, &c})
            if (!*x) return *x;
        d = (h > 0.0 ? 1.0 : -1.0) * (-11.0 * *p + 18.0 * *a - 9.0 * *b + 2.0 * *c);
    }
    if (!(d.norm() > 0.0)) return fail("the curve stands still at one place");
    return Vec3(d.normalized());
}

struct Sampler {
    const CurveFunction& f;
    double tolerance;
    std::vector<CurveKnot>& out;

    Status split(double ta, const Vec3& a, const Vec3& da, double tb, const Vec3& b, const Vec3& db, int depth) {
        const double tm = 0.5 * (ta + tb);
        const auto m = f(tm);
        if (!m) return tl::unexpected(m.error());
        const auto p = cubicOf(a, da, db, b);
        bool good = depth >= 2; // never trust one look at a whole piece
        for (const double t : {0.25, 0.5, 0.75}) {
            if (!good) break;
            const auto q = t == 0.5 ? m : f(ta + t * (tb - ta));
            if (!q) return tl::unexpected(q.error());
            double at = t;
            good = footOn(p, *q, at) <= tolerance;
        }
        if (good || depth > 14 || (depth > 2 && (b - a).norm() < 1e-5)) {
            out.push_back({b, db, db});
            return {};
        }
        const auto dm = slope(f, tm);
        if (!dm) return tl::unexpected(dm.error());
        if (const auto ok = split(ta, a, da, tm, *m, *dm, depth + 1); !ok) return ok;
        return split(tm, *m, *dm, tb, b, db, depth + 1);
    }
};

} // namespace

Result<Curve> sampled(const CurveFunction& f, double tolerance) {
    const auto a = f(0.0), b = f(1.0);
    if (!a) return tl::unexpected(a.error());
    if (!b) return tl::unexpected(b.error());
    const auto da = slope(f, 0.0), db = slope(f, 1.0);
    if (!da) return tl::unexpected(da.error());
    if (!db) return tl::unexpected(db.error());
    std::vector<CurveKnot> k{{*a, *da, *da}};
    Sampler s{f, tolerance, k};
    if (const auto ok = s.split(0.0, *a, *da, 1.0, *b, *db, 0); !ok) return tl::unexpected(ok.error());
    const bool closed = (*a - *b).norm() < 1e-6 && k.size() > 2;
    if (closed) {
        k.front().before = k.back().before;
        k.pop_back();
    }
    return Curve(std::move(k), closed);
}

Result<Curve> sampledAlong(const Curve& source, const AlongCurve& f, double tolerance) {
    if (source.pieces() == 0) return fail("the curve has no length");
    CurveChain whole(1e-6);
    for (std::size_t i = 0; i < source.pieces(); ++i) {
        auto piece = sampled([&](double t) { return f({i, t}); }, tolerance);
        if (!piece) return piece;
        whole.add(*piece);
    }
    return whole.take();
}

Result<Curve> middleOf(const Curve& a, const Curve& second) {
    if (a.pieces() == 0 || second.pieces() == 0) return fail("a curve without length has no middle");
    // The second runs with the first; of closed ones it begins where it is nearest to the first's start.
    Curve b = second;
    if (a.closed() && b.closed()) {
        const double s = b.lengthAt(b.closest(a.start()));
        b = b.between(s, s + b.length());
    }
    const double whole = b.length();
    const auto sum = [&](const Curve& c) {
        const double along = a.length();
        double d = 0.0;
        for (const double f : {0.1, 0.3, 0.7, 0.9}) d += (a.at(a.atLength(f * along)) - c.at(c.atLength(f * whole))).norm();
        return d;
    };
    if (const Curve r = b.reversed(); sum(r) < sum(b)) b = r;
    const double la = a.length();
    return sampledAlong(a, [&](const Curve::Place& p) -> Result<Vec3> {
        const Vec3 pa = a.at(p);
        const Vec3 pb = b.at(b.atLength(a.lengthAt(p) / la * whole));
        const double apart = (pb - pa).norm();
        if (apart < 1e-9) return pa; // they meet
        // On the way from one to the other the nearer curve changes once: there both are equally far.
        const auto nearer = [&](double t) { return a.closest(pa + t * (pb - pa)).distance - second.closest(pa + t * (pb - pa)).distance; };
        double low = 0.0, high = 1.0, atLow = nearer(low), atHigh = nearer(high);
        if (!(atLow < 0.0 && atHigh > 0.0)) return Vec3(atLow < 0.0 ? pb : pa); // a curve touches the other there
        for (int i = 0, side = 0; i < 80 && (high - low) * apart > 1e-12; ++i) {
            // By chords; an end that stays twice counts half, lest the other creep.
            const double t = low + (high - low) * atLow / (atLow - atHigh), at = nearer(t);
            if (std::abs(at) < 1e-13) return Vec3(pa + t * (pb - pa));
            if (at < 0.0) {
                low = t;
                atLow = at;
                if (side < 0) atHigh *= 0.5;
                side = -1;
            } else {
                high = t;
                atHigh = at;
                if (side > 0) atLow *= 0.5;
                side = 1;
            }
        }
        return Vec3(pa + 0.5 * (low + high) * (pb - pa));
    });
}

Curve simplified(const Curve& curve, double tolerance) {
    const auto& k = curve.knots();
    const std::size_t pieces = curve.pieces();
    if (pieces < 2) return curve;
    std::vector<CurveKnot> out{k[0]};
    const auto knot = [&](std::size_t i) -> const CurveKnot& { return k[i % k.size()]; };
    for (std::size_t from = 0; from < pieces;) {
        std::size_t to = from + 1;
        const auto fits = [&](std::size_t end) {
            if (end - from >= 2 && curve.closed() && end == pieces && from == 0) return false; // one piece is no ring
            const auto p = cubicOf(knot(from).point, knot(from).after, knot(end).before, knot(end).point);
            for (std::size_t i = from; i < end; ++i)
                for (const double t : {0.0, 0.25, 0.5, 0.75}) {
                    double at = 0.5;
                    if (footOn(p, curve.at(i, t), at) > tolerance) return false;
                }
            return true;
        };
        while (to < pieces && smoothAt(knot(to)) && fits(to + 1)) ++to;
        from = to;
        if (from < pieces || !curve.closed()) out.push_back(knot(from));
    }
    return {std::move(out), curve.closed()};
}

Result<Curve> withoutKnots(const Curve& curve, const std::vector<int>& drop) {
    std::vector<CurveKnot> out;
    for (const int d : drop)
        if (d < 0 || static_cast<std::size_t>(d) >= curve.knots().size()) return fail(fmt::format("the curve has no point {}; it has {}", d, curve.knots().size()));
    for (std::size_t i = 0; i < curve.knots().size(); ++i)
        if (std::find(drop.begin(), drop.end(), static_cast<int>(i)) == drop.end()) out.push_back(curve.knots()[i]);
    if (out.size() < (curve.closed() ? 3u : 2u)) return fail("too few points are left");
    return Curve(std::move(out), curve.closed());
}

} // namespace gyre
