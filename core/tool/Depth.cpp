#include "tool/Depth.h"

namespace gyre {

std::optional<RoundedFrustum> thinned(RoundedFrustum f, double by, bool lowest, bool highest) {
    if (f.round > 0.0) { // a ball or a ring of balls
        if (f.round < by) return std::nullopt;
        f.round -= by;
        return f;
    }
    const double height = f.z1 - f.z0;
    if (height <= 0.0) return std::nullopt;
    const double slope = (f.r1 - f.r0) / height, in = by * std::sqrt(1.0 + slope * slope);
    const double low = lowest ? f.z0 + by : std::max(f.z0, by);
    f.r0 += (low - f.z0) * slope - in;
    if (highest) {
        f.z1 -= by;
        f.r1 -= by * slope;
    }
    f.r1 -= in;
    f.z0 = low;
    if (f.r0 < 0.0 && slope > 0.0) { // a point: it begins higher
        f.z0 -= f.r0 / slope;
        f.r0 = 0.0;
    }
    if (f.r0 < 0.0 || f.r1 < 0.0 || f.z1 <= f.z0) return std::nullopt;
    return f;
}

namespace {

/// A point that goes over into a shaft: made smaller, its cone goes on upward until it meets the smaller shaft.
std::vector<RoundedFrustum> thinnedPoint(const RoundedFrustum& cone, const RoundedFrustum& shaft, double by) {
    const double slope = (cone.r1 - cone.r0) / (cone.z1 - cone.z0), in = by * std::sqrt(1.0 + slope * slope), radius = shaft.r0 - by, top = shaft.z1 - by;
    const auto radiusAt = [&](double z) { return cone.r0 + slope * (z - cone.z0) - in; };
    double low = cone.z0 + by;
    if (radiusAt(low) < 0.0) low = cone.z0 + (in - cone.r0) / slope;
    const double join = std::min(top, cone.z0 + (radius + in - cone.r0) / slope);
    std::vector<RoundedFrustum> out;
    if (radius <= 0.0 || low >= top) return out;
    if (low < join) out.push_back({low, radiusAt(low), join, radiusAt(join), 0.0});
    if (join < top) out.push_back({std::max(low, join), radius, top, radius, 0.0});
    return out;
}

} // namespace

std::vector<RoundedFrustum> thinnedEnd(const std::vector<RoundedFrustum>& zone, double by) {
    if (zone.size() == 2 && zone[0].round == 0.0 && zone[0].r1 > zone[0].r0 && zone[0].z1 > zone[0].z0 && zone[1].r0 == zone[1].r1)
        return thinnedPoint(zone[0], zone[1], by);
    std::vector<RoundedFrustum> out;
    for (std::size_t i = 0; i < zone.size(); ++i)
        if (const auto piece = thinned(zone[i], by, i == 0, i + 1 == zone.size())) out.push_back(*piece);
    return out;
}

} // namespace gyre
