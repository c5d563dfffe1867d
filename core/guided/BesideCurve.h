// Ways beside a curve: around its outer corners, short of its inner ones; the room's own.
#pragma once
#include "axis/Axis.h"

namespace gyre {

/// A place beside a curve: where it belongs on the curve, and the unit direction from there to the cutter's axis.
struct BesidePlace {
    Vec3 at, normal, axis, away;
};

struct BesideWay {
    std::vector<BesidePlace> places;
    bool closed = false;
};

struct BesideWays {
    std::vector<BesideWay> ways; ///< several where the cutter does not fit through
    double left = 0.0;           ///< of the curve that is not touched, mm
    std::vector<Vec3> corners;   ///< where that is
};

/// At every place the distance to the curve, seen along the axis, is `aside`, and nowhere less: outer corners are rolled around, in front
/// of inner ones (and of bends tighter than `aside`) the way ends where it touches both sides, and goes on from there.
/// @param aside  > 0 to the left of the feed, < 0 to its right
[[nodiscard]] BesideWays waysBeside(const Row& row, const std::vector<Vec3>& axes, const std::vector<Vec3>& feeds, double aside, double tolerance);

} // namespace gyre
