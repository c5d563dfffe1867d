// Work in holes: which holes, in which order, how deep, with which cycle.
#pragma once
#include "base/Finding.h"
#include "part/Holes.h"
#include "path/Pass.h"
#include "tool/Assembly.h"

namespace gyre {

enum class Cycle { Spot, Drill, Peck, ChipBreak, Bore, Ream, Tap, Chamfer };
inline constexpr int kCycles = 8;
[[nodiscard]] const char* cycleName(Cycle c); ///< as in files and on screen: "spot", "chip-break" …

/// A hole that is meant, known again by where it begins.
struct HoleRef {
    Vec3 mouth = Vec3::Zero(); ///< as it was found, before any turning round
    double diameter = 0.0;
    bool turned = false; ///< entered from the other side; the job's marks of holes say so
};

/// How tools come back between the pecks of a cycle: this far over what is cut already.
inline constexpr double kPeckGap = 0.25; // mm

struct DrillSpec {
    Cycle cycle = Cycle::Drill;
    bool toGeometry = true;    ///< depth from the hole; else `depth`
    double depth = 5.0;        ///< below the mouth, mm
    double breakthrough = 1.0; ///< beyond the end of a through hole; taps, reamers and bores stay as far from a blind hole's end
    bool fullDiameter = true;  ///< the depth is reached with the full diameter; else with the point
    double widen = 0.3;        ///< spot and chamfer: the cone's edge stands this far outside the hole's, mm
    double peck = 2.0;         ///< depth of one peck, mm
    double dwell = 0.0;        ///< s, at the bottom
    double pitch = 1.0;        ///< of a tap, mm
    double above = 2.0;        ///< feed begins this far over the mouth, mm
    bool anyTool = false;      ///< the user wants this tool whatever is questioned
    bool canned = true;        ///< as cycles in programs that know them
    bool shortest = true;      ///< order by the shortest way; else as the holes were picked
};

/// How deep the tip goes in one hole, below its mouth; and what is to be questioned.
struct HoleDepth {
    double tip = 0.0;
    std::vector<std::string> questions; ///< why this tool does not suit: empty when it does
    std::string note;                   ///< worth knowing
};
[[nodiscard]] HoleDepth holeDepth(const Hole& hole, const DrillSpec& spec, const Assembly& tool);

/// From the tip of the cutter up to its full diameter.
[[nodiscard]] double pointLength(const Cutter& cutter);

/// Does the tool wait at the bottom, when a dwell is given? Not where chips are broken by coming back, nor where a tap must turn on.
[[nodiscard]] constexpr bool waitsAtBottom(Cycle c) { return c != Cycle::Peck && c != Cycle::ChipBreak && c != Cycle::Tap; }

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
