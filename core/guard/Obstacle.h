// Bodies that stand around the work.
#pragma once
#include "geom/Convex.h"
#include "geom/MeshTree.h"
#include <memory>
#include <string>
#include <vector>

namespace gyre {

enum class ObstacleKind {
    Part,
    Fixture,
    Machine,
    Check ///< faces of the part that the cutting end keeps off by an amount of their own; shank and holder meet them as the part
};

/// A body that stands still against the part. Part datum coordinates.
struct Obstacle {
    std::string name;
    ObstacleKind kind = ObstacleKind::Part;
    MeshTree tree;
    std::vector<ConvexBody> pieces;
    double allowance = 0.0;                      ///< how far its triangles may lie from where the true surface is, mm
    std::shared_ptr<const MeshTree> forCutter{}; ///< what the cutting end must not enter, where that is less than all: not the walls of the holes it makes
    std::shared_ptr<const MeshTree> own{};       ///< faces that the operation makes, with a tolerance of their own; not in `forCutter`
    double ownTolerance = 0.0;                   ///< how deep the cutter may enter those, mm
    double within = 0.0;                         ///< what of the allowance is because it may stand that far from its place, mm
    double keepOff = 0.0;                        ///< Check: mm that the cutting end stays off; negative: that it may enter
    /// In findings: with how far it may stand off, which the distances told leave it.
    [[nodiscard]] std::string called() const;
    [[nodiscard]] const MeshTree& cutTree() const { return forCutter ? *forCutter : tree; }
};

using Scene = std::vector<Obstacle>;

} // namespace gyre
