// The words of work along curves.
#pragma once
#include "form/FormFwd.h"
#include "guided/Guided.h"

namespace gyre {

[[nodiscard]] const Form<CurveSpec>& curveForm();

} // namespace gyre
