// What the words of an operation ask of the joint motion.
#pragma once
#include "motion/Motion.h"

namespace gyre {

struct Recipe;

/// A locked joint, where the kind of operation has one, and exact stops.
[[nodiscard]] MotionSpec motionWordsOf(const Recipe& recipe, const Machine& machine);

} // namespace gyre
