// A cutter made smaller all around: what still meets something then is as deep within the cutter as it was made smaller.
#pragma once
#include "tool/Assembly.h"
#include <optional>

namespace gyre {

/// One piece of the cutting zone, smaller by `by` where it borders on air; where pieces are joined it stays.
/// @param lowest, highest is it the one at the tip, the one that ends the flutes?
/// @return nothing when nothing is left of it
[[nodiscard]] std::optional<RoundedFrustum> thinned(RoundedFrustum piece, double by, bool lowest, bool highest);

/// All of a cutting zone, as cuttingZone() gives it.
[[nodiscard]] std::vector<RoundedFrustum> thinnedEnd(const std::vector<RoundedFrustum>& zone, double by);

} // namespace gyre
