// References to faces and edges as they stand in job files.
#pragma once
#include "base/Json.h"
#include "part/Part.h"

namespace gyre {

[[nodiscard]] ShapeRef shapeRefFromJson(const JsonView& view);
[[nodiscard]] OrderedJson shapeRefToJson(const ShapeRef& ref);

} // namespace gyre
