// Stage 1, Target: the faces to be cut, their borders, and the rails that suggest themselves.
#pragma once
#include "base/Result.h"
#include "part/Part.h"
#include <string>
#include <vector>

namespace gyre {

/// Edges in order along a line on the part; `reversed[i]` tells that edge i is run from its end to its start.
struct EdgeChain {
    std::vector<int> edges;
    std::vector<bool> reversed;
    bool closed = false;
    [[nodiscard]] bool empty() const { return edges.empty(); }
};

/// The picked faces found in the part, without doubles, in ascending order.
[[nodiscard]] Result<std::vector<int>> resolveFaces(const Part& part, const std::vector<ShapeRef>& refs);
[[nodiscard]] Result<std::vector<int>> resolveEdges(const Part& part, const std::vector<ShapeRef>& refs);

/// Border of a set of faces as closed loops of edges, longest first.
[[nodiscard]] std::vector<EdgeChain> borderLoops(const Part& part, const std::vector<int>& faces);

/// Border split where it turns by more than `cornerAngle` (rad) into sides; a loop without corners stays whole.
[[nodiscard]] std::vector<EdgeChain> borderSides(const Part& part, const std::vector<int>& faces, double cornerAngle);

/// The side of the border that an edge lies on; the edge alone if it is not on the border.
[[nodiscard]] EdgeChain sideOf(const Part& part, const std::vector<int>& faces, int edge);

/// Faces reached from `face` over edges where the surface is smooth to within `angle` (rad).
[[nodiscard]] std::vector<int> tangentFaces(const Part& part, int face, double angle = 0.02);

/// Faces of one rolling fillet: connected over smooth edges and equally round. The face alone when it is none.
[[nodiscard]] std::vector<int> filletFaces(const Part& part, int face);
/// Plane faces in the same plane, looking the same way: all floors at one depth.
[[nodiscard]] std::vector<int> levelFaces(const Part& part, int face);
/// Edges that carry on from one to the next without a corner, on both sides of the picked one.
[[nodiscard]] std::vector<int> tangentChain(const Part& part, int edge, double angle = 0.05);
/// The loops of faces that an edge belongs to: one or two, the shorter first.
[[nodiscard]] std::vector<std::vector<int>> loopsOf(const Part& part, int edge);

/// Two long opposite sides of the border: two closed loops, or two sides of one loop that do not touch.
struct RailPair {
    EdgeChain first, second; ///< the first is the lower one (in z): a positive tilt then leans up, to the spindle
};
[[nodiscard]] Result<RailPair> proposeRails(const Part& part, const std::vector<int>& faces);

/// Puts edges into one chain by their ends, whatever order they were picked in.
[[nodiscard]] Result<EdgeChain> chainOf(const Part& part, const std::vector<int>& edges);
/// As many chains as it takes.
[[nodiscard]] std::vector<EdgeChain> chainsOf(const Part& part, const std::vector<int>& edges);

/// The edges' lines end to end.
[[nodiscard]] Polyline chainLine(const Part& part, const EdgeChain& chain);
[[nodiscard]] double chainLength(const Part& part, const EdgeChain& chain);

} // namespace gyre
