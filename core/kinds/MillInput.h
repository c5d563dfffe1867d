// What milling on a sheet rests on, found in the part and the setup by its recipe.
#pragma once
#include "milling/Mill.h"

namespace gyre {

struct Recipe;
struct Workplace;

struct GatheredMill {
    MillInput input;          ///< points into the workplace
    std::uint64_t curves = 0; ///< changes when drawings and curves of mends do, which the workplace's key does not tell
};
[[nodiscard]] Result<GatheredMill> gatherMill(const Workplace& place, const Recipe& recipe);

/// The sheet that the recipe is about, as good as can be told while nothing is picked yet: for drawing on it.
[[nodiscard]] Result<Sheet> sheetShown(const Workplace& place, const Recipe& recipe);

} // namespace gyre
