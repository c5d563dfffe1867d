// The words of work in holes.
#pragma once
#include "form/FormFwd.h"
#include "holes/Drill.h"

namespace gyre {

[[nodiscard]] const Form<DrillSpec>& drillForm();
[[nodiscard]] const Form<HoleRef>& holeRefForm();

} // namespace gyre
