// The words of work in holes.
#pragma once
#include "drill/Drill.h"
#include "form/FormFwd.h"

namespace gyre {

[[nodiscard]] const Form<DrillSpec>& drillForm();
[[nodiscard]] const Form<HoleRef>& holeRefForm();

} // namespace gyre
