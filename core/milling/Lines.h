// Flat lines: lengths, directions, the nearest place on them.
#pragma once
#include "milling/Region.h"

namespace gyre {

[[nodiscard]] double lengthOf(const Line& line);
[[nodiscard]] inline Vec2 leftOf(const Vec2& d) { return Vec2(-d.y(), d.x()); }

/// Unit directions along a line, at every point the mean of both sides.
/// @param closed the last point repeats the first
[[nodiscard]] std::vector<Vec2> tangents(const Line& line, bool closed);

struct LinePlace {
    Vec2 point = Vec2::Zero();
    Vec2 way = Vec2::Zero(); ///< of the piece it lies on, not of unit length
    double along = 0.0;      ///< from the line's start
    double distance = 1e300;
};
/// The first of the nearest places; a line of one point gives no place (distance 1e300).
[[nodiscard]] LinePlace nearestOn(const Line& line, const Vec2& p);

/// Does a stretch of a line run as the line does? 1 or −1.
[[nodiscard]] int senseOn(const Line& stretch, const Line& whole);

/// Points at even distances; the last one stays.
[[nodiscard]] Line evenly(const Line& line, double pace);

} // namespace gyre
