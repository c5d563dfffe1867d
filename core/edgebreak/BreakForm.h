// The words of broken edges.
#pragma once
#include "edgebreak/EdgeBreak.h"
#include "form/FormFwd.h"

namespace gyre {

[[nodiscard]] const Form<BreakSpec>& breakForm();

} // namespace gyre
