// Which way the triangles of a mesh look.
#pragma once
#include "geom/TriangleMesh.h"

namespace gyre {

struct Wound {
    std::size_t turned = 0;  ///< triangles that were turned over
    std::size_t sheets = 0;  ///< triangles of open sheets: which side of those is outside the mesh does not tell
    std::size_t twisted = 0; ///< triangles that hang together so that no side is the outer one; they stay as they are
};

/// Turns triangles over, so that neighbours look to the same side and closed shells look outward; a hollow in a shell goes with that shell. A shell with small holes
/// counts as closed. An open sheet keeps the side that most of its area looks to.
/// @param sheetsOver open sheets get the other side
Wound windOutward(TriangleMesh& mesh, bool sheetsOver = false);

} // namespace gyre
