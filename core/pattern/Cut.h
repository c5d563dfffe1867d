// Meshes that close on themselves, opened where a field begins and ends.
#pragma once
#include "part/Part.h"
#include <functional>

namespace gyre {

/// Leaves out triangles; points stay.
void keepTriangles(FieldMesh& mesh, const std::function<bool(std::size_t)>& kept);

/// Triangles that a half plane meets become two or three that end there; every new point is there twice, once for each side. Points on it count as
/// beside it. No triangle may meet the line that the half plane ends at.
/// @param from       of that line
/// @param direction  of that line, unit
/// @param across     unit, in the half plane, square to the line
/// @return for every point that was added: does it belong to the side where a turn about the line begins?
std::vector<char> cutByHalfPlane(FieldMesh& mesh, const Vec3& from, const Vec3& direction, const Vec3& across);

/// Corners that meet in one point but have different values become as many points.
/// @param corners  the values, for each triangle; no number where there is none
/// @param value    by point, as it comes out; points that no corner tells of are left as they are
/// @return is there a point with the lowest and the highest value alone: does the mesh close on itself there?
bool partByValue(FieldMesh& mesh, const std::vector<std::array<double, 3>>& corners, std::vector<double>& value);

} // namespace gyre
