// Private to part/: exact shapes from files.
#pragma once
#include "base/Progress.h"
#include "base/Result.h"
#include "part/Part.h"
#include <TopoDS_Shape.hxx>
#include <array>
#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace gyre {

/// Reads STEP, IGES or the kernel's own BREP text, told apart by what the file holds. Lengths come in millimetres. Reports 0 … 0.3.
/// Can be called off anywhere but while the entities of a STEP file are tied together, and while an IGES file's lines are read.
/// A STEP assembly whose parts lie in files of their own is read with those that lie beside it; missing ones are told.
struct ReadBody {
    TopoDS_Shape shape;
    std::optional<std::array<double, 3>> colour{};
    std::vector<std::string> remarks{};
};
[[nodiscard]] Result<ReadBody> readShape(const std::filesystem::path& file, Progress& progress);
/// Is the shape of a size that can be laid out in triangles? Wrong units and wild coordinates would ask for all memory there is.
[[nodiscard]] Status sizeIsSane(const TopoDS_Shape& shape, const std::string& place);
/// One body of a STEP file, by its name as bodiesIn() gives it.
[[nodiscard]] Result<ReadBody> readBody(const std::filesystem::path& file, const std::string& name, Progress& progress);

} // namespace gyre
