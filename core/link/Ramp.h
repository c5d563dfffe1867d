// A way down along a row itself, where beside a wall no arc has room.
#pragma once
#include "geom/MeshTree.h"
#include "path/Pass.h"

namespace gyre {

/// Length of the tip's way up to every location, mm.
[[nodiscard]] std::vector<double> lengthsAlong(const Pass& pass);

/// Along the row away from its start (or end), rising evenly along the axis: on around a closed row, to and fro on an open one. Between the row's own
/// locations, so that it is as exact as the row.
/// @param rise   mm above the row that it ends at
/// @param slope  rad
/// @return from the row outward; empty when it would be too long, or the row is too short for it
[[nodiscard]] std::vector<AxisPose> rampAlong(const Pass& pass, double rise, double slope, bool atEnd);

} // namespace gyre
