// The words of work along walls.
#pragma once
#include "form/FormFwd.h"
#include "swarf/Swarf.h"

namespace gyre {

[[nodiscard]] const Form<SwarfSpec>& swarfForm();

} // namespace gyre
