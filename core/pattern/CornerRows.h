// Rows along inner corners: where a ball touches two faces at once.
#pragma once
#include "pattern/Pattern.h"
#include "pattern/RawRows.h"

namespace gyre {

struct CornerRows {
    std::vector<RawRow> rows; ///< the outermost first, on both sides of the corners; the last one is the middle
    double widest = 0.0;      ///< between neighbours, mm along a face
    Vec3 at = Vec3::Zero();
};

/// Corners between picked faces: sharp edges, and fillets rounder than nothing that the ball does not fit into. The middle row touches both faces; rows
/// beside it touch one of them where a ball between this one and the larger one would.
/// @param radius  of the ball
[[nodiscard]] Result<CornerRows> cornerRows(const Part& part, const std::vector<int>& faces, const PatternSpec& spec, double radius, double spacing, Progress& progress);

} // namespace gyre
