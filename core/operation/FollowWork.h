// Work along walls, curves and edges, run for a recipe: what its picks are in the part, and the rooms that make the passes.
#pragma once
#include "operation/Operation.h"

namespace gyre {

/// What the axis rules of a recipe refer to.
[[nodiscard]] Result<AxisHelp> axisHelp(const Workplace& place, const Recipe& recipe, const Assembly& tool);

/// Holes that a recipe means, found again by their mouths; those of the whole part when it names none.
/// @param lost counts those that are not there any more
[[nodiscard]] std::vector<Hole> holesMeant(const Workplace& place, const Recipe& recipe, std::size_t& lost);

/// Lower and upper rail of a wall between rails, running the same way.
struct WallRails {
    Curve lower, upper;
};
[[nodiscard]] Result<WallRails> wallRails(const Workplace& place, const Recipe& recipe);

/// The workplace's scene with the part opened along strips, for cutters that enter it there.
[[nodiscard]] std::shared_ptr<const Scene> openedAlong(const Workplace& place, const std::vector<Strip>& strips);
/// The workplace's scene with faces that the cutter makes: it may enter those by as much as `tolerance`, all else by what the guard allows.
[[nodiscard]] std::shared_ptr<const Scene> withOwnFaces(const Workplace& place, const std::vector<int>& faces, double tolerance);
/// The faces of the part that lie where the moves bring these.
[[nodiscard]] std::vector<int> movedFaces(const Part& part, const std::vector<int>& faces, const std::vector<Frame>& moves);
/// All strips once for every move.
[[nodiscard]] std::vector<Strip> movedStrips(const std::vector<Strip>& strips, const std::vector<Frame>& moves);

struct FollowWork {
    std::shared_ptr<const FollowResult> result;
    std::shared_ptr<const AxisResult> axis; ///< of curves
    std::shared_ptr<const Scene> scene;     ///< of broken edges: where the cutter may enter the part along them; else null
};
[[nodiscard]] Result<FollowWork> followFor(const Workplace& place, const Recipe& recipe, const Assembly& tool, Progress& progress);

} // namespace gyre
