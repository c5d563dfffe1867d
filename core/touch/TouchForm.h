// The words that tell what the cutter touches.
#pragma once
#include "form/FormFwd.h"
#include "touch/Touch.h"

namespace gyre {

[[nodiscard]] const Form<TouchSpec>& touchForm();

} // namespace gyre
