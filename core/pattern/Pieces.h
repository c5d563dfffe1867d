// What is left of a row where it crosses holes, or leaves the region that it is kept to.
#pragma once
#include "pattern/RawRows.h"
#include "pattern/Where.h"

namespace gyre {

/// The parts of a line between the holes that it crosses.
[[nodiscard]] std::vector<RawLine> withoutHoles(const RawLine& line);

/// Between two points of a row, by the share of the way: a point of the row.
using BetweenSamples = std::function<RowSample(const RowSample& a, const RowSample& b, double share)>;
/// The parts of a line that the region keeps, ending on its border. What is narrower than a quarter of a millimetre may be missed.
[[nodiscard]] std::vector<RawLine> keptParts(const RawLine& line, const WhereKept& where, const BetweenSamples& between);

/// The faces as far as the region keeps them.
[[nodiscard]] TriangleMesh keptRegion(const FieldMesh& mesh, const WhereKept& where);

} // namespace gyre
