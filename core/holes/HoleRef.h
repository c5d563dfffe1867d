// A hole that is meant.
#pragma once
#include "geom/Vec.h"

namespace gyre {

/// A hole that is meant, known again by where it begins.
struct HoleRef {
    Vec3 mouth = Vec3::Zero(); ///< as it was found, before any turning round
    double diameter = 0.0;
    bool turned = false; ///< entered from the other side; the job's marks of holes say so
};

} // namespace gyre
