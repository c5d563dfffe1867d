// Channels hardly wider than the cutter, where fronts would meet half of its rim: loops through them, or straight along their middle.
#pragma once
#include "base/Progress.h"
#include "milling/Region.h"

namespace gyre {

struct ChannelSpec {
    double radius = 5.0; ///< of the cutter
    double angle = 0.0;  ///< rad of the rim that are wanted
    bool climb = true;
    double fine = 0.02; ///< mm that what is cleared may be off
};
struct ChannelWay {
    Line way;                  ///< begins where nothing is met
    std::vector<double> angle; ///< rad of the rim that are met at each point
    Region cleared;            ///< what is taken
};
/// Loops one before the other, each a circle about the channel's middle as wide as the cutter has room (0.9 of its radius at most). A circle of
/// radius ρ that lies p further than one before it meets, at its foremost point, the angle φ of the rim with
///     cos φ = ((ρ + r)² − r² − (ρ + p)²) / (2 r (ρ + p));
/// p is the largest that keeps φ within 1.05 of what is wanted, sought against what really stands. Where ρ is under a twelfth of the cutter's
/// radius, or p under a fiftieth, loops would take too long for what they spare: the cutter goes straight along the middle.
///
/// Ends where the channel opens, where nothing stands ahead any more, or at its end. @return an empty way when none can be begun
/// @param from    a place of the front that stands across the channel, where the middle may be
/// @param ahead   unit, into what stands
/// @param allowed where the cutter's middle may be
/// @param cleared what stands no more; all else does
[[nodiscard]] ChannelWay throughChannel(const Vec2& from, const Vec2& ahead, const Region& allowed, const Region& cleared, const ChannelSpec& spec,
                                        const Progress& progress);

} // namespace gyre
