// Sharp edges cut into sections square to them; in which runs they are broken. Used by the breaking of edges alone.
#pragma once
#include "base/Units.h"
#include "edgebreak/EdgeBreak.h"
#include "geom/Fineness.h"

namespace gyre {

inline constexpr double kLeastEdgeBend = 5.0 * kPi / 180.0; ///< less is no edge

/// One place of an edge: square to it, where the legs end.
struct EdgeSection {
    Vec3 at, along;             ///< on the edge, unit direction of travel
    std::array<Vec3, 2> leg;    ///< ends of the legs, left of the travel first
    std::array<Vec3, 2> normal; ///< of the faces there
    Vec3 out;                   ///< b: square to the facet
    double bend = 0.0;          ///< between the faces' normals
    bool convex = true, onFaces = true;
};

/// A run of edges without a corner between them.
struct EdgeRun {
    std::vector<int> edges;
    std::vector<bool> reversed;
    bool closed = false;
    std::optional<std::size_t> hole;
    bool far = false;
};

[[nodiscard]] std::vector<EdgeRun> edgeRuns(const BreakInput& in, const std::vector<int>& edges);

/// So many places that between two of them the cutter's way leaves the true one by no more than the chord's tolerance.
/// @param missing an edge has no curve
[[nodiscard]] std::vector<EdgeSection> sectionsAlong(const BreakInput& in, const BreakSpec& spec, const EdgeRun& run, const Cutter& cutter, const Fineness& fineness,
                                                     bool& missing);

} // namespace gyre
