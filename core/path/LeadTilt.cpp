#include "path/LeadTilt.h"

namespace gyre {

Vec3 axisFromLeadTilt(const Vec3& n, const Vec3& f, double lead, double tilt) {
    return std::cos(tilt) * (std::cos(lead) * n + std::sin(lead) * f) + std::sin(tilt) * n.cross(f);
}

LeadTilt leadTiltOf(const Vec3& axis, const Vec3& n, const Vec3& f) {
    const double side = std::clamp(axis.dot(n.cross(f)), -1.0, 1.0);
    const double up = axis.dot(n), ahead = axis.dot(f);
    return {std::hypot(up, ahead) < 1e-12 ? 0.0 : std::atan2(ahead, up), std::asin(side)};
}

} // namespace gyre
