// All that defines one operation, and how it is written down.
#pragma once
#include "base/Boxed.h"
#include "holes/HoleRef.h"
#include "operation/Slices.h"
#include "part/WorkPlane.h"
#include <string>
#include <vector>

namespace gyre {

struct AxisSpec;
struct BreakSpec;
struct CurveSpec;
struct DrillSpec;
struct FeedByCut;
struct GuardSpec;
struct LinkSpec;
struct MillSpec;
struct PatternSpec;
struct PointsSpec;
struct Repeat;
struct SliceSpec;
struct SwarfSpec;
struct TargetSpec;
struct TouchSpec;
struct WhereSpec;
// made in Recipe.cpp, the guard's in Guard.cpp
extern template class Boxed<AxisSpec>;
extern template class Boxed<BreakSpec>;
extern template class Boxed<CurveSpec>;
extern template class Boxed<DrillSpec>;
extern template class Boxed<FeedByCut>;
extern template class Boxed<GuardSpec>;
extern template class Boxed<LinkSpec>;
extern template class Boxed<MillSpec>;
extern template class Boxed<PatternSpec>;
extern template class Boxed<PointsSpec>;
extern template class Boxed<Repeat>;
extern template class Boxed<SliceSpec>;
extern template class Boxed<SwarfSpec>;
extern template class Boxed<TargetSpec>;
extern template class Boxed<TouchSpec>;
extern template class Boxed<WhereSpec>;

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
/// Along walls, curves and edges.
[[nodiscard]] constexpr bool follows(OperationKind k) { return k == OperationKind::Swarf || k == OperationKind::Curve || k == OperationKind::Edge; }

/// Faces that the cutter keeps off by an amount of their own.
struct CheckFaces {
    std::vector<ShapeRef> faces;
    double keepOff = 0.2; ///< mm; negative: it may enter them by so much
};

inline constexpr std::size_t kMostChecks = 20;

/// What its stages are told stands in boxes, so that a new word is only seen by who reads it.
struct Recipe {
    std::string id;
    OperationKind kind = OperationKind::Surface;
    std::string parent; ///< of a step in holes, or of what runs in slices: the operation it belongs to
    std::string name = "Surface rows";
    std::string variant; ///< which of several ways of doing it this is; empty: there is one
    std::string tool;    ///< id of an assembly of the job
    bool active = true;
    Boxed<TargetSpec> target;
    Boxed<PatternSpec> pattern;
    Boxed<WhereSpec> where; ///< rows are kept to it
    Boxed<TouchSpec> touch; ///< what the cutter touches where rows go
    Boxed<AxisSpec> axis;
    Boxed<GuardSpec> guard;
    std::vector<CheckFaces> checks;
    Boxed<LinkSpec> link;
    std::vector<HoleRef> holes; ///< of Holes; a step has those of its parent, see Job::resolved()
    Boxed<DrillSpec> drill;     ///< a parent decides about breakthrough, height above and order
    Boxed<MillSpec> mill;
    Boxed<SwarfSpec> swarf;
    Boxed<CurveSpec> curve;
    Boxed<BreakSpec> edge;
    Boxed<Repeat> repeat;
    Boxed<SliceSpec> slices; ///< of Slices
    double feed = 0.0;       ///< mm/min; 0: from the tool
    Boxed<FeedByCut> feedByCut;
    Boxed<PointsSpec> points;

    // Filled in by Job::resolved(), not part of the file:
    Slice slice;                   ///< of the whole; it alone is cut
    bool upward = false;           ///< slices follow each other up the axis
    std::vector<WorkPlane> planes; ///< those it names
    std::uint64_t rests = 0;       ///< of the stock and of all before it in the route, where it works on what they leave
    std::uint64_t before = 0;      ///< of all before it in the route, where only its findings depend on what they leave
};

/// Are its passes laid by what operations before it leave of the stock?
[[nodiscard]] bool laidByStock(const Recipe& r);
/// Does anything of its path depend on that?
[[nodiscard]] bool restsOnStock(const Recipe& r);
/// All that its result rests on, with what resolved() has filled in, for the keys of cached results.
[[nodiscard]] std::string keyTextOf(const Recipe& recipe);
/// Where it is to be done again alone.
[[nodiscard]] std::string placesTextOf(const Recipe& recipe);
/// Its check faces alone.
[[nodiscard]] std::string checksTextOf(const Recipe& recipe);

} // namespace gyre
