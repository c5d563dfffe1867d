// The words of the stage Axis.
#pragma once
#include "form/FormFwd.h"

namespace gyre {

struct AxisSpec;

[[nodiscard]] const Form<AxisSpec>& axisForm();

} // namespace gyre
