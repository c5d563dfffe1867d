// The words that tell what the cutter touches.
#pragma once
#include "form/FormFwd.h"

namespace gyre {

struct TouchSpec;

[[nodiscard]] const Form<TouchSpec>& touchForm();

} // namespace gyre
