// References to faces and edges as they stand in job files: an index alone, or with what the shape is known again by.
#pragma once
#include "form/FormFwd.h"
#include "part/Part.h"

namespace gyre {

inline constexpr std::size_t kMostShapes = 20000; ///< that one word may name

[[nodiscard]] const Form<ShapeRef>& shapeRefForm();

} // namespace gyre
