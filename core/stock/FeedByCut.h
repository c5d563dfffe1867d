// Words of a feed that follows the cut.
#pragma once

namespace gyre {

/// Percent of the feed asked for.
struct FeedByCut {
    bool on = false;
    double least = 50.0, most = 150.0;
};

} // namespace gyre
