#include "milling/Steady.h"
#include "base/Units.h"
#include "milling/Lines.h"
#include <algorithm>
#include <cmath>

namespace gyre {

RimContact::RimContact(const Region& cleared, double radius) : m_cleared(cleared), m_radius(radius) {
    for (const Loop& l : cleared.loops)
        for (std::size_t i = 0, j = l.size() - 1; i < l.size(); j = i++) {
            const Vec2 low = l[j].cwiseMin(l[i]), high = l[j].cwiseMax(l[i]);
            for (int x = square(low.x()); x <= square(high.x()); ++x)
                for (int y = square(low.y()); y <= square(high.y()); ++y) m_edges[key(x, y)].push_back({l[j], l[i]});
        }
}

int RimContact::square(double at) const { return static_cast<int>(std::floor(at / m_radius)); }

void RimContact::takeOut(double from, double to) const {
    m_rest.clear();
    for (const Arc& a : m_arcs) {
        if (to <= a.from || from >= a.to) {
            m_rest.push_back(a);
            continue;
        }
        if (from > a.from) m_rest.push_back({a.from, from});
        if (to < a.to) m_rest.push_back({to, a.to});
    }
    std::swap(m_arcs, m_rest);
}

double RimContact::engaged(const Vec2& c, std::span<const Vec2> own) const {
    constexpr double kRound = 2.0 * kPi;
    m_crossings.clear();
    const int x0 = square(c.x() - m_radius), x1 = square(c.x() + m_radius), y0 = square(c.y() - m_radius), y1 = square(c.y() + m_radius);
    for (int x = x0; x <= x1; ++x)
        for (int y = y0; y <= y1; ++y) {
            const auto it = m_edges.find(key(x, y));
            if (it == m_edges.end()) continue;
            for (const auto& [a, b] : it->second) {
                // |a + t·(b − a) − c| = r
                const Vec2 e = b - a, f = a - c;
                const double ee = e.squaredNorm(), ef = e.dot(f), rest = ef * ef - ee * (f.squaredNorm() - m_radius * m_radius);
                if (rest <= 0.0 || ee == 0.0) continue;
                const double root = std::sqrt(rest);
                for (const double sign : {-1.0, 1.0}) {
                    const double t = (-ef + sign * root) / ee;
                    if (t < 0.0 || t >= 1.0) continue;
                    const Vec2 p = a + t * e;
                    if (square(p.x()) != x || square(p.y()) != y) continue; // another square has it
                    // Walking the border, what is cleared lies on the left; there the border enters the cutter (−) or leaves it (+).
                    m_crossings.emplace_back(std::atan2(p.y() - c.y(), p.x() - c.x()), sign < 0.0);
                }
            }
        }
    m_arcs.clear();
    if (m_crossings.empty()) {
        if (m_cleared.contains(c + Vec2(m_radius, 0.0))) return 0.0;
        m_arcs.push_back({-kPi, kPi});
    } else {
        std::sort(m_crossings.begin(), m_crossings.end());
        for (std::size_t i = 0; i < m_crossings.size(); ++i) {
            if (!m_crossings[i].second) continue;
            const double from = m_crossings[i].first, to = i + 1 < m_crossings.size() ? m_crossings[i + 1].first : m_crossings.front().first + kRound;
            if (to > kPi) {
                m_arcs.push_back({from, kPi});
                m_arcs.push_back({-kPi, to - kRound});
            } else {
                m_arcs.push_back({from, to});
            }
        }
    }
    for (const Vec2& q : own) {
        const double d = (q - c).norm();
        if (d >= 2.0 * m_radius || d < 1e-9) continue;
        const double middle = std::atan2(q.y() - c.y(), q.x() - c.x()), half = std::acos(0.5 * d / m_radius);
        takeOut(middle - half, middle + half);
        if (middle + half > kPi) takeOut(-kPi, middle + half - kRound);
        if (middle - half < -kPi) takeOut(middle - half + kRound, kPi);
    }
    double sum = 0.0;
    for (const Arc& a : m_arcs) sum += a.to - a.from;
    return sum;
}

namespace {

/// Asks less of the allowed area: a place nearer to the last one asked than the border was needs no look.
class Allowed {
public:
    explicit Allowed(const Region& region) : m_region(region) {}
    bool operator()(const Vec2& from, const Vec2& to) {
        if ((to - m_at).norm() < m_free && (from - m_at).norm() < m_free) return true;
        if (!m_region.contains(to)) return false;
        m_at = to;
        m_free = m_region.distanceToBorder(to);
        return (from - m_at).norm() < m_free || m_region.containsWay(from, to);
    }

private:
    const Region& m_region;
    Vec2 m_at = Vec2::Constant(1e300);
    double m_free = 0.0;
};

constexpr double kPace = 0.1; // of the radius, between places

/// Where the line turns towards what is cleared by more than a radian within half a radius: there it comes to a wall or leaves it.
/// A stretch along the wall that is shorter than `longest` is no front: it is left out at both ends.
Line withoutWalls(const Line& line, double longest, const SteadySpec& spec) {
    const std::size_t n = line.size();
    constexpr std::size_t kReach = 2;
    const auto sharp = [&](std::size_t i) {
        if (i < kReach || i + kReach >= n) return false;
        const Vec2 u = line[i] - line[i - kReach], v = line[i + kReach] - line[i];
        return std::atan2(u.x() * v.y() - u.y() * v.x(), u.dot(v)) * (spec.right ? 1.0 : -1.0) > 1.0;
    };
    std::size_t from = 0, to = n - 1;
    double run = 0.0;
    for (std::size_t i = 1; i < n && run < longest; ++i) {
        run += (line[i] - line[i - 1]).norm();
        if (sharp(i)) from = i;
    }
    run = 0.0;
    for (std::size_t i = n - 1; i-- > 0 && run < longest;) {
        run += (line[i + 1] - line[i]).norm();
        if (sharp(i)) to = i;
    }
    if (to < from + 4) return line;
    return Line(line.begin() + static_cast<std::ptrdiff_t>(from), line.begin() + static_cast<std::ptrdiff_t>(to) + 1);
}

/// Where a rising function takes a value, by false position with halved ends.
template <class F> double crossing(const F& f, double low, double atLow, double high, double atHigh, double wanted) {
    constexpr double kClose = 1e-3; // rad
    double below = atLow - wanted, above = atHigh - wanted, s = low;
    for (int k = 0, side = 0; k < 8; ++k) {
        s = low + (high - low) * below / (below - above);
        const double here = f(s) - wanted;
        if (std::abs(here) < kClose) break;
        if (here > 0.0) {
            high = s;
            above = here;
            if (side > 0) below *= 0.5;
            side = 1;
        } else {
            low = s;
            below = here;
            if (side < 0) above *= 0.5;
            side = -1;
        }
    }
    return s;
}

} // namespace

Line steadied(const Line& front, const RimContact& standing, const Region& allowed, const SteadySpec& spec) {
    const bool closed = (front.front() - front.back()).norm() < 1e-6;
    Line line = evenly(front, std::min(kPace * spec.radius, lengthOf(front) / 12.0));
    if (!closed) line = withoutWalls(line, 1.5 * spec.radius, spec);
    if (line.size() < 5) return front;
    const std::size_t n = line.size();
    const std::vector<Vec2> along = tangents(line, closed);
    Allowed inside(allowed);
    std::vector<double> ahead(n, 0.0);
    for (std::size_t i = n - 1; i-- > 0;) ahead[i] = ahead[i + 1] + (line[i + 1] - line[i]).norm();
    constexpr std::size_t kBack[] = {1, 2, 4, 8, 16, 24};
    const double pace = (line[1] - line[0]).norm(), least = -2.0 * spec.step;
    Line out;
    std::vector<Vec2> own;
    double aside = 0.0; // to the side of what stands
    bool full = false;  // has the engagement been what is wanted?
    for (std::size_t i = 0; i < n; ++i) {
        const Vec2 into = (spec.right ? -1.0 : 1.0) * leftOf(along[i]);
        const auto at = [&](double s) -> Vec2 { return line[i] + s * into; };
        const Vec2 last = i > 0 ? out.back() : line.front();
        own.clear();
        // Before its start the way is taken as straight on; at the start all counts, since nothing has been cut there yet.
        if (i > 0)
            for (const std::size_t b : kBack) own.push_back(b <= i ? out[i - b] : Vec2(out.front() - static_cast<double>(b - i) * pace * along.front()));
        // The place before this one has cleared all but what lies within asin(d/2r) behind the side of the way.
        const auto engaged = [&](double s) {
            const Vec2 c = at(s);
            return standing.engaged(c, own) - (i > 0 ? std::asin(std::min(1.0, 0.5 * (c - last).norm() / spec.radius)) : 0.0);
        };
        const double slope = i > 0 ? (line[i] - line[i - 1]).norm() : -least;
        const double most = ahead[i] < 2.0 * spec.radius && !closed ? std::max(0.0, aside) : full ? spec.radius : 0.0;
        const double high = std::min(aside + slope, most), low = std::min(std::max(aside - slope, least), high);
        const double atHigh = engaged(high), atLow = high > low ? engaged(low) : atHigh;
        full = full || atHigh > 0.85 * spec.angle;
        double s = high;
        if (atHigh > spec.angle)
            s = atLow >= spec.angle ? low : crossing(engaged, low, atLow, high, atHigh, spec.angle);
        else if (atLow > atHigh)
            s = std::clamp(0.0, low, high); // going further takes less: what stands ends there
        if (s > 0.0 && !inside(last, at(s))) {
            double good = 0.0;
            for (int k = 0; k < 6; ++k) {
                const double half = 0.5 * (good + s);
                (inside(last, at(half)) ? good : s) = half;
            }
            s = good;
        } else if (s < 0.0 && !inside(i > 0 ? last : at(s), at(s))) {
            s = 0.0;
        }
        aside = s;
        out.push_back(at(s));
    }
    return out;
}

} // namespace gyre
