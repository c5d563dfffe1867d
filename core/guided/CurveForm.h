// The words of work along curves.
#pragma once
#include "form/FormFwd.h"

namespace gyre {

struct CurveSpec;

[[nodiscard]] const Form<CurveSpec>& curveForm();

} // namespace gyre
