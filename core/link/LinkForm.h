// The words of the stage Links.
#pragma once
#include "form/FormFwd.h"
#include "link/Link.h"

namespace gyre {

[[nodiscard]] const Form<LinkSpec>& linkForm();

} // namespace gyre
