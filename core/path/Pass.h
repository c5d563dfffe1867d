// A pass: an unbroken stretch of cutting, before links.
#pragma once
#include "path/Toolpath.h"

namespace gyre {

/// Where a pass comes from. All count from 0; what does not apply is −1.
struct PassOrigin {
    int row = -1;   ///< of the pattern
    int hole = -1;  ///< in the order in which they are made
    int level = -1; ///< of depth
    int layer = -1; ///< of thickness
    int copy = -1;  ///< of a repeat
};
/// What its passes are called: "row", "hole", "pass".
[[nodiscard]] const char* passWord(const PassOrigin& origin);
/// "row 3", "hole 12", "pass 7 at level 2".
/// @param number of the pass, from 0; counts where the pattern has none
[[nodiscard]] std::string passName(const PassOrigin& origin, int number);
/// The same at the beginning of a sentence.
[[nodiscard]] std::string passTitle(const PassOrigin& origin, int number);

struct Pass {
    Toolpath path;
    std::vector<Vec3> feedDirection; ///< unit, per location
    int row = 0;                     ///< its number: what the path's locations carry
    PassOrigin origin;
    bool closed = false; ///< the last location repeats the first
    bool whole = false;  ///< a hole's cycle: cut as a whole or not at all
};

} // namespace gyre
