// Milling on a sheet – a plane, or a cylinder unrolled: facing, pockets, outlines, bores, grooves, whole rounds.
#pragma once
#include "base/Finding.h"
#include "base/Progress.h"
#include "geom/Curve.h"
#include "milling/Region.h"
#include "milling/Sheet.h"
#include "path/Pass.h"
#include "tool/Assembly.h"

namespace gyre {

struct MillSpec;

class Stock;

/// What is milled, and in what. Curves lie in space, or flat on the sheet.
struct MillInput {
    const Part* part = nullptr;
    std::vector<int> faces;
    std::vector<Curve> curves; ///< in space
    std::vector<Curve> drawn;  ///< flat: x, y of the sheet
    std::vector<int> profile;  ///< edges that tell the depth along the axis
    std::vector<WorkPlane> planes;
    std::vector<AxisLine> rotary;       ///< the machine's rotary axis where there is one alone
    const MeshTree* model = nullptr;    ///< the part's triangles, for depths down to the model
    const Part* body = nullptr;         ///< the part those triangles are of: depths are refined on its exact faces
    std::vector<const MeshTree*> stock; ///< bodies of stock, as set up
    const Stock* present = nullptr;     ///< what earlier operations left of it
    const Assembly* after = nullptr;    ///< a larger tool that has cut it before
};

/// The sheet that a recipe means: named, or from the picks.
[[nodiscard]] Result<Sheet> sheetOf(const MillInput& input, const MillSpec& spec);

/// A way on the sheet, as it is shown flat.
struct FlatPoint {
    Vec3 at = Vec3::Zero();    ///< x, y, height of the axis' foot over the sheet
    Vec2 shift = Vec2::Zero(); ///< sideways without turning
    Vec2 wall = Vec2::Zero();  ///< unit, away from the wall that is cut; 0: none
    Motion motion = Motion::Cut;
    double share = 1.0; ///< of the cutting feed, on the way to here
};
struct FlatPass {
    std::vector<FlatPoint> points;
    bool closed = false; ///< the last point repeats the first
    int level = 0;
};

struct MillResult {
    Sheet sheet;
    Region target;              ///< what is to be cut, flat
    std::vector<Line> curves;   ///< what is followed, flat
    std::vector<FlatPass> flat; ///< of bores: empty
    std::vector<Pass> passes;
    std::vector<Finding> findings;
    std::size_t levels = 0;
    double top = 0.0, bottom = 0.0; ///< heights over the sheet
    double scallop = 0.0;           ///< that is left on a round floor
    double pitch = 0.0;             ///< mm of depth for each turn of a bore's helix; 0: none
    double leftOver = 0.0;          ///< mm² the cutter does not reach
    double widestGap = 0.0;         ///< of a body: mm along its surface between neighbouring ways where they are kept
    std::size_t rows = 0;           ///< of a body: strokes; its levels are counted apart
    double length = 0.0;            ///< of all cutting
};

/// @param feed mm/min; entries run at half of it
[[nodiscard]] Result<MillResult> millOn(const MillInput& input, const MillSpec& spec, const Assembly& tool, double leave, double chordTolerance, double feed,
                                        Progress& progress);

/// Ridge that a flat cutter leaves on a round floor of radius ρ between strokes an angle δ apart: ρ(1/cos(δ/2) − 1).
[[nodiscard]] double roundScallop(double radius, double stepAngle);
[[nodiscard]] double roundStep(double radius, double scallop); ///< the angle that leaves it

/// How far the cutter may come down its own axis from `pose` before it touches the triangles: exact to 1 µm; `range` when it never does.
/// @param allowance kept between cutter and triangles
[[nodiscard]] double dropOnto(const MeshTree& model, const Cutter& cutter, const AxisPose& pose, double range, double allowance = 0.0);

/// How far a cutter that rests on the triangles must be lifted along its axis to rest on the exact faces instead: those bulge out between
/// the triangles' corners. Negative in a hollow, where the triangles stand out of the faces; 0 where the cutter rests on an edge.
[[nodiscard]] double liftOntoFaces(const Part& body, const Cutter& cutter, const AxisPose& pose, double allowance);

} // namespace gyre
