// The workplace's scene as some operations see it: what they make they may enter.
#pragma once
#include "operation/Operation.h"

namespace gyre {

/// The workplace's scene with the part opened along strips, for cutters that enter it there.
[[nodiscard]] std::shared_ptr<const Scene> openedAlong(const Workplace& place, const std::vector<Strip>& strips);
/// The workplace's scene with faces that the cutter makes: it may enter those by as much as `tolerance`, all else by what the guard allows.
[[nodiscard]] std::shared_ptr<const Scene> withOwnFaces(const Workplace& place, const std::vector<int>& faces, double tolerance);
/// The faces of the part that lie where the moves bring these.
[[nodiscard]] std::vector<int> movedFaces(const Part& part, const std::vector<int>& faces, const std::vector<Frame>& moves);
/// All strips once for every move.
[[nodiscard]] std::vector<Strip> movedStrips(const std::vector<Strip>& strips, const std::vector<Frame>& moves);

} // namespace gyre
