// What meets stock that is not cut away yet: rapids, and what of the tool does not cut.
#pragma once
#include "base/Finding.h"
#include "geom/MeshTree.h"
#include "operation/Operation.h"

namespace gyre {

struct OperationResult;
struct Workplace;

/// Does a point lie within a closed mesh? A look along a direction meets its skin from within.
[[nodiscard]] bool insideBody(const TriangleMesh& mesh, const MeshTree& tree, const Vec3& p, const Vec3& along);

/// Rapids of a linked path whose cutter runs through stock. @return an error only when called off
/// @param present  what the operations before leave of it; none: the stock as it is set up is what counts
[[nodiscard]] Result<std::vector<Finding>> rapidsThroughStock(const Workplace& place, const OperationResult& result, const PresentStock& present, Progress& progress);

/// Where shank or holder run through stock, on any move, and rapids through stock where the operation has not told them itself.
[[nodiscard]] Result<std::vector<Finding>> toolThroughStock(const Workplace& place, const OperationResult& result, const PresentStock& present, Progress& progress);

/// Rapids to holes that end within stock.
[[nodiscard]] std::vector<Finding> rapidsEndingInStock(const Workplace& place, const std::string& operation, const std::vector<AxisPose>& ends,
                                                       const PresentStock& present, Progress& progress);

} // namespace gyre
