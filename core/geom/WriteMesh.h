// Triangles written for other programs.
#pragma once
#include "base/Result.h"
#include "geom/TriangleMesh.h"
#include <filesystem>

namespace gyre {

/// A binary STL file, in mm; whole or not there at all.
[[nodiscard]] Status writeStl(const TriangleMesh& mesh, const std::filesystem::path& file);
/// Was the file written by that?
[[nodiscard]] bool wroteStl(const std::filesystem::path& file);

} // namespace gyre
