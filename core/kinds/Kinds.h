// All kinds of operations.
#pragma once
#include "operation/Definition.h"

namespace gyre {

[[nodiscard]] const Definition& surfaceDefinition();
[[nodiscard]] const Definition& holesDefinition();
[[nodiscard]] const Definition& holeStepDefinition();
[[nodiscard]] const Definition& millDefinition();
[[nodiscard]] const Definition& swarfDefinition();
[[nodiscard]] const Definition& curveDefinition();
[[nodiscard]] const Definition& edgeDefinition();
[[nodiscard]] const Definition& slicesDefinition();

/// Rows alone, over the faces of the recipe: without axis, guard and links.
[[nodiscard]] Result<PatternResult> bareRows(const Workplace& place, const Recipe& recipe, const Cutter& cutter, const Before& before, Progress& progress);

} // namespace gyre
