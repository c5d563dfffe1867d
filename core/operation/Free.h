// What the axis of an operation is free to do.
#pragma once
#include "guard/Sky.h"

namespace gyre {

struct OperationResult;
struct Recipe;
struct Workplace;

/// Can the axis of the work lean away from what is too near?
[[nodiscard]] bool axisIsFree(const Recipe& recipe);
/// With the machine's reach, the axis' own window and its largest turn. Outlives the workplace.
[[nodiscard]] Freedom freedomOf(const Workplace& place, const Recipe& recipe, const Assembly& tool);

/// All directions at a location of a path.
struct SkyHere {
    SkyMap map;
    std::function<SkyMap::Cell(const Vec3& axis)> ask; ///< what exactly one is like, with its room
    std::function<AxisPose(const Vec3& axis)> stands;  ///< where the tool would stand
};
/// Nothing where the cutter touches nothing or the axis is not free.
/// @param cell  ° across a cell
/// @param rooms measure how much room safe directions have
[[nodiscard]] std::optional<SkyHere> skyAt(const Workplace& place, const Recipe& recipe, const OperationResult& result, std::size_t location, double cell, bool rooms);

} // namespace gyre
