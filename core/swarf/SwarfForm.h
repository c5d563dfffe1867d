// The words of work along walls.
#pragma once
#include "form/FormFwd.h"

namespace gyre {

struct SwarfSpec;

[[nodiscard]] const Form<SwarfSpec>& swarfForm();

} // namespace gyre
