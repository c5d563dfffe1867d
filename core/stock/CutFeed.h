// Feed that follows the cut, and cuts that are heavier than the tool may take.
#pragma once
#include "stock/Engagement.h"
#include "stock/FeedByCut.h"

namespace gyre {

/// By location of a path.
struct CutFeed {
    std::vector<float> share;       ///< of the feed asked for; 1 where the cells of the stock tell nothing
    double least = 1.0, most = 1.0; ///< of all cuts
    double secondsAsAsked = 0.0;    ///< that all of it would take with the feed asked for
};

/// Moves at feed are fed so that their thickest chip is the tool's feed per tooth, slower in proportion where the cutter stands further in than it may, and
/// never so that a chip gets thicker than it may; within what `words` allows; ways in and out never faster than asked for. It halves or doubles over half the cutter's
/// diameter at the quickest, and is slow before what is heavy, never after it.
/// @param engaged  of the same path with the feed asked for
[[nodiscard]] CutFeed feedByCut(const Toolpath& path, const Engagement& engaged, const Assembly& tool, const FeedByCut& words);

/// A stretch of cuts that asks more of the tool than it may take.
struct HeavyCut {
    enum class What { Engaged, Deep, Chip } what = What::Engaged;
    std::size_t first = 0, last = 0, worst = 0; ///< locations
    double amount = 0.0, limit = 0.0;           ///< degrees, mm, mm; at the worst
    bool slowed = true;                         ///< all of it is fed slower in proportion
};

/// Further than the measure itself is sure of: 3 degrees, half a cell, a fiftieth of a chip.
/// @param share  of the feed asked for, by location; empty: all of it
[[nodiscard]] std::vector<HeavyCut> heavyCuts(const Toolpath& path, const Engagement& engaged, const CutLimits& limits, const std::vector<float>& share);

} // namespace gyre
