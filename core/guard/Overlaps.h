// Bodies of the set-up that stand inside one another: it cannot be built so.
#pragma once
#include "guard/Guard.h"

namespace gyre {

struct Overlap {
    std::string one, other; ///< names of the two bodies
    double depth = 0.0;     ///< of the deepest place found, mm
    Vec3 at = Vec3::Zero(); ///< that place
};

/// Part, fixtures and what of the machine moves with them, pair by pair; bodies of the machine are not asked about each other. Each body's
/// surface is sampled, at most every fiftieth of the room that both share, and every sample that lies within the other is measured to its
/// surface. Bodies that touch, as a clamp its part, are not told: depths count from `least` and what the triangles of both may be off.
[[nodiscard]] std::vector<Overlap> overlapsOf(const Scene& scene, double least = 0.05);

} // namespace gyre
