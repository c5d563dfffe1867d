// Lead and tilt of a tool axis against a surface and its feed.
#pragma once
#include "geom/Vec.h"

namespace gyre {

/// Tool axis for one contact from lead and tilt.
///
/// `a = cos τ (cos λ N + sin λ F) + sin τ B` with `B = N × F`.
/// @param normal  outward unit normal of the surface at the contact
/// @param feed    unit feed direction, perpendicular to `normal`
/// @param lead    rad; positive leans the spindle into the feed, negative is lag
/// @param tilt    rad; positive leans it to the left of the feed
/// @return unit vector from tip to spindle
[[nodiscard]] Vec3 axisFromLeadTilt(const Vec3& normal, const Vec3& feed, double lead, double tilt);

/// The inverse: lead and tilt (rad) of an axis; lead is 0 where the axis lies along the left side.
struct LeadTilt {
    double lead = 0.0, tilt = 0.0;
};
[[nodiscard]] LeadTilt leadTiltOf(const Vec3& axis, const Vec3& normal, const Vec3& feed);

} // namespace gyre
