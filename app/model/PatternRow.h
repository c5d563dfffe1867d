// Which row of the pattern a location was laid on: in layers and copies passes have numbers of their own.
#pragma once
#include "link/Link.h"

namespace gyre {

[[nodiscard]] inline int patternRow(const LinkResult& links, std::size_t location) {
    const int number = links.path.row[location], own = links.originOf(number).row;
    return own >= 0 ? own : number;
}

} // namespace gyre
