// How heavily a cutter stands in what it cuts, along its way.
#pragma once
#include "stock/Stock.h"

namespace gyre {

/// At one place.
struct Engaged {
    float angle = 0.0F; ///< degrees of its round that stand in material, at the height where most of it cuts: 180 in a full slot
    float deep = 0.0F;  ///< mm along the axis, from the lowest to the highest place of it that cuts
    float chip = 0.0F;  ///< mm, the thickest chip: the feed of a tooth as far as it goes square into the face that cuts
};

/// The most on the way to each location; nothing of it on rapids and in air.
struct Engagement {
    std::vector<Engaged> at;
    Engaged most;                                    ///< each for itself
    std::size_t angleAt = 0, deepAt = 0, chipAt = 0; ///< where
    double cell = 0.0, apart = 0.0;                  ///< mm: cells of the stock, and how far places lie from each other
};

/// Places lie an eighth of the cutter's diameter apart, two cells at least, and further on long paths where only so many are wanted.
enum class Places { Some, All }; ///< 2000 at most, which is enough to see what a path is like; or however many there are, where something rests on them

/// @param before  what stands before the path is cut
/// @param spindle turns a minute
[[nodiscard]] Result<Engagement> engagement(Stock before, const Toolpath& path, const Cutter& cutter, double spindle, Progress& progress, Places places = Places::Some);

} // namespace gyre
