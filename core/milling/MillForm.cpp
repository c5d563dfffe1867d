#include "milling/MillForm.h"
#include "form/Form.h"
#include "milling/MillSpec.h"

namespace gyre {

namespace {

using M = MillSpec;
constexpr double kFar = 1e5;

/// What is milled, on what, how deep and in which steps.
void addDepth(Form<M>& form) {
    static constexpr const char* kLabels[] = {"Face off", "Clear", "Go along", "Bore out", "Follow", "Go round", "Rough", "Finish"};
    std::vector<Form<M>::Option<MillShape>> shapes;
    for (int i = 0; i < kMillShapes; ++i) shapes.push_back({static_cast<MillShape>(i), millShapeName(static_cast<MillShape>(i)), kLabels[i]});
    form.choice("shape", &M::shape, shapes, "Kind of milling")
        .text("on", &M::on, 200, "Plane, or axis that the work is wrapped around; what is picked when empty")
        .length("radius", &M::radius, 0.0, kFar, "Radius it is unrolled at; 0: as picked")
        .choice("depthBy", &M::depthBy,
                {{MillDepth::Geometry, "geometry", "the floor"},
                 {MillDepth::Typed, "typed", "a depth of"},
                 {MillDepth::Model, "model", "the model, at most"},
                 {MillDepth::Profile, "profile", "a profile"}},
                "What the depth goes by")
        .length("depth", &M::depth, -kFar, kFar, "Depth")
        .step(0.25)
        .choice("topBy", &M::topBy,
                {{MillTop::Geometry, "geometry", "the top of the walls"}, {MillTop::Stock, "stock", "the stock"}, {MillTop::Typed, "typed", "a height of"}},
                "Where the cut begins")
        .length("top", &M::top, -kFar, kFar, "Height where the cut begins")
        .length("stepdown", &M::stepdown, 0.0, 1e4, "Depth of one level; 0: at once")
        .step(0.1)
        .length("stepover", &M::stepover, 0.01, 1e4, "Distance between passes")
        .step(0.1)
        .length("scallop", &M::scallop, 0.0, 100.0, "Scallop on the round floor; 0: any")
        .step(0.005);
}

/// Which side of lines, in which direction, how the cutter comes down.
void addWay(Form<M>& form) {
    form.choice("side", &M::side,
                {{MillSide::Inside, "inside", "inside"},
                 {MillSide::Outside, "outside", "outside"},
                 {MillSide::Left, "left", "left of"},
                 {MillSide::Right, "right", "right of"}},
                "Side of the line")
        .count("passes", &M::passes, 1, 1000, "Passes beside each other")
        .length("width", &M::width, 0.0, 1e4, "Width of the groove; 0: as the cutter")
        .step(0.1)
        .flag("widthAlong", &M::widthAlong, "How the width is measured", "along the axis", "square to it")
        .flag("parallel", &M::parallel, "How walls stand", "walls parallel, as a follower makes them", "the tool always along the radius")
        .flag("climb", &M::climb, "Direction of the cut", "climbing", "conventional")
        .choice("lines", &M::lines,
                {{MillLines::Rings, "rings", "rings"}, {MillLines::Lines, "lines", "strokes lengthwise"}, {MillLines::Spiral, "spiral", "one spiral"}},
                "Way over the round")
        .angle("along", &M::along, -360.0, 360.0, "Direction of the strokes")
        .step(15.0)
        .choice("entry", &M::entry, {{MillEntry::Helix, "helix", "a helix"}, {MillEntry::Ramp, "ramp", "a ramp"}, {MillEntry::Plunge, "plunge", "plunging"}},
                "How the cutter comes down")
        .angle("rampDegrees", &M::rampDegrees, 0.1, 89.0, "Slope of helix or ramp")
        .step(0.5);
}

/// Ends, bosses, bodies.
void addRest(Form<M>& form) {
    form.length("beyond", &M::beyond, 0.0, 1e3, "How far beyond the lower end")
        .step(0.1)
        .length("leaveFloor", &M::leaveFloor, -100.0, 1000.0, "Stock to leave on the floor")
        .step(0.05)
        .length("from", &M::from, -kFar, kFar, "Start along the axis")
        .step(1.0)
        .length("to", &M::to, -kFar, kFar, "End along the axis; as the start: all of it")
        .step(1.0)
        .length("bossClearance", &M::bossClearance, 0.0, 1e3, "Distance to the bosses")
        .step(0.1)
        .choice("parts", &M::parts,
                {{MillParts::Both, "both", "levels on the steep, strokes on the flat"},
                 {MillParts::Levels, "levels", "levels alone"},
                 {MillParts::Strokes, "strokes", "strokes alone"}},
                "What cuts the body")
        .angle("slope", &M::slope, 5.0, 85.0, "Slope at which levels take over from strokes")
        .step(5.0)
        .text("after", &M::after, 200, "A larger tool that has cut it before: only what that one cannot reach; all of it when empty")
        .length("afterMore", &M::afterMore, 0.001, 100.0, "What counts as left by the tool before")
        .step(0.01)
        .choice("holes", &M::capped, {{true, "closed", "closed over"}, {false, "open", "as they are"}}, "Holes and ports")
        .check([](const JsonView& v, const M& m) {
            if (m.stepdown > 0.0 && m.stepdown < 0.005) v.complain("'stepdown' is 0 or at least 0.005");
        });
}

} // namespace

const Form<MillSpec>& millForm() {
    static const Form<M> form = [] {
        Form<M> out("milling");
        addDepth(out);
        addWay(out);
        addRest(out);
        return out;
    }();
    return form;
}

} // namespace gyre
