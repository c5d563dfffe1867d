// A pass: an unbroken stretch of cutting, before links.
#pragma once
#include "path/Toolpath.h"

namespace gyre {

struct Pass {
    Toolpath path;
    std::vector<Vec3> feedDirection; ///< unit, per location
    int row = 0;
    bool closed = false; ///< the last location repeats the first
    bool whole = false;  ///< a hole's cycle: cut as a whole or not at all
};

} // namespace gyre
