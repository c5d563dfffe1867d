#include "pattern/Where.h"
#include "base/Units.h"
#include <algorithm>

namespace gyre {
namespace {

// What lies on a limit is kept: a floor at the height given, a chamfer of the slope given, a row along the edge that bounds it.
constexpr double kOnLimit = 1e-6;  // mm, degrees
constexpr double kOnCurve = 0.003; // mm: loops come as chords

bool near(const Vec2& p, const Vec2& a, const Vec2& b) {
    const Vec2 along = b - a;
    const double t = std::clamp((p - a).dot(along) / std::max(along.squaredNorm(), 1e-18), 0.0, 1.0);
    return (a + t * along - p).squaredNorm() < kOnCurve * kOnCurve;
}

} // namespace

WhereKept::WhereKept(const WhereSpec& spec, const std::vector<Polyline>& loops)
    : m_spec(spec), m_axis(Vec3::Unit(spec.axis)), m_u(Vec3::Unit((spec.axis + 1) % 3)), m_v(Vec3::Unit((spec.axis + 2) % 3)) {
    std::vector<Side> sides;
    for (const Polyline& loop : loops)
        for (std::size_t i = 0; i < loop.size(); ++i) {
            const Vec3 &a = loop[i], &b = loop[(i + 1) % loop.size()];
            sides.push_back({{a.dot(m_u), a.dot(m_v)}, {b.dot(m_u), b.dot(m_v)}});
        }
    if (sides.empty()) return;
    double least = 1e300, most = -1e300;
    for (const Side& s : sides) {
        least = std::min({least, s.from.y(), s.to.y()});
        most = std::max({most, s.from.y(), s.to.y()});
    }
    const auto count = std::clamp<std::size_t>(sides.size(), 1, 4096);
    m_least = least;
    m_strip = std::max((most - least) / static_cast<double>(count), 1e-9);
    m_strips.resize(count);
    const auto stripOf = [&](double v) { return static_cast<std::size_t>(std::clamp((v - m_least) / m_strip, 0.0, static_cast<double>(count - 1))); };
    for (const Side& s : sides)
        for (std::size_t k = stripOf(std::min(s.from.y(), s.to.y())); k <= stripOf(std::max(s.from.y(), s.to.y())); ++k) m_strips[k].push_back(s);
}

// An odd number of sides lies to one side of a point within: holes and islands count as drawn.
bool WhereKept::onRightSide(const Vec3& point) const {
    const bool wanted = m_spec.by == WhereCurves::Inside;
    const Vec2 p(point.dot(m_u), point.dot(m_v));
    const double at = (p.y() - m_least) / m_strip;
    if (m_strips.empty() || !(at >= -1.0) || at > static_cast<double>(m_strips.size()) + 1.0) return !wanted;
    bool odd = false;
    for (const Side& s : m_strips[static_cast<std::size_t>(std::clamp(at, 0.0, static_cast<double>(m_strips.size() - 1)))]) {
        if (near(p, s.from, s.to)) return true;
        if ((s.from.y() > p.y()) != (s.to.y() > p.y()) && s.from.x() + (p.y() - s.from.y()) / (s.to.y() - s.from.y()) * (s.to.x() - s.from.x()) > p.x()) odd = !odd;
    }
    return odd == wanted;
}

bool WhereKept::holds(const Vec3& point, const Vec3& normal) const {
    if (m_spec.bySlope) {
        const double slope = degrees(angleBetween(m_axis, normal));
        if (slope < m_spec.flattest - kOnLimit || slope > m_spec.steepest + kOnLimit) return false;
    }
    if (m_spec.byHeight) {
        const double h = point.dot(m_axis);
        if (h < m_spec.low - kOnLimit || h > m_spec.high + kOnLimit) return false;
    }
    return m_spec.by == WhereCurves::Anywhere || onRightSide(point);
}

} // namespace gyre
