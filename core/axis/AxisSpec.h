// Words of the tool axis.
#pragma once
#include "part/Part.h"
#include <string>
#include <vector>

namespace gyre {

enum class AxisRule {
    Surface,      ///< lead and tilt against normal and feed
    Fixed,        ///< one direction
    TowardRotary, ///< square to the machine's rotary axis and through it (4-axis)
    Point,        ///< through a point, or away from it
    Curve,        ///< through a curve, or away from it
    Lines,        ///< along lines that were drawn, turning from one to the next
    Normals       ///< square to other faces
};

/// Where axes come from.
struct AxisAim {
    AxisRule rule = AxisRule::Surface;
    /// Lead goes with the feed of every row, or with the pattern's direction (AxisSpec::leadByPattern); tilt is that of the pattern's direction,
    /// so that returning rows lean to the same side of the part (their own tilt has the opposite sign).
    double leadDegrees = 0.0, tiltDegrees = 0.0;
    Vec3 direction = Vec3::UnitZ(); ///< rule Fixed
    Vec3 point = Vec3(0, 0, 100);   ///< rule Point
    bool away = false;              ///< Point, Curve: the spindle looks away from it instead of standing on its side
    std::string curve;              ///< Curve, Lines: name of a drawing, or of a mend with curves
    std::vector<ShapeRef> edges;    ///< Curve, Lines: picked
    bool inStep = false;            ///< Curve: at the same fraction of the way, not where it is nearest
    std::vector<ShapeRef> faces;    ///< Normals: picked
    std::vector<int> turned;        ///< Lines: numbers of those that point the other way than they would by themselves
};

/// More lead and tilt at a place along the rows; between keys it changes smoothly, beyond the outermost it stays (on closed rows it goes on around).
struct AxisKey {
    double at = 0.5;     ///< fraction of the first row, in the pattern's direction
    double atLast = 0.5; ///< the same on the last row: the mark runs straight across from one to the other
    int row = -1;        ///< holds for one row only
    double leadDegrees = 0.0, tiltDegrees = 0.0;
    bool operator==(const AxisKey&) const = default;
};

struct AxisSpec : AxisAim {
    bool leadByPattern = false; ///< lead of aims and keys leans the same way on all rows, so that returning rows trail
    bool blended = false;       ///< from this aim on the first row to `last` on the last
    AxisAim last;
    std::vector<AxisKey> keys;
    bool limited = false; ///< keep the angle to the datum's Z within a window
    double lowDegrees = 0.0, highDegrees = 90.0;
    std::string locked; ///< name of a rotary joint that stays at `lockedDegrees`
    double lockedDegrees = 0.0;
    double smoothing = 0.0; ///< mm along the row over which the axis is evened out
    double steepest = 0.0;  ///< °/mm that must not be exceeded; 0: any
    double offFaces = 0.0;  ///< ° that it stands off the faces at least: the cutter's side keeps away from them
    double nearPole = 0.0;  ///< ° from the direction around which a rotary turns within which it is taken to that; 0: nowhere
};

} // namespace gyre
