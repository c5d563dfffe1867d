#include "touch/TouchForm.h"
#include "form/Form.h"
#include "touch/TouchSpec.h"

namespace gyre {

const Form<TouchSpec>& touchForm() {
    using T = TouchSpec;
    static const Form<T> form = Form<T>("what the cutter touches")
                                    .choice("by", &T::by,
                                            {{TouchBy::Faces, "faces", "these faces"},
                                             {TouchBy::AlongAxis, "axis", "the part, moved along its axis"},
                                             {TouchBy::AlongNormal, "normal", "the part, moved along the faces' normal"}},
                                            "What the cutter touches: rows and axis come of the faces all the same")
                                    .writtenWhenChanged()
                                    .length("reach", &T::reach, 0.001, 1000.0, "How far the part may lie over or under the faces; beyond it rows end")
                                    .step(0.5)
                                    .writtenWhenChanged();
    return form;
}

} // namespace gyre
