// Where the machine comes from and goes to beside an operation.
#pragma once
#include "motion/Motion.h"

namespace gyre {

/// The way from the top of the Z travel straight to the first location, and back from the last: joint values of the two ends.
struct SafeEnds {
    JointValues above, entry, exit, aboveExit;
};
[[nodiscard]] SafeEnds safeEnds(const Machine& machine, const JointMotion& motion);
/// Where this joint stands when a tool is changed, if the machine says so.
[[nodiscard]] std::optional<double> changesAt(const Machine& machine, std::size_t joint);

} // namespace gyre
