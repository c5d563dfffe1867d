// Small helpers of the demo parts: boolean operations, turned and lofted bodies.
#pragma once
#include "geom/Vec.h"
#include <TopoDS_Shape.hxx>
#include <vector>

namespace gyre::demo {

TopoDS_Shape cut(const TopoDS_Shape& body, const std::vector<TopoDS_Shape>& tools);
TopoDS_Shape fuse(const TopoDS_Shape& body, const std::vector<TopoDS_Shape>& more);
/// From `foot` along the unit direction.
TopoDS_Shape rod(const Vec3& foot, const Vec3& direction, double radius, double length);
TopoDS_Shape coneRod(const Vec3& foot, const Vec3& direction, double lower, double upper, double length);
TopoDS_Shape block(const Vec3& low, const Vec3& high);
/// A box in a frame: width and depth about the frame's origin, from `low` to `high` along its z; corners rounded when `corner` > 0.
TopoDS_Shape pad(const Frame& frame, double width, double depth, double low, double high, double corner = 0.0);
/// A solid through closed sections of the same number of points; smooth from section to section.
TopoDS_Shape loft(const std::vector<std::vector<Vec3>>& sections, bool straight = false);
/// The frame with its z along `normal` and x level.
Frame lookingAlong(const Vec3& origin, const Vec3& normal);

} // namespace gyre::demo
