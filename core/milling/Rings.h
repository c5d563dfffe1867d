// Ways that clear an area for the middle of a cutter: rings from the inside out, and parallel strokes.
#pragma once
#include "milling/Region.h"
#include <optional>

namespace gyre {

/// An unbroken way at one height. Before its first point the cutter has to come down to that height: in a helix about `helixAt`, down a
/// slope along the closed ring that begins at `ringAt`, or where nothing is left to cut (`inAir`).
struct ClearingWay {
    enum class Entry { Helix, Ring, Air } entry = Entry::Ring;
    Vec2 helixAt = Vec2::Zero();
    double helixRadius = 0.0;
    std::size_t ringEnd = 0; ///< Ring: the ring is points [0, ringEnd); it comes back to its start
    Line points;
    std::size_t lead = 0; ///< Air: points before this one lead from outside to the first ring
};

struct ClearingSpec {
    double step = 3.0;
    double cutterRadius = 5.0;
    bool climb = true;
    double helixRadius = 4.0; ///< wanted; 0: no helix
};

/// @param centre where the cutter's middle may be
/// @param outside part of it where the cutter touches nothing that is to be cut: there it may come straight down
[[nodiscard]] std::vector<ClearingWay> ringsIn(const Region& centre, const Region& outside, const ClearingSpec& spec);
/// Strokes at an angle, back and forth, each going on into the next where the straight way stays inside.
/// @param around once round the border in the end
[[nodiscard]] std::vector<ClearingWay> strokesIn(const Region& centre, const Region& outside, const ClearingSpec& spec, double angle, bool around = true);
/// What a cutter on these ways leaves of what it could reach.
[[nodiscard]] Region leftBy(const std::vector<ClearingWay>& ways, const Region& centre, double cutterRadius);

} // namespace gyre
