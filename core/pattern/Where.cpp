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

template <class T> void WhereKept::Strips<T>::fill(const std::vector<T>& all, const std::function<std::pair<double, double>(const T&)>& reach) {
    if (all.empty()) return;
    double most = -1e300;
    least = 1e300;
    for (const T& one : all) {
        const auto [low, high] = reach(one);
        least = std::min(least, low);
        most = std::max(most, high);
    }
    constexpr std::size_t kMost = 4096;
    of.resize(std::clamp<std::size_t>(all.size(), 1, kMost));
    wide = std::max((most - least) / static_cast<double>(of.size()), 1e-9);
    const auto stripOf = [&](double v) { return static_cast<std::size_t>(std::clamp((v - least) / wide, 0.0, static_cast<double>(of.size() - 1))); };
    for (const T& one : all) {
        const auto [low, high] = reach(one);
        for (std::size_t k = stripOf(low - kOnCurve); k <= stripOf(high + kOnCurve); ++k) of[k].push_back(one);
    }
}

template <class T> const std::vector<T>* WhereKept::Strips<T>::at(double v) const {
    const double k = (v - least) / wide;
    if (of.empty() || !(k >= -1.0) || k > static_cast<double>(of.size()) + 1.0) return nullptr;
    return &of[static_cast<std::size_t>(std::clamp(k, 0.0, static_cast<double>(of.size() - 1)))];
}

WhereKept::WhereKept(const WhereSpec& spec, WhereHelp help)
    : m_spec(spec), m_stands(std::move(help.stands)), m_reached(std::move(help.reached)), m_cut(std::move(help.cut)), m_planeAt(help.planeAt),
      m_planeNormal(help.planeNormal), m_axis(Vec3::Unit(spec.axis)), m_u(Vec3::Unit((spec.axis + 1) % 3)), m_v(Vec3::Unit((spec.axis + 2) % 3)) {
    const auto flat = [&](const Vec3& p) { return Vec2(p.dot(m_u), p.dot(m_v)); };
    std::vector<Side> sides;
    for (const Polyline& loop : help.loops)
        for (std::size_t i = 0; i < loop.size(); ++i) sides.push_back({flat(loop[i]), flat(loop[(i + 1) % loop.size()])});
    m_sides.fill(sides, [](const Side& s) -> std::pair<double, double> { return std::minmax({s.from.y(), s.to.y()}); });
    std::vector<Seen> seen;
    for (const TriangleMesh* mesh : help.faces)
        for (std::size_t i = 0; i < mesh->triangles.size(); ++i) {
            Seen t{flat(mesh->corner(i, 0)), flat(mesh->corner(i, 1)), flat(mesh->corner(i, 2))};
            const Vec2 a = t[1] - t[0], b = t[2] - t[0];
            if (a.x() * b.y() - a.y() * b.x() < 0.0) std::swap(t[1], t[2]);
            seen.push_back(t);
        }
    m_seen.fill(seen, [](const Seen& t) -> std::pair<double, double> { return std::minmax({t[0].y(), t[1].y(), t[2].y()}); });
}

// Under or over one of the triangles; edge-on ones are a line.
bool WhereKept::hidden(const Vec2& p) const {
    const auto* strip = m_seen.at(p.y());
    return strip && std::any_of(strip->begin(), strip->end(), [&](const Seen& t) {
               bool within = true;
               for (std::size_t k = 0; k < 3; ++k) {
                   const Vec2 &a = t[k], along = t[(k + 1) % 3] - a, to = p - a;
                   if (along.x() * to.y() - along.y() * to.x() < 0.0) within = false;
               }
               return within || near(p, t[0], t[1]) || near(p, t[1], t[2]) || near(p, t[2], t[0]);
           });
}

// An odd number of sides lies to one side of a point within: holes and islands count as drawn.
bool WhereKept::onRightSide(const Vec3& point) const {
    const bool wanted = m_spec.by == WhereCurves::Inside;
    const Vec2 p(point.dot(m_u), point.dot(m_v));
    bool odd = false;
    if (const auto* strip = m_sides.at(p.y()))
        for (const Side& s : *strip) {
            if (near(p, s.from, s.to)) return true;
            if ((s.from.y() > p.y()) != (s.to.y() > p.y()) && s.from.x() + (p.y() - s.from.y()) / (s.to.y() - s.from.y()) * (s.to.x() - s.from.x()) > p.x()) odd = !odd;
        }
    return (odd || hidden(p)) == wanted;
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
    if (m_spec.side != WhereSide::Both) {
        const double over = (point - m_planeAt).dot(m_planeNormal);
        if ((m_spec.side == WhereSide::Over ? over : -over) < -kOnLimit) return false;
    }
    if (m_spec.by != WhereCurves::Anywhere && !onRightSide(point)) return false;
    if (m_spec.byStock && m_stands && !m_stands(point, normal)) return false;
    if (m_cut && m_cut(point, normal)) return false;
    return !m_spec.byReach || !m_reached || m_reached(point, normal);
}

} // namespace gyre
