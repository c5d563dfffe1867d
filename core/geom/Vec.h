// Vectors, frames and angles.
#pragma once
#include <Eigen/Core>
#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

namespace gyre {

using Vec2 = Eigen::Vector2d;
using Vec3 = Eigen::Vector3d;
using Mat3 = Eigen::Matrix3d;
/// A rigid placement: rotation and translation, mm.
using Frame = Eigen::Isometry3d;

/// Some unit vector square to the unit vector `v`.
[[nodiscard]] inline Vec3 anyPerpendicular(const Vec3& v) {
    const Vec3 other = std::abs(v.x()) < 0.6 ? Vec3::UnitX() : Vec3::UnitY();
    return v.cross(other).normalized();
}

/// Angle between two vectors, 0 … π, accurate near both ends (atan2, not acos).
[[nodiscard]] inline double angleBetween(const Vec3& a, const Vec3& b) { return std::atan2(a.cross(b).norm(), a.dot(b)); }

/// Spherical interpolation between unit vectors. For opposite vectors the great circle is arbitrary but fixed.
[[nodiscard]] inline Vec3 slerp(const Vec3& a, const Vec3& b, double t) {
    const double angle = angleBetween(a, b);
    if (angle < 1e-9) return ((1.0 - t) * a + t * b).normalized();
    Vec3 side = b - a.dot(b) * a;
    if (side.norm() < 1e-12) side = anyPerpendicular(a);
    return std::cos(t * angle) * a + std::sin(t * angle) * side.normalized();
}

/// `v` without its part along the unit vector `n`.
[[nodiscard]] inline Vec3 rejected(const Vec3& v, const Vec3& n) { return v - v.dot(n) * n; }

/// Rotation by `angle` (rad, right hand) about the unit axis through the origin.
[[nodiscard]] inline Mat3 rotation(const Vec3& axis, double angle) { return Eigen::AngleAxisd(angle, axis).toRotationMatrix(); }

/// A line in space, e.g. a machine's rotary axis in part datum coordinates.
struct AxisLine {
    Vec3 point, direction; ///< the direction is unit
};

} // namespace gyre
