// The words of broken edges.
#pragma once
#include "form/FormFwd.h"

namespace gyre {

struct BreakSpec;

[[nodiscard]] const Form<BreakSpec>& breakForm();

} // namespace gyre
