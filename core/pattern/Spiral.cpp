#include "pattern/Spiral.h"
#include <algorithm>

namespace gyre {
namespace {

/// A place of a ring, and the share of its round up to there.
struct Place {
    Vec3 point = Vec3::Zero();
    std::size_t span = 0;
    double t = 0.0, square = 1e300;
};

Place nearestOn(const Ring& ring, const Vec3& p) {
    Place best;
    const std::size_t n = ring.samples.size();
    for (std::size_t i = 0; i < n; ++i) {
        const Vec3 &a = ring.samples[i].point, &b = ring.samples[(i + 1) % n].point;
        const Vec3 along = b - a;
        const double t = std::clamp((p - a).dot(along) / std::max(along.squaredNorm(), 1e-18), 0.0, 1.0);
        const Vec3 at = a + t * along;
        if (const double square = (p - at).squaredNorm(); square < best.square) best = {at, i, t, square};
    }
    return best;
}

/// Lengths up to every sample, and of the whole round.
std::vector<double> lengthsOf(const Ring& ring) {
    std::vector<double> out{0.0};
    const std::size_t n = ring.samples.size();
    for (std::size_t i = 0; i < n; ++i) out.push_back(out.back() + (ring.samples[(i + 1) % n].point - ring.samples[i].point).norm());
    return out;
}

double shareAt(const std::vector<double>& lengths, const Place& at) {
    return (lengths[at.span] + at.t * (lengths[at.span + 1] - lengths[at.span])) / std::max(lengths.back(), 1e-12);
}

// The ring from the place nearest to a point on.
void begin(Ring& ring, const Vec3& p, const SpiralSource& source) {
    const Place at = nearestOn(ring, p);
    const RowSample first = source.onto(at.point, ring.level, ring.samples[at.span]);
    std::vector<RowSample> out{first};
    const std::size_t n = ring.samples.size();
    constexpr double kSame = 1e-3; // mm
    for (std::size_t k = 1; k <= n; ++k)
        if (const RowSample& s = ring.samples[(at.span + k) % n]; (s.point - first.point).norm() > kSame) out.push_back(s);
    ring.samples = std::move(out);
}

/// A point on the way from one ring to the next.
struct Step {
    double share, next; ///< of the round, on the one and on the other
    Vec3 point;
    const RowSample* beside;
};

std::vector<Step> stepsBetween(const Ring& a, const Ring& b) {
    const std::vector<double> la = lengthsOf(a), lb = lengthsOf(b);
    std::vector<Step> steps;
    const auto add = [&](double share, double next, const Vec3& onA, const Vec3& onB, const RowSample& beside) {
        steps.push_back({share, next, (1.0 - share) * onA + share * onB, &beside});
    };
    for (std::size_t i = 1; i < a.samples.size(); ++i) {
        const Place at = nearestOn(b, a.samples[i].point);
        add(la[i] / la.back(), shareAt(lb, at), a.samples[i].point, at.point, a.samples[i]);
    }
    // What is bent on the next ring alone needs points as well.
    for (std::size_t i = 1; i < b.samples.size(); ++i) {
        const Place at = nearestOn(a, b.samples[i].point);
        const double share = shareAt(la, at);
        // Where both begin the nearest place may lie on the other side of the beginning.
        if (std::abs(share - lb[i] / lb.back()) < 0.5) add(share, lb[i] / lb.back(), at.point, b.samples[i].point, b.samples[i]);
    }
    std::stable_sort(steps.begin(), steps.end(), [](const Step& x, const Step& y) { return x.share != y.share ? x.share < y.share : x.next < y.next; });
    return steps;
}

class Spiral {
public:
    explicit Spiral(const SpiralSource& source) : m_source(source) {}
    void to(const RowSample& s, double level) {
        if (!m_out.empty()) divide(m_out.back(), m_level, s, level, 0);
        m_out.push_back(s);
        m_level = level;
    }
    [[nodiscard]] bool near(const Vec3& p) const {
        constexpr double kNear = 0.02; // mm
        return (m_out.back().point - p).norm() < kNear;
    }
    std::vector<RowSample> take() { return std::move(m_out); }

private:
    // Points between two of them until the way is within the tolerance; up to the edge from both sides where the face changes.
    void divide(const RowSample& from, double fromLevel, const RowSample& to, double toLevel, int depth) {
        constexpr double kAtEdge = 2e-4; // mm
        const bool edge = from.face != to.face && (to.point - from.point).norm() > kAtEdge;
        if (depth >= 16 || (!edge && depth >= 8)) return;
        const double level = 0.5 * (fromLevel + toLevel);
        const RowSample a = from, middle = m_source.onto(0.5 * (a.point + to.point), level, a);
        if (!edge && m_source.fine(a, middle, to)) return;
        divide(a, fromLevel, middle, level, depth + 1);
        m_out.push_back(middle);
        divide(middle, level, to, toLevel, depth + 1);
    }
    const SpiralSource& m_source;
    std::vector<RowSample> m_out;
    double m_level = 0.0;
};

} // namespace

bool runsBeside(const Ring& a, const Ring& b, double most) {
    const auto within = [&](const Ring& one, const Ring& other) {
        const std::size_t step = std::max<std::size_t>(1, one.samples.size() / 64);
        for (std::size_t i = 0; i < one.samples.size(); i += step)
            if (nearestOn(other, one.samples[i].point).square > most * most) return false;
        return true;
    };
    return within(a, b) && within(b, a);
}

std::vector<RowSample> spiralThrough(std::vector<Ring> rings, const SpiralSource& source) {
    for (std::size_t k = 1; k < rings.size(); ++k) begin(rings[k], rings[k - 1].samples.front().point, source);
    Spiral out(source);
    const auto round = [&](const Ring& ring) {
        for (const RowSample& s : ring.samples) out.to(s, ring.level);
        out.to(ring.samples.front(), ring.level);
    };
    round(rings.front());
    for (std::size_t k = 0; k + 1 < rings.size(); ++k) {
        const Ring &a = rings[k], &b = rings[k + 1];
        for (const Step& s : stepsBetween(a, b)) {
            const double level = (1.0 - s.share) * a.level + s.share * b.level;
            if (!out.near(s.point)) out.to(source.onto(s.point, level, *s.beside), level);
        }
        out.to(b.samples.front(), b.level);
    }
    if (rings.size() > 1) round(rings.back());
    return out.take();
}

} // namespace gyre
