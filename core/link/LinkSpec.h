// Words of entries and of ways between cuts.
#pragma once

namespace gyre {

enum class SkinKind { Plane, Cylinder, Sphere };
enum class SmallLink { Direct, Smooth };

/// The closed safe surface that moves between cuts stay outside of. Plane: square to the axis at `size`. Cylinder: about the axis.
/// Sphere: about the datum.
struct Skin {
    SkinKind kind = SkinKind::Cylinder;
    double size = 80.0; ///< height of the plane, or radius, mm
    int axis = 2;       ///< of plane and cylinder: the datum's X, Y or Z
};

struct LinkSpec {
    double entryRadius = 2.0; ///< tangent arc into and out of the cut, smaller where there is less room; 0: none, down where the cut begins
    double rampDegrees = 3.0; ///< slope of a ramp along the row, where beside a wall there is no room for an arc
    double smallGap = 2.0;    ///< gaps up to this are joined without leaving the part
    SmallLink small = SmallLink::Smooth;
    Skin skin;
    double approach = 3.0; ///< rapid ends this far above the entry
    bool low = false;      ///< where the axis stays and nothing is near: straight across as a rapid, without going out to the skin
};

} // namespace gyre
