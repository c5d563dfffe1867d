// Work along walls, curves and edges: what the three kinds have in common.
#pragma once
#include "kinds/Kinds.h"

namespace gyre {

struct AlongWork {
    std::shared_ptr<const AlongResult> result;
    std::shared_ptr<const AxisResult> axis; ///< of curves
    std::shared_ptr<const Scene> scene;     ///< where the cutter may enter the part; else null
};
[[nodiscard]] Result<AlongWork> swarfWork(const Workplace& place, const Recipe& recipe, const Assembly& tool, Progress& progress);
[[nodiscard]] Result<AlongWork> curveWork(const Workplace& place, const Recipe& recipe, const Assembly& tool, Progress& progress);
[[nodiscard]] Result<AlongWork> edgeWork(const Workplace& place, const Recipe& recipe, const Assembly& tool, Progress& progress);

using WorkAlong = Result<AlongWork> (*)(const Workplace& place, const Recipe& recipe, const Assembly& tool, Progress& progress);
/// @return false when nothing is laid; that is told
bool layAlong(Stages& stages, WorkAlong work);
[[nodiscard]] std::string factsAlong(const OperationResult& result, Stage stage);

} // namespace gyre
