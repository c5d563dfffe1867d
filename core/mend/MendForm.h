// How mends stand in jobs; what each kind asks for is in MendForms.cpp.
#pragma once
#include "form/FormFwd.h"
#include "mend/Mend.h"

namespace gyre {

[[nodiscard]] const Form<Mend>& mendForm();

} // namespace gyre
