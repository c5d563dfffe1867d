// The ways of a cutter around what stands above a level.
#pragma once
#include "milling/Dropper.h"
#include <functional>

namespace gyre {

/// Heights of the tip on a grid that covers the part and a cutter's radius around it.
struct LevelGrid {
    const std::vector<double>& height; ///< on the triangles, row by row
    int columns, rows;
    std::function<Vec2(double column, double row)> place; ///< a right-handed grid: columns grow along x, rows along y of some turned frame
};
struct LevelWay {
    std::vector<Vec2> points; ///< a closed way ends where it begins
    bool closed = false;
};
/// Where the tip at `height` just enters nothing: what stands above lies on the right of the ways. Straight between points they enter nothing by more than the
/// tolerance. A way ends where that cannot be held.
[[nodiscard]] std::vector<LevelWay> waysAtLevel(const Dropper& dropper, const LevelGrid& grid, double height, double tolerance);

} // namespace gyre
