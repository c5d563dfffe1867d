// What can be measured on a part: of one thing that is picked, and between two.
#pragma once
#include "part/Part.h"
#include <string>
#include <vector>

namespace gyre {

/// A face or an edge where it was picked, or the place alone.
struct MeasuredThing {
    int face = -1, edge = -1;
    Vec3 at = Vec3::Zero();
};

struct Measured {
    enum class Unit { Length, Angle, Area };
    std::string what;   ///< "distance", "wall thickness"
    double value = 0.0; ///< mm, rad, mm²
    Unit unit = Unit::Length;
    Vec3 from = Vec3::Zero(), to = Vec3::Zero(); ///< where it is; the same where it is at one place
};

/// Kind and size, radius, draft against the datum's Z (how far the face leans off it; undercut: below 0), the two radii of curvature at the place,
/// and how thick the part is there, square to the face.
[[nodiscard]] std::vector<Measured> measured(const Part& part, const MeasuredThing& thing);
/// The least distance with its two feet; the distance of the two places that were picked; the angle, of what has a direction: planes by their normals,
/// straight edges, axes of rounds; how far parallel axes or planes are apart.
[[nodiscard]] std::vector<Measured> measuredBetween(const Part& part, const MeasuredThing& one, const MeasuredThing& other);

} // namespace gyre
