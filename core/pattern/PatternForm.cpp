#include "pattern/PatternForm.h"
#include "form/Form.h"
#include "part/ShapeRefForm.h"
#include "pattern/PatternKinds.h"

namespace gyre {

namespace {
using P = PatternSpec;

// Where rows come from.
void sayWhence(Form<P>& form) {
    std::vector<Form<P>::Option<PatternBy>> kinds;
    for (const PatternKind& k : patternKinds()) kinds.push_back({k.by, k.word, k.label});
    form.choice("kind", &P::kind, kinds, "Where the rows come from")
        .writtenWhenChanged()
        .list("rail1", &P::rail1, kMostShapes, shapeRefForm(), "First rail")
        .list("rail2", &P::rail2, kMostShapes, shapeRefForm(), "Second rail")
        .list("guides", &P::guides, kMostShapes, shapeRefForm(), "Edges that rows follow")
        .writtenWhenChanged()
        .texts("beside", &P::beside, 100, "Operations before this one whose last rows these begin at")
        .writtenWhenChanged()
        .length("passOver", &P::passOver, 0.0, 1000.0, "From these rows on, the way over which the tool's axis passes over from theirs to its own; 0: at once")
        .step(1.0)
        .writtenWhenChanged()
        .text("curve", &P::curve, 200, "Drawing or curves of a mend that rows follow, or that stand for rails without edges, by name")
        .writtenWhenChanged()
        .choice("onto", &P::onto, {{-1, "nearest", "to the nearest point"}, {0, "x", "along X"}, {1, "y", "along Y"}, {2, "z", "along Z"}},
                "How curves fall onto the faces")
        .writtenWhenChanged()
        .angle("along", &P::along, -360.0, 360.0, "Direction of rows in planes, from X")
        .step(15.0)
        .writtenWhenChanged()
        .angle("lean", &P::lean, -90.0, 90.0, "How far the planes lean off Z; at 90 they are levels")
        .step(15.0)
        .writtenWhenChanged()
        .place("centre", &P::centre, 1e5, "Point that rows run about, or a point of the axis that they run around")
        .writtenWhenChanged()
        .choice("axis", &P::axis, {{0, "x", "X"}, {1, "y", "Y"}, {2, "z", "Z"}}, "Axis that rows run around or along")
        .writtenWhenChanged()
        .length("larger", &P::larger, 0.0, 1000.0, "Diameter of the ball that cut before: what it left in the corners is cut; 0: one row down their middle")
        .step(1.0)
        .writtenWhenChanged()
        .flag("acrossGrid", &P::acrossGrid, "Which of a face's own lines rows run along", "its second ones", "its first ones")
        .writtenWhenChanged();
}

// How far apart they lie, and in which order and direction they are cut.
void sayOrder(Form<P>& form) {
    form.choice("by", &P::by, {{RowsBy::Spacing, "spacing", "stepover"}, {RowsBy::Scallop, "scallop", "scallop"}, {RowsBy::Count, "count", "rows in all:"}},
                "How the distance between rows is given")
        .length("spacing", &P::spacing, 0.005, 1000.0, "Distance between rows")
        .step(0.05)
        .length("scallop", &P::scallop, 1e-5, 100.0, "Height of the scallop")
        .step(0.001)
        .count("count", &P::count, 2, 20000, "How many rows, where their number is given")
        .writtenWhenChanged()
        .choice("order", &P::order,
                {{RowOrder::OneWay, "oneWay", "one way"}, {RowOrder::BackAndForth, "backAndForth", "back and forth"}, {RowOrder::Spiral, "spiral", "joined in a spiral"}},
                "Order of the rows")
        .choice("ends", &P::ends, {{RowEnds::OnRails, "onRails", "on the rails"}, {RowEnds::HalfStepIn, "halfStepIn", "half a step in"}}, "First and last row")
        .choice("from", &P::start,
                {{RowStart::First, "rail1", "rail 1"},
                 {RowStart::Last, "rail2", "rail 2"},
                 {RowStart::Middle, "middle", "the middle"},
                 {RowStart::Outside, "outside", "the outside"}},
                "Where to start")
        .flag("reversed", &P::reversed, "Direction of the rows", "turned round", "as laid")
        .choice("cut", &P::cut,
                {{RowCut::AsLaid, "asLaid", "as they come"}, {RowCut::Climb, "climb", "climbing"}, {RowCut::Conventional, "conventional", "conventional"}},
                "Direction of the cut, by the side on which rows are still to be cut")
        .writtenWhenChanged()
        .length("beyond", &P::beyond, -1000.0, 1000.0, "How far rows go on straight beyond their ends; less than 0: how far before them they end")
        .step(0.5)
        .writtenWhenChanged();
}

// What follows what, and how fine it is.
void sayPieces(Form<P>& form) {
    form.flag("pieces", &P::pieces, "What follows a row that holes or borders break", "piece by piece", "row by row")
        .writtenWhenChanged()
        .count("layers", &P::layers, 1, 1000, "How many times all is cut, from the outermost layer down to the faces")
        .writtenWhenChanged()
        .length("layer", &P::layer, 0.001, 1000.0, "From one layer to the next")
        .step(0.1)
        .writtenWhenChanged()
        .choice("layersAlong", &P::layersAlong, {{-1, "normal", "square to the faces"}, {0, "x", "along X"}, {1, "y", "along Y"}, {2, "z", "along Z"}},
                "Which way layers stand off the faces")
        .writtenWhenChanged()
        .flag("everyLayer", &P::everyLayer, "Order of layers", "all layers of a row before the next", "layer by layer")
        .writtenWhenChanged()
        .flag("across", &P::across, "Where the faces go on beyond the ends of the rails", "they end straight across", "they go on")
        .length("chordTolerance", &P::chordTolerance, 1e-4, 10.0, "Largest distance of the tool's way from the true one between two points")
        .length("longestStep", &P::longestStep, 0.01, 100.0, "Largest distance of two points");
}

} // namespace

const Form<PatternSpec>& patternForm() {
    static const Form<P> form = [] {
        Form<P> rows("rows over faces");
        sayWhence(rows);
        sayOrder(rows);
        sayPieces(rows);
        return rows;
    }();
    return form;
}

const Form<PatternSpec>& finenessForm() {
    static const Form<PatternSpec> form =
        Form<PatternSpec>("how fine milling is")
            .length("chordTolerance", &PatternSpec::chordTolerance, 1e-4, 10.0, "Largest distance of the tool's way from the true one between two points");
    return form;
}

} // namespace gyre
