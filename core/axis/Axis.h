// Stage 3, Axis: a unit vector from tip to spindle for every contact.
#pragma once
#include "base/Finding.h"
#include "part/Part.h"
#include "path/LeadTilt.h"
#include "path/Toolpath.h"
#include "tool/Contact.h"
#include <functional>
#include <optional>

namespace gyre {

struct AxisKey;
struct AxisSpec;

/// What an aim refers to, found in the part and the machine.
struct AimedAt {
    std::vector<Curve> curves; ///< of Curve the first is meant; of Lines each is one line
    const Part* part = nullptr;
    std::vector<int> faces;
};
struct AxisHelp {
    std::optional<AxisLine> rotary;
    AimedAt first, last;
    /// The nearest direction with one rotary locked whose angle to the datum's Z lies within a window (rad); when there is none, the one that is
    /// least outside of it.
    std::function<Vec3(const Vec3& wanted, double low, double high)> locked;
    /// What becomes of an axis near the rows of other operations that these begin at; null: they do not.
    std::function<Vec3(const Vec3& contact, const Vec3& own)> besideOthers;
    std::optional<Vec3> pole; ///< the direction around which the rotary nearest to the work turns
    AxisHelp() = default;
    AxisHelp(std::nullopt_t) {}
    AxisHelp(std::optional<AxisLine> line) : rotary(std::move(line)) {}
};

struct AxisResult {
    std::vector<std::vector<Vec3>> axes;  ///< as the rows and their points
    std::vector<std::vector<Vec3>> feeds; ///< unit feed direction in the tangent plane
    double steepest = 0.0;                ///< °/mm, the fastest turn found
    int steepestRow = -1;
    double mostLimited = 0.0; ///< rad, furthest that window and lock moved an axis
    double mostPoled = 0.0;   ///< rad, furthest that nearPole did
    double mostEvened = 0.0;  ///< rad, furthest that the largest turn per millimetre did
    std::vector<Finding> findings;
};

/// Nearest direction whose angle to `z` lies within [low, high] (rad). An axis along z itself is turned towards `hint`.
/// Turned towards the normal until it stands at least so far off the face (rad).
[[nodiscard]] Vec3 keptOffFace(const Vec3& axis, const Vec3& normal, double least);
[[nodiscard]] Vec3 limitedAxis(const Vec3& axis, const Vec3& z, double low, double high, const Vec3& hint);

/// Axis through the rotary line and square to it for a contact; for cutters other than balls the tip moves with the axis, so
/// it is searched for. nullopt when the contact lies on the line, or a flat bottom would have to touch somewhere between its
/// middle and its rim.
[[nodiscard]] std::optional<Vec3> axisTowardLine(const Cutter& cutter, const Vec3& contact, const Vec3& normal, const AxisLine& line);

/// An axis near a pole taken to it: on it within `near` (rad), as it was from three times that on, and evenly in between.
[[nodiscard]] Vec3 takenToPole(const Vec3& axis, const Vec3& pole, double near);

/// Which way each line points, from foot to spindle: out of the surface where it leaves that, else up, else as it runs; turned over where that is said.
[[nodiscard]] std::vector<Vec3> lineWays(const std::vector<Curve>& lines, const std::vector<Row>& rows, const std::vector<int>& turned);

/// Unit feed direction at every point of a row, in the tangent plane.
[[nodiscard]] std::vector<Vec3> feedDirections(const Row& row);

/// Axis whose line runs through a point: from the tip to it, or (`away`) on beyond the tip. nullopt when the tip would lie on the point, or a
/// flat bottom leaves no such direction.
[[nodiscard]] std::optional<Vec3> axisThrough(const Cutter& cutter, const Vec3& contact, const Vec3& normal, const Vec3& point, bool away);

/// More lead and tilt (rad) at a fraction of a row from keys.
/// @param level of the row, 0 on the first rail and 1 on the second
[[nodiscard]] LeadTilt keyed(const std::vector<AxisKey>& keys, double fraction, double level, int row, bool closed = false);

[[nodiscard]] Result<AxisResult> setAxes(const std::vector<Row>& rows, const AxisSpec& spec, const Cutter& cutter, const AxisHelp& help);

} // namespace gyre
