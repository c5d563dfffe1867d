// Distance between convex bodies given by their support points.
#pragma once
#include "geom/Box.h"
#include "geom/RoundedFrustum.h"
#include "geom/TriangleMesh.h"
#include <functional>
#include <vector>

namespace gyre {

/// A convex body: the hull of some points, or a turned frustum, grown by `round`; placed by `frame`.
struct ConvexBody {
    enum class Kind { Points, Frustum } kind = Kind::Points;
    std::vector<Vec3> points; ///< kind Points: corners of the hull, in own coordinates
    RoundedFrustum frustum;   ///< kind Frustum: about the own z axis
    Frame frame = Frame::Identity();

    /// The furthest point along d (any length), without `round`.
    [[nodiscard]] Vec3 support(const Vec3& d) const;
    [[nodiscard]] double round() const { return kind == Kind::Frustum ? frustum.round : 0.0; }
    [[nodiscard]] Vec3 middle() const;
    [[nodiscard]] Box bounds() const;

    [[nodiscard]] static ConvexBody box(const Vec3& low, const Vec3& high);
    [[nodiscard]] static ConvexBody turned(const RoundedFrustum& f);
};

using Support = std::function<Vec3(const Vec3&)>;

struct ConvexDistance {
    double value;  ///< 0 when they touch or overlap
    double bound;  ///< the true distance is never less than this
    Vec3 onA, onB; ///< nearest points
};

/// Distance by the Gilbert–Johnson–Keerthi iteration on the difference of the two bodies, to about 1e-9 of their size.
[[nodiscard]] ConvexDistance convexDistance(const ConvexBody& a, const ConvexBody& b);
/// As above with a triangle as the second body.
[[nodiscard]] ConvexDistance convexDistance(const ConvexBody& a, const std::array<Vec3, 3>& triangle);
/// Are they nearer than `reach`? Stops as soon as that is certain; at exactly `reach` either answer may come.
[[nodiscard]] bool convexWithin(const ConvexBody& a, const ConvexBody& b, double reach);
[[nodiscard]] bool convexWithin(const ConvexBody& a, const std::array<Vec3, 3>& triangle, double reach);

/// Outer skin of the body as triangles, for drawing; turned bodies with `sides` sides.
[[nodiscard]] TriangleMesh skinOf(const ConvexBody& body, int sides = 48);

} // namespace gyre
