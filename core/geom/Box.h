// Axis-aligned boxes.
#pragma once
#include "geom/Vec.h"
#include <limits>

namespace gyre {

struct Box {
    Vec3 low = Vec3::Constant(std::numeric_limits<double>::infinity());
    Vec3 high = Vec3::Constant(-std::numeric_limits<double>::infinity());

    void add(const Vec3& p) {
        low = low.cwiseMin(p);
        high = high.cwiseMax(p);
    }
    void add(const Box& b) {
        low = low.cwiseMin(b.low);
        high = high.cwiseMax(b.high);
    }
    [[nodiscard]] bool empty() const { return low.x() > high.x(); }
    [[nodiscard]] Vec3 centre() const { return 0.5 * (low + high); }
    [[nodiscard]] Vec3 half() const { return 0.5 * (high - low); }
    [[nodiscard]] double diagonal() const { return empty() ? 0.0 : (high - low).norm(); }
    [[nodiscard]] double area() const {
        if (empty()) return 0.0;
        const Vec3 d = high - low;
        return 2.0 * (d.x() * d.y() + d.y() * d.z() + d.z() * d.x());
    }
    [[nodiscard]] double distance(const Vec3& p) const { return (low - p).cwiseMax(p - high).cwiseMax(Vec3::Zero()).norm(); }
};

} // namespace gyre
