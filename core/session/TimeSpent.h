// Where the time of a route goes: cutting, rapids, waits, tool changes, clamps; and which joints make it take so long.
#pragma once
#include "post/Post.h"

namespace gyre {

struct TimeSpent {
    double cutting = 0.0, rapids = 0.0, waits = 0.0; ///< s
    std::size_t changes = 0, clampings = 0;          ///< how often
    double changing = 0.0, clamping = 0.0;           ///< s, as the machine says; 0 where it says nothing
    std::vector<double> byJoint;                     ///< s in which a joint is what it waits for, by the machine's joints; the rest runs at the feed that was asked for
    [[nodiscard]] double paths() const { return cutting + rapids + waits; }
    [[nodiscard]] double all() const { return paths() + changing + clamping; }
};

/// Of one operation's path.
[[nodiscard]] TimeSpent timeSpent(const OperationResult& done, const Machine& machine);
/// Of the whole route, with what stands between its operations; those without a path count nothing.
[[nodiscard]] TimeSpent timeSpent(const PostInput& route);
/// "cutting 12:03, rapids 2:10, 3 tool changes 0:24; A is what it waits for 1:12"
[[nodiscard]] std::string wordsOf(const TimeSpent& spent, const Machine& machine);

} // namespace gyre
