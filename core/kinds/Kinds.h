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

} // namespace gyre
