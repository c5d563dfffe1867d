// The words of the stage Target.
#pragma once
#include "form/FormFwd.h"

namespace gyre {

struct TargetSpec;

[[nodiscard]] const Form<TargetSpec>& targetForm();

} // namespace gyre
