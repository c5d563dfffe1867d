// Work in holes: which holes, in which order, how deep, with which cycle.
#pragma once
#include "base/Finding.h"
#include "part/Holes.h"
#include "path/Pass.h"
#include "tool/Assembly.h"

namespace gyre {

enum class Cycle;
struct DrillSpec;

/// How deep the tip goes in one hole, below its mouth; and what is to be questioned.
struct HoleDepth {
    double tip = 0.0;
    std::vector<std::string> questions; ///< why this tool does not suit: empty when it does
    std::string note;                   ///< worth knowing
};
[[nodiscard]] HoleDepth holeDepth(const Hole& hole, const DrillSpec& spec, const Assembly& tool);

/// From the tip of the cutter up to its full diameter.
[[nodiscard]] double pointLength(const Cutter& cutter);

/// Depths of the pecks of one cycle, from above down; the last is `depth`.
[[nodiscard]] std::vector<double> pecks(double from, double depth, double peck);

/// One stroke of a cycle: to a depth below the mouth, at the feed or as a rapid.
struct Stroke {
    double depth = 0.0; ///< negative: over the mouth
    bool rapid = false;
};
/// All strokes of a cycle after the tool stands `above` the mouth; the last one comes back there.
[[nodiscard]] std::vector<Stroke> strokes(Cycle cycle, double above, double depth, double peck);

/// The order of the shortest way found: nearest first, then two-way exchanges until none helps. Turning counts as `perRadian` mm.
[[nodiscard]] std::vector<std::size_t> shortestOrder(const std::vector<Hole>& holes, double perRadian = 60.0);

struct DrillResult {
    std::vector<Pass> passes;
    std::vector<std::size_t> holes; ///< by pass: index into what was given
    std::vector<double> tips;       ///< by pass: depth of the tip
    std::vector<Finding> findings;
    double way = 0.0; ///< from hole to hole, mm
};

/// @param feed mm/min; of a tap it comes from its pitch
[[nodiscard]] DrillResult drillHoles(const std::vector<Hole>& holes, const DrillSpec& spec, const Assembly& tool, double feed);

} // namespace gyre
