// A recipe run through the stages.
#pragma once
#include "base/Inputs.h"
#include "guard/Obstacle.h"
#include "link/Link.h"
#include "machine/Machine.h"
#include "mend/Mend.h"
#include "motion/Motion.h"
#include "operation/Recipe.h"
#include "operation/StageCache.h"
#include "part/Holes.h"
#include "part/WorkPlane.h"
#include "tool/Assembly.h"
#include <functional>
#include <memory>

namespace gyre {

class Stock;
struct AlongResult;
struct AxisResult;
struct CutFeed;
struct DrillResult;
struct GuardResult;
struct MillResult;
struct Overlap;
struct PatternResult;
enum class MillShape;

/// A body of the setup. Its coordinates are those of the part datum.
struct PlacedBody {
    std::string name;
    std::string role; ///< "part", "fixture", "stock", "reference"
    std::shared_ptr<const Part> shape;
    Frame placed = Frame::Identity(); ///< how it was turned and moved from where its file has it
};

/// What operations are run against: the part, what stands around it, the machine, the tools. Immutable once made.
struct Workplace {
    std::shared_ptr<const Part> part; ///< with all that mends made; its body alone stands in `bodies` and `scene`
    std::shared_ptr<const std::vector<MendResult>> mends;
    struct PlacedDrawing {
        std::string name, facts; ///< "12 curves, millimetres"
        bool flat = false;
        std::vector<Curve> curves; ///< where they lie in the part's datum
    };
    std::vector<PlacedDrawing> drawings;
    std::vector<PlacedBody> bodies;                       ///< all bodies of the setup, for drawing
    std::shared_ptr<const Scene> scene;                   ///< part datum coordinates: part, fixtures, machine bodies that ride with the work
    std::shared_ptr<const std::vector<Overlap>> overlaps; ///< bodies of the scene that stand inside one another
    std::shared_ptr<const Machine> machine;
    Frame partFrame = Frame::Identity(); ///< part datum in table-seat coordinates
    std::vector<Assembly> tools;
    std::vector<Hole> holes;             ///< found on the part
    std::uint64_t key = 0;               ///< changes when part, scene, machine or placement do
    std::uint64_t looks = 0;             ///< changes when anything does that is drawn
    std::uint64_t curves = 0, stock = 0; ///< of drawings and mends; of bodies of stock
    std::vector<InputFile> inputs;       ///< the files that all this was read from

    [[nodiscard]] const Assembly* tool(const std::string& id) const;
    /// Of all that an operation of this recipe reads of the setup: the key, or with curves and stock what is drawn besides.
    [[nodiscard]] std::uint64_t keyFor(const Recipe& recipe) const;
};

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
    [[nodiscard]] const Toolpath* path() const { return links ? &links->path : nullptr; }
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

/// Runs the stages in order; those whose inputs have not changed come from the cache. Only cancellation is an error: what goes
/// wrong in a stage is a finding of rank Stop, and the stages before it are still there.
/// @param early  gets the path as soon as it is there, before the clearances along it have been measured
/// @param before  asked for only where it is needed
using PresentStock = std::function<Result<std::shared_ptr<const Stock>>(Progress&)>;
using EarlyResult = std::function<void(std::shared_ptr<const OperationResult>)>;
/// What operations before it came to.
struct Before {
    PresentStock stock;
    std::function<std::shared_ptr<const OperationResult>(const std::string& id)> result; ///< null where there is none
    Before() = default;
    template <std::invocable<Progress&> Stock> Before(Stock present) : stock(std::move(present)) {}
    template <class Stock, class Results> Before(Stock present, Results results) : stock(std::move(present)), result(std::move(results)) {}
};
[[nodiscard]] Result<std::shared_ptr<const OperationResult>> runOperation(const Workplace& place, const Recipe& recipe, StageCache& cache, Progress& progress,
                                                                          const EarlyResult& early = {}, const Before& before = {});

/// Changes when anything changes that the operation's result rests on.
[[nodiscard]] std::uint64_t operationKey(std::uint64_t placeKey, const Recipe& recipe, const Assembly* tool);

} // namespace gyre
