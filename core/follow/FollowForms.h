// The words of work along walls, curves and edges.
#pragma once
#include "follow/EdgeBreak.h"
#include "follow/Guided.h"
#include "follow/Swarf.h"
#include "form/FormFwd.h"

namespace gyre {

[[nodiscard]] const Form<SwarfSpec>& swarfForm();
[[nodiscard]] const Form<CurveSpec>& curveForm();
[[nodiscard]] const Form<BreakSpec>& breakForm();

} // namespace gyre
