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
    double nearPole = 0.0;  ///< ° from the direction around which a rotary turns within which it is taken to that; 0: nowhere
};

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
