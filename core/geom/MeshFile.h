// Triangle meshes from files: STL (binary and text), OBJ, PLY (text, little and big endian).
#pragma once
#include "base/Progress.h"
#include "base/Result.h"
#include "geom/TriangleMesh.h"
#include <filesystem>
#include <string>
#include <string_view>

namespace gyre {

struct MeshRead {
    TriangleMesh mesh;         ///< points that are equal but for rounding are one point; no face indices, no normals
    std::size_t dropped = 0;   ///< triangles without area that were left out
    std::size_t welded = 0;    ///< corners that were taken for others near them
    double weldedWithin = 0.0; ///< how near, in the file's unit
};

/// Does the file's name end like that of a mesh?
[[nodiscard]] bool isMeshFile(const std::filesystem::path& file);

/// Reads a mesh file, told apart by its content where the name could mislead. Coordinates are taken as they stand. Sizes are
/// checked against the file before anything is allocated; an error says what is wrong and where.
[[nodiscard]] Result<MeshRead> readMesh(const std::filesystem::path& file, Progress& progress);

/// The same from bytes; `name` decides between OBJ, PLY and STL.
[[nodiscard]] Result<MeshRead> meshFromBytes(std::string_view bytes, const std::string& name, Progress& progress);

/// Points nearer than `within` become one, the first of them; triangles that lose their area are left out. @return how many went
std::size_t weldNear(TriangleMesh& mesh, double within);

/// Binary STL.
[[nodiscard]] std::string meshToStl(const TriangleMesh& mesh);

} // namespace gyre
