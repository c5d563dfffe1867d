// Words of a wall that is cut with the side of the cutter.
#pragma once
#include <array>
#include <vector>

namespace gyre {

enum class SwarfCorner { Roll, Stop, Loop };

struct SwarfSpec {
    bool fromRails = false; ///< between a lower and an upper rail, instead of picked faces
    bool otherSide = false; ///< of rails: the tool stands on the other side
    bool flipped = false;   ///< the lower end is where the upper one was found
    double past = 0.0;      ///< how far the tip goes past the lower rail, along the axis, mm
    double stepdown = 0.0;  ///< 0: in one depth
    double thickness = 0.0; ///< of what stands before the wall, mm; 0: one pass
    double stepover = 1.0;
    bool depthsFirst = false; ///< with both: all depths of one thickness before the next
    double entry = 0.0;       ///< of closed walls: fraction of the way round where it begins
    bool climb = true;
    SwarfCorner corner = SwarfCorner::Roll;
    double extend = 0.0;                     ///< open walls: beyond both ends, mm
    bool twist = true;                       ///< make the deviation on twisted walls as small as it goes; else lay the cutter on both ends
    bool lift = true;                        ///< along the axis, where a floor or an inner corner stands in the way of the tip
    double tolerance = 0.02;                 ///< largest deviation that is let pass, mm
    std::vector<std::array<double, 2>> sync; ///< fractions of the lower and the upper rail that belong together
    bool operator==(const SwarfSpec&) const = default;
};

} // namespace gyre
