// Stage 3, Axis: a unit vector from tip to spindle for every contact.
#pragma once
#include "base/Finding.h"
#include "path/Toolpath.h"
#include "tool/Contact.h"
#include <optional>

namespace gyre {

enum class AxisRule {
    Surface,     ///< lead and tilt against normal and feed
    Fixed,       ///< one direction
    TowardRotary ///< square to the machine's rotary axis and through it (4-axis)
};

struct AxisSpec {
    AxisRule rule = AxisRule::Surface;
    /// Lead goes with the feed of every row; tilt is that of the pattern's direction, so that returning rows lean to the same side
    /// of the part (their own tilt has the opposite sign).
    double leadDegrees = 0.0, tiltDegrees = 0.0;
    Vec3 direction = Vec3::UnitZ(); ///< rule Fixed
    bool limited = false;           ///< keep the angle to the datum's Z within a window
    double lowDegrees = 0.0, highDegrees = 90.0;
    double smoothing = 0.0; ///< mm along the row over which the axis is evened out
    double steepest = 0.0;  ///< °/mm that must not be exceeded; 0: any
};

struct AxisResult {
    std::vector<std::vector<Vec3>> axes;  ///< as the rows and their points
    std::vector<std::vector<Vec3>> feeds; ///< unit feed direction in the tangent plane
    double steepest = 0.0;                ///< °/mm, the fastest turn found
    int steepestRow = -1;
    double mostLimited = 0.0; ///< rad, furthest that the window moved an axis
    std::vector<Finding> findings;
};

/// Tool axis for one contact from lead and tilt.
///
/// `a = cos τ (cos λ N + sin λ F) + sin τ B` with `B = N × F`.
/// @param normal  outward unit normal of the surface at the contact
/// @param feed    unit feed direction, perpendicular to `normal`
/// @param lead    rad; positive leans the spindle into the feed, negative is lag
/// @param tilt    rad; positive leans it to the left of the feed
/// @return unit vector from tip to spindle
[[nodiscard]] Vec3 axisFromLeadTilt(const Vec3& normal, const Vec3& feed, double lead, double tilt);

/// The inverse: lead and tilt (rad) of an axis; lead is 0 where the axis lies along the left side.
struct LeadTilt {
    double lead, tilt;
};
[[nodiscard]] LeadTilt leadTiltOf(const Vec3& axis, const Vec3& normal, const Vec3& feed);

/// Nearest direction whose angle to `z` lies within [low, high] (rad). An axis along z itself is turned towards `hint`.
[[nodiscard]] Vec3 limitedAxis(const Vec3& axis, const Vec3& z, double low, double high, const Vec3& hint);

/// Axis through the rotary line and square to it for a contact; for cutters other than balls the tip moves with the axis, so
/// it is searched for. nullopt when the contact lies on the line, or a flat bottom would have to touch somewhere between its
/// middle and its rim.
[[nodiscard]] std::optional<Vec3> axisTowardLine(const Cutter& cutter, const Vec3& contact, const Vec3& normal, const AxisLine& line);

/// Unit feed direction at every point of a row, in the tangent plane.
[[nodiscard]] std::vector<Vec3> feedDirections(const Row& row);

[[nodiscard]] Result<AxisResult> setAxes(const std::vector<Row>& rows, const AxisSpec& spec, const Cutter& cutter, const std::optional<AxisLine>& rotary);

} // namespace gyre
