// What of a part still lies under stock: areas of its surface, the largest first.
#pragma once
#include "session/Comparison.h"

namespace gyre {

/// @param more  mm; what stands less high over the part is not told
/// @return at most StockComparison::kMostPlaces of those where no operation has cut and of those that one left. Smaller than a few cells: none.
[[nodiscard]] Result<std::vector<StandingArea>> standingAreas(const Stock& stock, const Part& part, double more, const Progress& progress);

} // namespace gyre
