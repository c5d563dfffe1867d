// Where a zone of the tool and a body come nearest, to be drawn and told.
#pragma once
#include "guard/Guard.h"

namespace gyre {

struct NearestPlaces {
    Vec3 onTool, onBody; ///< the same place where the one is within the other
    double distance = 0.0;
};
/// @return nothing where they are further apart than `limit`, mm
[[nodiscard]] std::optional<NearestPlaces> nearestPlaces(const Assembly& assembly, Zone zone, const Obstacle& obstacle, const AxisPose& pose, double limit);

} // namespace gyre
