// What writer and reader of programs must agree on about joints: feed words, clamps.
#pragma once
#include "post/Post.h"

namespace gyre {

/// F of the block that leads to a step (from 1 on): moves per minute, or mm (where rotaries move alone: degrees) per minute.
[[nodiscard]] double jointFeedWord(const Machine& machine, const JointMotion& motion, std::size_t step);
/// Decimal places of it: slow turns beside slower slides need more.
[[nodiscard]] inline int feedDigits(double feed) { return feed < 1.0 ? 6 : 3; }

/// For every joint that has a clamp, the blocks it is clamped in: where it stands still from one rapid to the next, and something is cut.
/// Block i leads to step `steps[i]`.
[[nodiscard]] std::vector<std::vector<char>> clampedBlocks(const Machine& machine, const JointMotion& motion, const std::vector<std::size_t>& steps,
                                                           const std::vector<char>& rapid);

} // namespace gyre
