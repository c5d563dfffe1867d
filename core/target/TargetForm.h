// The words of the stage Target.
#pragma once
#include "form/FormFwd.h"
#include "target/Target.h"

namespace gyre {

[[nodiscard]] const Form<TargetSpec>& targetForm();

} // namespace gyre
