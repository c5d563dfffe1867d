// The sheet that milling is thought of on: a plane, or a cylinder unrolled.
#pragma once
#include "geom/MeshTree.h"
#include "part/WorkPlane.h"

namespace gyre {

/// Flat coordinates are x, y and the height over the sheet. On a plane they are the frame's own. On an unrolled cylinder x runs along
/// its axis, y around it at the sheet's radius, so that what is drawn on paper is not mirrored when it is wrapped and seen from outside:
/// `y = −ρ·θ`, with the angle θ by the right hand about the axis (ISO 841) from the frame's z. Any number of turns.
struct Sheet {
    bool wrapped = false;
    Frame frame = Frame::Identity(); ///< plane: z is the way to the spindle; wrapped: x is the axis, z the way to angle 0
    double radius = 0.0;             ///< of the wrapped sheet, mm

    [[nodiscard]] double turn() const { return 2.0 * M_PI * radius; } ///< length of one turn
    /// @param near of the many turns, the one whose y is nearest to this
    [[nodiscard]] Vec3 flat(const Vec3& p, double near = 0.0) const;
    [[nodiscard]] Vec3 point(const Vec3& flat) const;
    [[nodiscard]] Vec3 up(const Vec3& flat) const; ///< unit, away from the sheet
    /// The tool square to the sheet, then moved sideways by `shift` (mm along x and y there) without turning.
    [[nodiscard]] AxisPose pose(const Vec3& flat, const Vec2& shift = Vec2::Zero()) const;
    /// A direction in the flat at that place, in space.
    [[nodiscard]] Vec3 direction(const Vec3& flat, const Vec2& way) const;
    [[nodiscard]] double degrees(double y) const { return -y / radius * 180.0 / M_PI; }
    [[nodiscard]] double fromDegrees(double angle) const { return -angle * M_PI / 180.0 * radius; }
};

[[nodiscard]] Sheet planeSheet(const WorkPlane& plane);
/// About a line; angle 0 lies toward the datum's next axis: Y about X, Z about Y, X about Z.
[[nodiscard]] Sheet wrappedSheet(const AxisLine& about, double radius);

} // namespace gyre
