// The words of the stage Guard.
#pragma once
#include "form/FormFwd.h"

namespace gyre {

struct GuardSpec;

[[nodiscard]] const Form<GuardSpec>& guardForm();

} // namespace gyre
