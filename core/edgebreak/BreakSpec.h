// Words of edges that are broken.
#pragma once
#include "geom/Vec.h"

namespace gyre {

enum class BreakEdges { Picked, Faces, Body, HolesNear, HolesFar, HolesBoth };
inline constexpr int kBreakEdges = 6;
[[nodiscard]] const char* breakEdgesName(BreakEdges e);
enum class BreakAxis {
    Propose, ///< along holes, else the first of some that reaches
    Turn,    ///< turned about the edge, out of the middle between the faces
    Fixed    ///< one direction
};

struct BreakSpec {
    BreakEdges edges = BreakEdges::Picked;
    double sharper = 20.0; ///< degrees: edges of faces and body that bend by at least this
    bool round = false;
    double size = 0.3; ///< mm: leg on either face, or radius of the round
    int rows = 1;      ///< of a ball
    BreakAxis axis = BreakAxis::Propose;
    double turnDegrees = 45.0;
    Vec3 direction = Vec3::UnitZ();
    bool climb = true;
    bool operator==(const BreakSpec&) const = default;
};

} // namespace gyre
