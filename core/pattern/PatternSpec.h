// Words of rows.
#pragma once
#include "geom/Fineness.h"
#include "part/Part.h"
#include <string>
#include <vector>

namespace gyre {

enum class RowOrder { OneWay, BackAndForth, Spiral };
enum class RowEnds { OnRails, HalfStepIn };
/// What the distance between rows comes from.
enum class RowsBy { Spacing, Scallop, Count };
enum class RowStart { First, Last, Middle, Outside };
/// On which side of a row that stands lies which is cut later: climb milling has it on the right.
enum class RowCut { AsLaid, Climb, Conventional };

/// Where the rows come from; one entry for each in PatternKinds.cpp.
enum class PatternBy {
    Rails,    ///< between two rails: the field is 0 on the first rail, 1 on the second and harmonic between
    Planes,   ///< where parallel planes meet the faces
    Distance, ///< at true distance, along the faces, from one rail or from several
    Rings,    ///< at the same distance from an axis
    Lines,    ///< at the same angle around an axis
    Point,    ///< at the same distance from a point
    Grid,     ///< along a face's own lines
    Strokes,  ///< as a few drawn strokes run
    Curves,   ///< drawn curves themselves, laid onto the faces
    Corners,  ///< along inner corners, where a ball touches two faces at once
    Passage,  ///< between two walls, over the floor and what stands on it; rails are the walls' upper edges
    Seam      ///< at true distance from the rows of other operations beside the faces
};

struct PatternSpec {
    PatternBy kind = PatternBy::Rails;
    std::vector<ShapeRef> rail1, rail2;
    /// Rails: edges between them that rows follow as well, in chains; strokes, curves: some of them; passage: upper edges of what stands in it.
    std::vector<ShapeRef> guides;
    std::vector<std::string> beside; ///< seam: the operations, by id; they stand before this one
    double passOver = 0.0;           ///< seam: mm from these rows over which the tool's axis passes over from theirs to its own; 0: at once
    std::string curve;               ///< strokes, curves: a drawing or the curves of a mend, by name
    int onto = -1;                   ///< curves: they fall along an axis of the datum, or to the nearest point of the faces (−1)
    double along = 0.0;              ///< planes: degrees from X in which rows run
    double lean = 0.0;               ///< planes: degrees off Z; at 90 they are levels
    Vec3 centre = Vec3::Zero();      ///< rings, lines: a point of the axis; point: the point
    int axis = 2;                    ///< rings, lines: X, Y or Z of the datum
    double larger = 0.0;             ///< corners: diameter of the ball before, whose rest is cut; 0: the middle alone
    bool acrossGrid = false;         ///< grid: along the second of the face's own directions
    RowsBy by = RowsBy::Spacing;
    double spacing = 0.5;   ///< widest gap between neighbouring rows, mm
    double scallop = 0.005; ///< height of the ridge left between rows
    int count = 20;         ///< rows
    RowOrder order = RowOrder::BackAndForth;
    RowEnds ends = RowEnds::OnRails;
    RowStart start = RowStart::First;
    bool reversed = false;         ///< run the rows the other way
    RowCut cut = RowCut::AsLaid;   ///< climb or conventional: each row runs as that asks for, however they are reversed
    double beyond = 0.0;           ///< mm that open rows go on straight beyond their ends, or end before them
    bool pieces = false;           ///< rows that lie beside each other one after the other; row by row would go to and fro over holes
    int layers = 1;                ///< so many times, the last one on the faces
    double layer = 0.5;            ///< mm from one to the next
    int layersAlong = -1;          ///< they stand off along an axis of the datum, or along the faces' normal (−1)
    bool everyLayer = false;       ///< all layers of a row before the next row
    bool across = false;           ///< open rails that end inside the faces: rows end straight across from one rail's end to the other's
    double chordTolerance = 0.005; ///< largest distance of the tool's way from the true one between two points
    double longestStep = 2.0;      ///< mm between two points
    [[nodiscard]] Fineness fineness() const { return {chordTolerance, longestStep}; }
};

} // namespace gyre
