// The words of the stage Guard.
#pragma once
#include "form/FormFwd.h"
#include "guard/Guard.h"

namespace gyre {

[[nodiscard]] const Form<GuardSpec>& guardForm();

} // namespace gyre
