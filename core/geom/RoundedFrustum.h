// A frustum of a cone, grown by a ball: the one shape that cutters, shanks and holders are stacked from.
#pragma once
#include "geom/Vec.h"
#include <array>

namespace gyre {

/// All points within `round` of the solid frustum about the z axis with radius r0 at z0 and r1 at z1 (z0 ≤ z1).
/// A ball is the point z0 = z1, r0 = r1 = 0 with `round` = r. A disc has z0 = z1 and r0 = r1.
struct RoundedFrustum {
    double z0 = 0.0, r0 = 0.0;
    double z1 = 0.0, r1 = 0.0;
    double round = 0.0;

    [[nodiscard]] double low() const { return z0 - round; }
    [[nodiscard]] double high() const { return z1 + round; }
    [[nodiscard]] double radius() const { return std::max(r0, r1) + round; }
};

/// Distance from p to the frustum before growing; 0 inside. With the direction in which it grows (unit, 0 inside).
struct PointDistance {
    double value;
    Vec3 gradient;
};
[[nodiscard]] PointDistance coreDistance(const RoundedFrustum& f, const Vec3& p);

/// Distance from p to the grown frustum; inside it is negative, down to −round.
[[nodiscard]] inline double distance(const RoundedFrustum& f, const Vec3& p) { return coreDistance(f, p).value - f.round; }

/// Exact distance frustum–triangle (to 1e-9), in the frustum's own coordinates; negative (≥ −round) when they overlap.
///
/// Distance to a convex body is a convex function of the point, so its least value over the triangle lies at a vertex,
/// on an edge (a convex function of one parameter), or inside, and then straight below the body's support point.
[[nodiscard]] double distance(const RoundedFrustum& f, const std::array<Vec3, 3>& triangle);

/// Is the triangle nearer than `clearance`? Same answer as distance() < clearance, but stops early.
[[nodiscard]] bool within(const RoundedFrustum& f, const std::array<Vec3, 3>& triangle, double clearance);

/// As distance(), but `limit` when it is not less than that: most triangles are told apart by their corners then.
[[nodiscard]] double distanceBelow(const RoundedFrustum& f, const std::array<Vec3, 3>& triangle, double limit);

/// Least shift u ≥ 0 of the frustum along +z after which the triangle is at least `clearance` away; 0 when it is so now.
[[nodiscard]] double axialEscape(const RoundedFrustum& f, const std::array<Vec3, 3>& triangle, double clearance);

} // namespace gyre
