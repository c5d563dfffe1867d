// Private to part/: exact shapes from files.
#pragma once
#include "base/Result.h"
#include <TopoDS_Shape.hxx>
#include <filesystem>

namespace gyre {

/// Reads STEP, IGES or the kernel's own BREP text, told apart by what the file holds. Lengths come in millimetres.
[[nodiscard]] Result<TopoDS_Shape> readShape(const std::filesystem::path& file);

} // namespace gyre
