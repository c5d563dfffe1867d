// The workplace's scene as some operations see it: what they make they may enter.
#pragma once
#include "along/Along.h"
#include "guard/Obstacle.h"

namespace gyre {

struct Recipe;
struct Workplace;

/// The workplace's scene with the part opened along strips, for cutters that enter it there.
[[nodiscard]] std::shared_ptr<const Scene> openedAlong(const Workplace& place, const std::vector<Strip>& strips);
/// The workplace's scene with faces that the cutter makes: it may enter those by as much as `tolerance`, all else by what the guard allows.
[[nodiscard]] std::shared_ptr<const Scene> withOwnFaces(const Workplace& place, const std::vector<int>& faces, double tolerance);
/// A scene with the recipe's check faces, each group a body of its own. Those that may be entered are none of the part's for the cutter.
/// @return an error where a face is not in the part any more
[[nodiscard]] Result<std::shared_ptr<const Scene>> withChecks(const Workplace& place, const Recipe& recipe, std::shared_ptr<const Scene> scene);
/// The faces of the part that lie where the moves bring these.
[[nodiscard]] std::vector<int> movedFaces(const Part& part, const std::vector<int>& faces, const std::vector<Frame>& moves);
/// All strips once for every move.
[[nodiscard]] std::vector<Strip> movedStrips(const std::vector<Strip>& strips, const std::vector<Frame>& moves);

} // namespace gyre
