// What passes come too near to, place by place: shared by the guard's answers.
#pragma once
#include "guard/Guard.h"
#include <set>

namespace gyre {

[[nodiscard]] inline AxisPose poseOf(const Pass& p, std::size_t i) { return {p.path.tip[i], p.path.axis[i]}; }

/// By pass and location: all that is hit at it or on the way to it.
using HitTable = std::vector<std::vector<std::vector<Hit>>>;

/// @return false: called off
[[nodiscard]] bool findHits(const Guard& guard, const std::vector<Pass>& passes, HitTable& hits, const Progress* progress);
/// Only of those passes that are to be asked anew; what is known of the others stays.
[[nodiscard]] bool findHits(const Guard& guard, const std::vector<Pass>& passes, const std::vector<char>& anew, HitTable& hits, const Progress* progress);
[[nodiscard]] bool anyHit(const HitTable& hits);
/// "rows 11–14, 20"
/// @param rows numbers of passes
[[nodiscard]] std::string rowsText(const std::vector<Pass>& passes, const std::set<int>& rows);

} // namespace gyre
