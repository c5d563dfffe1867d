// What running an operation came to.
#pragma once
#include "base/Finding.h"
#include "guard/Obstacle.h"
#include "operation/Recipe.h"
#include "tool/Assembly.h"
#include <memory>

namespace gyre {

struct AlongResult;
struct AxisResult;
struct CutFeed;
struct DrillResult;
struct GuardResult;
struct JointMotion;
struct LinkResult;
struct MillResult;
struct Pass;
struct PassOrigin;
struct PatternResult;
struct Toolpath;
enum class MillShape;

/// A stretch of the toolpath that comes too near to something; for tape and view.
struct PathHazard {
    std::size_t first, last, worst;
    Zone zone;
    std::size_t obstacle;
    double least;
};

/// Everything one operation came to, stage by stage. Stages that could not be run are null; findings say why.
struct OperationResult {
    std::string operation, name; ///< its id, and as it is called
    OperationKind kind = OperationKind::Surface;
    std::uint64_t key = 0; ///< of all it rests on, as from operationKey()
    Assembly tool;
    std::vector<int> faces;
    double faceArea = 0.0;
    std::shared_ptr<const PatternResult> pattern;
    double scallop = 0.0; ///< the highest between rows, mm; 0: it cannot be told
    std::shared_ptr<const AxisResult> axis;
    std::shared_ptr<const std::vector<Pass>> passes; ///< before the guard
    std::shared_ptr<const Scene> scene;              ///< that the guard looks at
    std::shared_ptr<const DrillResult> drill;        ///< of a step in holes
    Boxed<DrillSpec> cycle;                          ///< of a step in holes
    Boxed<PointsSpec> points;                        ///< how the control is to run through the path's points
    std::size_t holesMeant = 0;
    std::shared_ptr<const MillResult> mill;   ///< of milling on a sheet
    MillShape shape{};                        ///< of milling on a sheet
    std::shared_ptr<const AlongResult> along; ///< of work along walls, curves and edges
    std::shared_ptr<const GuardResult> guard;
    std::shared_ptr<const LinkResult> links;
    std::shared_ptr<const CutFeed> cutFeed; ///< where the feed follows the cut
    std::shared_ptr<const JointMotion> motion;
    std::vector<float> shankClearance, holderClearance; ///< per location of links->path, mm, cut off at 20
    std::vector<PathHazard> hazards;                    ///< by location of links->path
    std::vector<Finding> findings;
    Slice slice;          ///< the passes, and all that comes of them, are of this slice alone; faces, rows and axes are of the whole
    bool omitted = false; ///< it does nothing, and need not: the route goes on without it

    [[nodiscard]] bool complete() const { return motion != nullptr; }
    [[nodiscard]] const Toolpath* path() const;
    /// What a pass of the path came from, by its number; of a result with links.
    [[nodiscard]] PassOrigin originOf(int pass) const;
    [[nodiscard]] std::string facts(Stage stage) const;

private:
    [[nodiscard]] std::string factsOfWhole(Stage stage) const;
};

/// A cycle in one hole: the location over the mouth where it begins, and how deep it goes from there, mm.
struct CycleRun {
    std::size_t first = 0, strokes = 0;
    double depth = 0.0;
    std::size_t bottom = 0; ///< the deepest location
    double dwell = 0.0;     ///< s that the tool stays there
};
[[nodiscard]] std::vector<CycleRun> cyclesOf(const OperationResult& result);
/// Time of the whole operation, with what the tool waits at the bottom of holes. s
[[nodiscard]] double secondsOf(const OperationResult& result);

} // namespace gyre
