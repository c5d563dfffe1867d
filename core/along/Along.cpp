#include "along/Along.h"
#include "base/Units.h"

namespace gyre {

double flankAngle(const Cutter& c) {
    const CutterUse use = usedBy(c.shape);
    return use.taper ? radians(c.taperDegrees) : use.point ? radians(0.5 * c.pointDegrees) : 0.0;
}

namespace {

/// The flank as a line in the half plane: radius at the tip's height, if it went on down to there.
double radiusAtTip(const Cutter& c) {
    const double k = flankAngle(c), r = 0.5 * c.diameter;
    switch (c.shape) {
    case CutterShape::TaperedBall: // tangent to the ball: its centre stands r over the tip
        return r / std::cos(k) - r * std::tan(k);
    case CutterShape::Tapered:
        return r;
    case CutterShape::Chamfer:
        return 0.5 * c.tipDiameter;
    case CutterShape::Spot:
    case CutterShape::Drill:
        return 0.0;
    default:
        return r;
    }
}

} // namespace

double flankStart(const Cutter& c) {
    const double r = 0.5 * c.diameter;
    switch (c.shape) {
    case CutterShape::Ball:
    case CutterShape::Lollipop:
        return r;
    case CutterShape::CornerRadius:
        return c.cornerRadius;
    case CutterShape::TaperedBall:
        return r * (1.0 - std::sin(flankAngle(c)));
    case CutterShape::Barrel: {
        const BarrelProfile b = barrelProfile(c);
        return b.middle.y() + b.radius * b.join.y();
    }
    default:
        return 0.0;
    }
}

double flankRadius(const Cutter& c, double height) {
    if (c.shape == CutterShape::Barrel) {
        const BarrelProfile b = barrelProfile(c);
        const double dy = std::clamp(height - b.middle.y(), -b.radius, b.radius);
        return b.middle.x() + std::sqrt(b.radius * b.radius - dy * dy);
    }
    return radiusAtTip(c) + height * std::tan(flankAngle(c));
}

CutterSide::CutterSide(const Cutter& c) : m_shape(c.shape), m_radius(0.5 * c.diameter), m_corner(c.cornerRadius), m_tip(radiusAtTip(c)) {
    const double k = flankAngle(c);
    m_sin = std::sin(k);
    m_cos = std::cos(k);
    if (c.shape == CutterShape::Barrel) m_barrel = barrelProfile(c);
}

double CutterSide::off(double radial, double height) const {
    const double r = m_radius;
    switch (m_shape) {
    case CutterShape::Ball:
    case CutterShape::Lollipop:
        return (height < r ? std::hypot(radial, height - r) : radial) - r;
    case CutterShape::CornerRadius:
        if (height >= m_corner) return radial - r;
        return std::hypot(std::max(0.0, radial - (r - m_corner)), height - m_corner) - m_corner;
    case CutterShape::Barrel: {
        const Vec2 p(radial, height);
        const Vec2 d = p - m_barrel.middle;
        if (d.y() >= m_barrel.radius * m_barrel.join.y()) return d.norm() - m_barrel.radius;
        return (p - m_barrel.nose).norm() - m_corner;
    }
    case CutterShape::TaperedBall: {
        const double along = radial * m_sin + (height - r) * m_cos; // along the flank from where it leaves the ball
        if (along < 0.0) return std::hypot(radial, height - r) - r;
        return radial * m_cos - (height - r) * m_sin - r;
    }
    default: // flat, tapered, pointed: a flank over a flat end
        if (height >= 0.0) return (radial - m_tip) * m_cos - height * m_sin;
        return radial <= m_tip ? -height : std::hypot(radial - m_tip, height);
    }
}

double CutterSide::off(const AxisPose& pose, const Vec3& p) const {
    const Vec3 d = p - pose.tip;
    const double h = d.dot(pose.axis);
    return off((d - h * pose.axis).norm(), h);
}

Pass passAlong(const std::vector<AxisPose>& poses, const std::vector<Vec3>& contacts, const std::vector<Vec3>& normals, bool closed, int row, int face) {
    Pass pass;
    pass.row = row;
    pass.closed = closed;
    const std::size_t n = poses.size();
    pass.path.reserve(n + 1);
    for (std::size_t k = 0; k < n + (closed ? 1 : 0); ++k) {
        const std::size_t i = k % n;
        pass.path.push(poses[i].tip, poses[i].axis, contacts[i], normals[i], Motion::Cut, row, 0.0, face);
    }
    const std::size_t count = pass.path.size();
    pass.feedDirection.assign(count, Vec3::Zero());
    for (std::size_t i = 0; i < count; ++i) {
        // The nearest places before and after that are not the same.
        Vec3 d = Vec3::Zero();
        for (std::size_t step = 1; step < count && d.norm() < 1e-9; ++step) {
            const bool wraps = closed && count > 2;
            const std::size_t m = count - 1; // of a closed one the last repeats the first
            const Vec3& ahead = wraps ? pass.path.tip[(i + step) % m] : pass.path.tip[std::min(i + step, count - 1)];
            const Vec3& back = wraps ? pass.path.tip[(i + m - step % m) % m] : pass.path.tip[i >= step ? i - step : 0];
            d = rejected(ahead - back, pass.path.normal[i]);
        }
        pass.feedDirection[i] = d.norm() > 1e-12 ? Vec3(d.normalized()) : anyPerpendicular(pass.path.normal[i]);
    }
    return pass;
}

void measurePasses(AlongResult& result) {
    for (const Pass& p : result.passes)
        for (std::size_t i = 1; i < p.path.size(); ++i) {
            const double d = (p.path.tip[i] - p.path.tip[i - 1]).norm();
            result.length += d;
            if (d > 1e-3) result.steepest = std::max(result.steepest, degrees(angleBetween(p.path.axis[i], p.path.axis[i - 1])) / d);
        }
}

} // namespace gyre
