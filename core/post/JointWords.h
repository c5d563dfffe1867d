// What joint programs must agree on: feed words, clamps.
#pragma once
#include "post/Words.h"

namespace gyre {

struct JointMotion;

inline constexpr double kStandsStill = 1e-6; ///< mm: less is written as no move

/// F of the block that leads to a step (from 1 on): moves per minute, or lengths (where rotaries move alone: degrees) per minute.
/// @param unit mm in one unit of length of the program
[[nodiscard]] double jointFeedWord(const Machine& machine, const JointMotion& motion, std::size_t step, double unit);

/// For every joint that has a clamp, the blocks it is clamped in: where it stands still from one rapid to the next, and something is cut.
/// Block i leads to step `steps[i]`.
[[nodiscard]] std::vector<std::vector<char>> clampedBlocks(const Machine& machine, const JointMotion& motion, const std::vector<std::size_t>& steps,
                                                           const std::vector<char>& rapid);

} // namespace gyre
