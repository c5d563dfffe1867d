// Words of milling on a sheet.
#pragma once
#include <string>

namespace gyre {

enum class MillShape {
    Face,    ///< parallel strokes over the picked faces
    Pocket,  ///< rings from the middle outward, up to exact walls
    Outline, ///< along a wall
    Bore,    ///< round pockets by helices, each along its own axis
    Follow,  ///< along curves: engraving, slots, grooves
    Round,   ///< a whole round part about its axis, down to the model
    Rough,   ///< level by level from the stock, with steady engagement
    Body     ///< all that is seen from one direction: the cutter let down on it
};
inline constexpr int kMillShapes = 8;
[[nodiscard]] const char* millShapeName(MillShape s); ///< as in files: "face", "pocket" …
enum class MillDepth { Geometry, Typed, Model, Profile };
enum class MillTop { Geometry, Stock, Typed };
enum class MillSide { Inside, Outside, Left, Right };
enum class MillEntry { Helix, Ramp, Plunge };
enum class MillLines { Rings, Lines, Spiral };
/// Of a body from one direction: levels where it is steep, strokes where it is flat.
enum class MillParts { Both, Levels, Strokes };

/// Lengths in mm. Depths and tops count from the sheet: the floor faces, or the curves, that were picked.
struct MillSpec {
    MillShape shape = MillShape::Pocket;
    std::string on;      ///< empty: from what is picked; the name of a work plane; "round X", "round Y", "round Z"
    double radius = 0.0; ///< of an unrolled cylinder; 0: from what is picked
    MillDepth depthBy = MillDepth::Geometry;
    double depth = 2.0;
    MillTop topBy = MillTop::Geometry;
    double top = 0.0;
    double stepdown = 2.0; ///< largest depth of one level; 0: all at once
    double stepover = 3.0; ///< between neighbouring rings, strokes, passes or turns
    double scallop = 0.0;  ///< on a round floor: the step around never leaves more than this; 0: not asked
    MillSide side = MillSide::Inside;
    int passes = 1;          ///< of an outline: beside each other
    double width = 0.0;      ///< of a groove; 0: the cutter's
    bool widthAlong = false; ///< the width is measured along the axis of a wrapped sheet, not square to the groove
    bool parallel = true;    ///< wrapped: walls parallel to the radius in their middle, by moving the cutter sideways; else the axis stays radial
    bool climb = true;
    MillLines lines = MillLines::Rings; ///< Round: rings or one spiral
    double along = 0.0;                 ///< degrees of the strokes of a facing
    MillEntry entry = MillEntry::Helix;
    double rampDegrees = 3.0;
    double beyond = 0.0; ///< bores and outlines go this much below their lower end
    double leaveFloor = 0.0;
    double from = 0.0, to = 0.0;       ///< Round: range along the axis; equal: the whole part
    double bossClearance = 1.0;        ///< Round: the cutter stays this far from the picked faces
    bool capped = true;                ///< Round: holes and ports are closed over, so that the cutter does not fall into them
    MillParts parts = MillParts::Both; ///< Body
    double slope = 45.0;               ///< Body: degrees from the sheet; steeper is cut in levels, flatter in strokes
    std::string after;                 ///< Body: id of a tool that has cut it before: only what that one cannot reach
    double afterMore = 0.02;           ///< Body: what stands less than this above the part after that tool does not count
    bool operator==(const MillSpec&) const = default;
};

} // namespace gyre
