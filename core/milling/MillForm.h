// The words of milling on a sheet.
#pragma once
#include "form/FormFwd.h"
#include "milling/Mill.h"

namespace gyre {

[[nodiscard]] const Form<MillSpec>& millForm();

} // namespace gyre
