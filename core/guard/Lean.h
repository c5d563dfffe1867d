// The guard leans the axis away: only where something comes too near, only as far as needed, smoothly along the rows and from row to row.
#pragma once
#include "guard/Hits.h"

namespace gyre {

/// What came of it.
struct LeanResult {
    std::size_t leaned = 0; ///< locations
    double most = 0.0;      ///< rad between the wish and what was found
    std::size_t pass = 0, at = 0;
    double steepest = 0.0; ///< rad/mm, the fastest turn where it leans
    std::set<int> rows;
};

/// The axis of every place as far off its wish as it must be, in lead and tilt, by the least of
/// `∫ |o|² + L²|∇o|² + (L/2)⁴|o″|² ds` over what is safe (`o` the lean, `L` GuardSpec::leanOver): found on grids of directions by dynamic programming,
/// finer and finer, then relaxed inside of what is safe. Passes get more locations where theirs are far apart.
/// @param hits  of the passes; what is left of them afterwards
/// @return false: called off
[[nodiscard]] bool leanPasses(const Guard& guard, const Freedom& freedom, std::vector<Pass>& passes, HitTable& hits, LeanResult& out, Progress& progress);

/// The least turn from the wish that would free a place, whatever the limits of leaning; nothing where no direction does.
struct NeededLean {
    double lead = 0.0, tilt = 0.0; ///< rad, beside those that it has
    double turn = 0.0;             ///< rad
};
[[nodiscard]] std::optional<NeededLean> neededLean(const Guard& guard, const Freedom& freedom, const Pass& pass, std::size_t at);

} // namespace gyre
