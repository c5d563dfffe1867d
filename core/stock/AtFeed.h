// Which moves of a path cut at a feed.
#pragma once
#include "path/Toolpath.h"

namespace gyre {

/// Is location i reached at a feed that somebody gave? Rapids and retracts are not, and take nothing.
[[nodiscard]] inline bool atFeed(const Toolpath& path, std::size_t i) {
    return path.motion[i] != Motion::Rapid && path.motion[i] != Motion::Retract && path.feed[i] > 0.0F;
}

} // namespace gyre
