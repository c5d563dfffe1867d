#include "target/TargetForm.h"
#include "form/Form.h"
#include "part/ShapeRefForm.h"
#include "target/TargetSpec.h"

namespace gyre {

const Form<TargetSpec>& targetForm() {
    static const Form<TargetSpec> form = Form<TargetSpec>("what is cut")
                                             .list("faces", &TargetSpec::faces, kMostShapes, shapeRefForm(), "Faces to cut")
                                             .length("leave", &TargetSpec::leave, -100.0, 1000.0, "Stock to leave")
                                             .step(0.05)
                                             .list("edges", &TargetSpec::edges, kMostShapes, shapeRefForm(), "Edges to follow")
                                             .writtenWhenChanged()
                                             .list("profile", &TargetSpec::profile, kMostShapes, shapeRefForm(), "Edges of the profile")
                                             .writtenWhenChanged()
                                             .texts("drawings", &TargetSpec::drawings, 500, "Drawings or curves of mends to follow, by name");
    return form;
}

} // namespace gyre
