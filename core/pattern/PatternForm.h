// The words of the stage Pattern of rows between rails.
#pragma once
#include "form/FormFwd.h"

namespace gyre {

struct PatternSpec;

[[nodiscard]] const Form<PatternSpec>& patternForm();
/// What operations need of it that lay no rows: how fine their points are.
[[nodiscard]] const Form<PatternSpec>& finenessForm();

} // namespace gyre
