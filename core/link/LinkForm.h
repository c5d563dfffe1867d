// The words of the stage Links.
#pragma once
#include "form/FormFwd.h"

namespace gyre {

struct LinkSpec;

[[nodiscard]] const Form<LinkSpec>& linkForm();

} // namespace gyre
