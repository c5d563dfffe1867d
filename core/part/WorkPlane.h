// Work planes: where indexed work happens. Every way to make one says why it cannot.
#pragma once
#include "part/Holes.h"

namespace gyre {

struct WorkPlane {
    std::string name;
    Vec3 origin = Vec3::Zero();
    Vec3 normal = Vec3::UnitZ(); ///< unit: the tool stands along it
    Vec3 x = Vec3::UnitX();      ///< unit, square to the normal
    [[nodiscard]] Frame frame() const;
};

/// The first point is the origin, the second lies on +X, the third on the +Y side.
[[nodiscard]] Result<WorkPlane> planeByPoints(const Vec3& origin, const Vec3& onX, const Vec3& toY);
/// On a plane face, normal outward; on any other face the tangent plane nearest to `at`.
[[nodiscard]] Result<WorkPlane> planeByFace(const Part& part, int face, const std::optional<Vec3>& at = {});
/// At the mouth of the hole, square to its axis.
[[nodiscard]] WorkPlane planeByHole(const Hole& hole);
/// Through two straight edges that meet or run side by side; X along the first.
[[nodiscard]] Result<WorkPlane> planeByEdges(const Part& part, int first, int second);
/// The datum turned about X, then about the new Y, then about the new Z (ISO 841 directions), degrees.
[[nodiscard]] Result<WorkPlane> planeByAngles(const Vec3& origin, double aboutX, double aboutY, double aboutZ);
/// The same plane with its normal the other way round.
[[nodiscard]] WorkPlane flipped(const WorkPlane& plane);

} // namespace gyre
