// Breaking sharp edges without a modelled chamfer or round.
//
// Square to the edge, at a point E of it, the faces go off in the directions m1 and m2. The legs end at P1 and P2, on the exact faces
// and at the asked distance from E. Between them lies the facet (or the arc of a round), whose outward normal in the middle is b.
//   one row of a ball:   its centre is at (P1+P2)/2 + b·√(r² − |P1P2|²/4): the ball goes through both ends. On plane faces that is
//                        E + b(√(r² − ℓ² sin²(φ/2)) − ℓ cos(φ/2)).
//   several rows:        the ball touches the facet (the arc) from outside at even places from P1 to P2.
//   a flank:             touches the facet along b, so its axis stands at 90° − κ to b (κ: half angle of the flank).
// A ball's axis may stand anywhere; it is turned about the edge so that the contact keeps off the ball's dead centre.
#pragma once
#include "along/Along.h"
#include "geom/Fineness.h"

namespace gyre {

struct BreakSpec;

struct BreakInput {
    const Part* part = nullptr; ///< edges and faces by its numbers
    std::vector<int> edges;     ///< picked
    std::vector<int> faces;     ///< picked
    std::vector<Hole> holes;
    std::function<void(const std::vector<Strip>&)> protect; ///< called before `blocked`: where the cutter may enter
    /// Whether the assembly may stand there, and why not; empty: yes.
    std::function<std::string(const AxisPose&)> blocked;
};

/// The edges that are meant, without those that cannot be broken, which are told.
[[nodiscard]] std::vector<int> edgesToBreak(const BreakInput& input, const BreakSpec& spec, std::vector<Finding>& findings);

[[nodiscard]] Result<AlongResult> breakEdges(const BreakInput& input, const BreakSpec& spec, const Assembly& tool, const Fineness& fineness, Progress& progress);

/// Legs of a round of radius ρ between plane faces whose outward normals are θ apart: ρ·tan(θ/2).
[[nodiscard]] double legOfRound(double radius, double bend);

} // namespace gyre
