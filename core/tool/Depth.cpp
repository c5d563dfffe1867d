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

std::vector<RoundedFrustum> thinnedEnd(const std::vector<RoundedFrustum>& zone, double by) {
    std::vector<RoundedFrustum> out;
    for (std::size_t i = 0; i < zone.size(); ++i)
        if (const auto piece = thinned(zone[i], by, i == 0, i + 1 == zone.size())) out.push_back(*piece);
    return out;
}

} // namespace gyre
