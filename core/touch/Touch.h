// What the cutter touches: the points of the faces that rows were laid on, or the part itself, which may lie over or under them.
#pragma once
#include "base/Progress.h"
#include "base/Result.h"
#include "part/Part.h"
#include "path/Pass.h"
#include "tool/Assembly.h"

namespace gyre {

struct TouchSpec;

struct TouchResult {
    std::vector<Pass> passes;
    double lowest = 0.0, highest = 0.0; ///< how far it was moved, mm; along the axis or normal
    double left = 0.0;                  ///< length of what is left out, mm: there the part is not within reach
    std::size_t stretches = 0;          ///< of it
    Vec3 leftAt = Vec3::Zero();         ///< within the longest of them
};

/// Does the cutter touch with a ball, so that its middle stays where it is when the axis turns?
[[nodiscard]] bool touchesWithBall(const Cutter& cutter);

/// Passes over guiding faces, moved onto the part: they enter it nowhere by more than the tolerance and stand off it nowhere by more, also between
/// two locations. Where it is not within reach they end.
/// @param leave  mm between cutter and part; not below 0
[[nodiscard]] Result<TouchResult> touchPart(const Part& body, const Cutter& cutter, const std::vector<Pass>& guiding, const TouchSpec& spec, double leave,
                                            double tolerance, Progress& progress);

[[nodiscard]] std::size_t bytesOf(const TouchResult& result);

} // namespace gyre
