// Rapids that meet stock which is not cut away yet.
#pragma once
#include "operation/Operation.h"

namespace gyre {

/// Does a point lie within a closed mesh? A look along a direction meets its skin from within.
[[nodiscard]] bool insideBody(const TriangleMesh& mesh, const MeshTree& tree, const Vec3& p, const Vec3& along);

/// Rapids of a linked path that run through stock; see the source for what is asked. @return an error only when called off
[[nodiscard]] Result<std::vector<Finding>> rapidsThroughStock(const Workplace& place, const OperationResult& result, const PresentStock& present, Progress& progress);

/// Rapids to holes that end within stock.
[[nodiscard]] std::vector<Finding> rapidsEndingInStock(const Workplace& place, const std::string& operation, const std::vector<AxisPose>& ends,
                                                       const PresentStock& present, Progress& progress);

} // namespace gyre
