// The words that keep rows to a region.
#pragma once
#include "form/FormFwd.h"

namespace gyre {

struct WhereSpec;

[[nodiscard]] const Form<WhereSpec>& whereForm();

} // namespace gyre
