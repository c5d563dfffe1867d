#include "edgebreak/BreakForm.h"
#include "edgebreak/BreakSpec.h"
#include "form/Form.h"

namespace gyre {

const Form<BreakSpec>& breakForm() {
    using B = BreakSpec;
    static const Form<B> form = [] {
        static constexpr const char* kLabels[] = {"what is picked:", "the edges around", "all edges of the body",
                                                  "the near edges",  "the far edges",    "near and far edges"};
        std::vector<Form<B>::Option<BreakEdges>> edges;
        for (int i = 0; i < kBreakEdges; ++i) edges.push_back({static_cast<BreakEdges>(i), breakEdgesName(static_cast<BreakEdges>(i)), kLabels[i]});
        return Form<B>("breaking edges")
            .choice("edges", &B::edges, edges, "Which edges")
            .angle("sharper", &B::sharper, 5.0, 180.0, "Least bend of an edge of faces or body")
            .step(5.0)
            .choice("as", &B::round, {{false, "chamfer", "chamfer with legs of"}, {true, "round", "round of radius"}}, "Shape of the broken edge")
            .length("size", &B::size, 0.005, 1e3, "Leg or radius")
            .step(0.05)
            .count("rows", &B::rows, 1, 500, "Rows of a ball")
            .choice("axis", &B::axis,
                    {{BreakAxis::Propose, "propose", "stands as it reaches"},
                     {BreakAxis::Turn, "turn", "is turned about the edge by"},
                     {BreakAxis::Fixed, "fixed", "stands in one direction"}},
                    "How the axis stands")
            .angle("turn", &B::turnDegrees, -150.0, 150.0, "Turn about the edge, out of the middle between the faces")
            .step(5.0)
            .vector("direction", &B::direction, 1e6, "Direction from tip to spindle")
            .flag("climb", &B::climb, "Direction of the cut", "climbing", "conventional")
            .check([](const JsonView& v, const B& b) {
                if (b.axis == BreakAxis::Fixed && !(b.direction.norm() > 1e-9)) v.complain("the direction has no length");
            });
    }();
    return form;
}

} // namespace gyre
