// The words that keep rows to a region.
#pragma once
#include "form/FormFwd.h"
#include "pattern/Where.h"

namespace gyre {

[[nodiscard]] const Form<WhereSpec>& whereForm();

} // namespace gyre
