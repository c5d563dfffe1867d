// Private to drawing/: what both readers share.
#pragma once
#include "drawing/Drawing.h"

namespace gyre {

inline constexpr std::size_t kMostDrawn = 200'000; ///< curves of a drawing
inline constexpr double kFarDrawn = 1e6;           ///< mm: nothing of a drawing is further away

/// Part of an ellipse: centre, two half axes, from one parameter to another.
[[nodiscard]] Curve ellipseArc(const Vec3& centre, const Vec3& a, const Vec3& b, double from, double to);

/// Curves that meet end to end, and nothing else with them, become one; the order of the rest stays.
[[nodiscard]] std::vector<DrawnCurve> chained(std::vector<DrawnCurve> pieces);

} // namespace gyre
