// The words of milling on a sheet.
#pragma once
#include "form/FormFwd.h"

namespace gyre {

struct MillSpec;

[[nodiscard]] const Form<MillSpec>& millForm();

} // namespace gyre
