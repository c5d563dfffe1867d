#include "milling/Sheet.h"

namespace gyre {

Vec3 Sheet::flat(const Vec3& p, double near) const {
    const Vec3 q = frame.inverse() * p;
    if (!wrapped) return q;
    const double y = radius * std::atan2(q.y(), q.z());
    return {q.x(), y + turn() * std::round((near - y) / turn()), std::hypot(q.y(), q.z()) - radius};
}

Vec3 Sheet::up(const Vec3& flat) const {
    if (!wrapped) return frame.linear().col(2);
    const double a = flat.y() / radius;
    return std::cos(a) * frame.linear().col(2) + std::sin(a) * frame.linear().col(1);
}

Vec3 Sheet::point(const Vec3& flat) const {
    if (!wrapped) return frame * flat;
    return frame.translation() + flat.x() * frame.linear().col(0) + (radius + flat.z()) * up(flat);
}

Vec3 Sheet::direction(const Vec3& flat, const Vec2& way) const {
    if (!wrapped) return frame.linear() * Vec3(way.x(), way.y(), 0.0);
    const double a = flat.y() / radius;
    return way.x() * frame.linear().col(0) + way.y() * (std::cos(a) * frame.linear().col(1) - std::sin(a) * frame.linear().col(2));
}

AxisPose Sheet::pose(const Vec3& flat, const Vec2& shift) const { return {point(flat) + direction(flat, shift), up(flat)}; }

Sheet planeSheet(const WorkPlane& plane) { return {false, plane.frame(), 0.0}; }

Sheet wrappedSheet(const AxisLine& about, double radius) {
    Vec3 x = about.direction.normalized();
    int k = 0;
    x.cwiseAbs().maxCoeff(&k);
    if (x[k] < 0.0) x = -x;
    Vec3 z = rejected(Vec3::Unit((k + 1) % 3), x).normalized();
    Sheet s{true, Frame::Identity(), radius};
    s.frame.linear().col(0) = x;
    s.frame.linear().col(1) = z.cross(x);
    s.frame.linear().col(2) = z;
    // The axial zero is the datum's: the point of the axis nearest to it.
    s.frame.translation() = about.point - about.point.dot(x) * x;
    return s;
}

} // namespace gyre
