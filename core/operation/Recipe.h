// All that defines one operation, and how it is written down.
#pragma once
#include "axis/Axis.h"
#include "base/Json.h"
#include "edgebreak/EdgeBreak.h"
#include "guard/Guard.h"
#include "guided/Guided.h"
#include "holes/Drill.h"
#include "link/Link.h"
#include "milling/Mill.h"
#include "operation/Slices.h"
#include "pattern/Pattern.h"
#include "pattern/Where.h"
#include "stock/FeedByCut.h"
#include "swarf/Swarf.h"
#include "target/Target.h"
#include "touch/Touch.h"

namespace gyre {

enum class Stage { Target, Pattern, Axis, Guard, Links };
inline constexpr int kStages = 5;
[[nodiscard]] const char* stageName(Stage s);

enum class OperationKind {
    Surface,
    Holes,    ///< the holes that the steps under it work on; makes no path of its own
    HoleStep, ///< one tool with one cycle in the holes of its parent
    Mill,     ///< on a plane, or round an axis
    Swarf,    ///< the cutter's side down a wall
    Curve,    ///< along curves, or down the middle of a channel
    Edge,     ///< sharp edges broken
    Slices    ///< the operations under it run slice by slice; makes no path of its own
};
/// Is there nothing to cut but what stands under it?
[[nodiscard]] constexpr bool carries(OperationKind k) { return k == OperationKind::Holes || k == OperationKind::Slices; }
/// Along walls, curves and edges: core/follow.
[[nodiscard]] constexpr bool follows(OperationKind k) { return k == OperationKind::Swarf || k == OperationKind::Curve || k == OperationKind::Edge; }

/// Faces that the cutter keeps off by an amount of their own.
struct CheckFaces {
    std::vector<ShapeRef> faces;
    double keepOff = 0.2; ///< mm; negative: it may enter them by so much
};

/// The same once more elsewhere: on other work planes, or several times around an axis of the datum.
struct Repeat {
    std::vector<std::string> planes;
    int count = 1; ///< all in all, around the axis
    int axis = 2;
    double degrees = 0.0; ///< from one to the next; 0: evenly all around
    [[nodiscard]] bool any() const { return !planes.empty() || count > 1; }
};

inline constexpr std::size_t kMostChecks = 20;

struct Recipe {
    std::string id;
    OperationKind kind = OperationKind::Surface;
    std::string parent; ///< of a step in holes, or of what runs in slices: the operation it belongs to
    std::string name = "Surface rows";
    std::string variant; ///< which of several ways of doing it this is; empty: there is one
    std::string tool; ///< id of an assembly of the job
    bool active = true;
    TargetSpec target;
    PatternSpec pattern;
    WhereSpec where; ///< rows are kept to it
    TouchSpec touch; ///< what the cutter touches where rows go
    AxisSpec axis;
    GuardSpec guard;
    std::vector<CheckFaces> checks;
    LinkSpec link;
    std::vector<HoleRef> holes; ///< of Holes; a step has those of its parent, see Job::resolved()
    DrillSpec drill;            ///< a parent decides about breakthrough, height above and order
    MillSpec mill;
    SwarfSpec swarf;
    CurveSpec curve;
    BreakSpec edge;
    Repeat repeat;
    SliceSpec slices;  ///< of Slices
    double feed = 0.0; ///< mm/min; 0: from the tool
    FeedByCut feedByCut;

    // Filled in by Job::resolved(), not part of the file:
    Slice slice;                   ///< of the whole; it alone is cut
    bool upward = false;           ///< slices follow each other up the axis
    std::vector<WorkPlane> planes; ///< those it names
    std::uint64_t rests = 0;       ///< of the stock and of all before it in the route, where it works on what they leave
    std::uint64_t before = 0;      ///< of all before it in the route, where only its findings depend on what they leave
};

/// Are its passes laid by what operations before it leave of the stock?
[[nodiscard]] inline bool laidByStock(const Recipe& r) {
    return (r.kind == OperationKind::Mill && r.mill.shape == MillShape::Rough) || (r.kind == OperationKind::Surface && r.where.byStock);
}
/// Does anything of its path depend on that?
[[nodiscard]] inline bool restsOnStock(const Recipe& r) { return laidByStock(r) || r.feedByCut.on; }
/// All that its result rests on, with what resolved() has filled in, for the keys of cached results.
[[nodiscard]] std::string keyTextOf(const Recipe& recipe);
/// Where it is to be done again alone.
[[nodiscard]] std::string placesTextOf(const Recipe& recipe);
/// Its check faces alone.
[[nodiscard]] std::string checksTextOf(const Recipe& recipe);

} // namespace gyre
