// Work along walls, curves and edges: the cutter's side down a wall, along a curve, or over a sharp edge.
#pragma once
#include "axis/Axis.h"
#include "base/Finding.h"
#include "base/Progress.h"
#include "geom/Curve.h"
#include "part/Holes.h"
#include "path/Pass.h"
#include "tool/Assembly.h"
#include <functional>

namespace gyre {

/// A place on a wall and how far the finished wall is off there, mm: below 0 too much is taken, above 0 something stays.
struct WallSample {
    Vec3 point;
    double off = 0.0;
};

/// Lines along which the cutter may enter the part, and how far to either side.
struct Strip {
    std::vector<Vec3> line;
    double width = 0.0;
};

struct AlongResult {
    std::vector<Row> rows; ///< what the view draws of the pattern
    std::vector<Pass> passes;
    std::vector<Finding> findings;
    std::vector<WallSample> map; ///< of walls, one line of `perLine` after the other
    std::size_t perLine = 0;
    double over = 0.0, under = 0.0; ///< of walls: most that is taken too much, most that stays, mm
    std::vector<Strip> strips;      ///< of broken edges
    std::vector<int> ownFaces;      ///< of walls: those that are made, and how far they may be off
    double ownTolerance = 0.0;
    std::string what, how; ///< facts of the stages Target and Pattern
    double steepest = 0.0; ///< °/mm
    double length = 0.0;   ///< of all cutting, mm
};

/// How far points lie off a cutter's surface, seen from its side: below 0 within. The flank goes on without end upward; below its
/// straight part the true end counts. Made once for many points.
class CutterSide {
public:
    explicit CutterSide(const Cutter& cutter);
    /// @param radial  distance from the axis   @param height  above the tip
    [[nodiscard]] double off(double radial, double height) const;
    [[nodiscard]] double off(const AxisPose& pose, const Vec3& p) const;

private:
    CutterShape m_shape;
    double m_radius, m_corner, m_tip, m_sin, m_cos;
    BarrelProfile m_barrel{};
};
/// Height above the tip where the flank begins, and where the flutes end.
[[nodiscard]] double flankStart(const Cutter& cutter);
/// Half angle of the flank, rad; 0 for cylinders.
[[nodiscard]] double flankAngle(const Cutter& cutter);
/// Radius of the flank at a height above the tip.
[[nodiscard]] double flankRadius(const Cutter& cutter, double height);

/// Closes a pass: the columns that all three kinds of work fill alike.
/// @param contacts, normals  what is touched, as many as poses
[[nodiscard]] Pass passAlong(const std::vector<AxisPose>& poses, const std::vector<Vec3>& contacts, const std::vector<Vec3>& normals, bool closed, int row, int face);
/// Length of a pass, and its steepest turn of the axis in °/mm.
void measurePasses(AlongResult& result);

/// Without the triangles that come nearer to any of the strips' lines than its width; those that reach over its border are divided.
[[nodiscard]] TriangleMesh withoutStrips(const TriangleMesh& mesh, const std::vector<Strip>& strips);

} // namespace gyre
