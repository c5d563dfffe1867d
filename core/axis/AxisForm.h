// The words of the stage Axis.
#pragma once
#include "axis/Axis.h"
#include "form/FormFwd.h"

namespace gyre {

[[nodiscard]] const Form<AxisSpec>& axisForm();

} // namespace gyre
