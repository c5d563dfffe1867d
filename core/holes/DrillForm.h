// The words of work in holes.
#pragma once
#include "form/FormFwd.h"
#include "holes/HoleRef.h"

namespace gyre {

struct DrillSpec;

[[nodiscard]] const Form<DrillSpec>& drillForm();
[[nodiscard]] const Form<HoleRef>& holeRefForm();

} // namespace gyre
