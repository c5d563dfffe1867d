#include "pattern/WhereForm.h"
#include "form/Form.h"
#include "part/ShapeRefForm.h"
#include "pattern/WhereSpec.h"

namespace gyre {

const Form<WhereSpec>& whereForm() {
    using W = WhereSpec;
    static const Form<W> form =
        Form<W>("where rows are kept")
            .choice("axis", &W::axis, {{0, "x", "X"}, {1, "y", "Y"}, {2, "z", "Z"}},
                    "Axis of the datum that slopes and heights are told from, and along which curves are seen")
            .writtenWhenChanged()
            .flag("bySlope", &W::bySlope, "Does the slope of the faces decide", "at slopes from", "at any slope")
            .writtenWhenChanged()
            .angle("flattest", &W::flattest, 0.0, 180.0, "Least angle between the axis and the face's normal: 0 is a floor, 90 a wall")
            .step(5.0)
            .writtenWhenChanged()
            .angle("steepest", &W::steepest, 0.0, 180.0, "Largest angle between the axis and the face's normal; over 90 is an undercut")
            .step(5.0)
            .writtenWhenChanged()
            .flag("byHeight", &W::byHeight, "Does the height decide", "at heights from", "at any height")
            .writtenWhenChanged()
            .length("low", &W::low, -1e5, 1e5, "Least height of the datum along the axis")
            .writtenWhenChanged()
            .length("high", &W::high, -1e5, 1e5, "Largest height of the datum along the axis")
            .writtenWhenChanged()
            .choice("by", &W::by,
                    {{WhereCurves::Anywhere, "anywhere", "with no curve around"},
                     {WhereCurves::Inside, "inside", "inside of"},
                     {WhereCurves::Outside, "outside", "outside of"}},
                    "Do closed curves bound it, seen along the axis")
            .writtenWhenChanged()
            .list("edges", &W::edges, kMostShapes, shapeRefForm(), "Edges of the part that bound it, in closed loops")
            .writtenWhenChanged()
            .text("curve", &W::curve, 200, "Drawing or curve of a mend that bounds it, by name")
            .writtenWhenChanged()
            .list("faces", &W::faces, kMostShapes, shapeRefForm(), "Faces whose outline bounds it, as they are seen along the axis")
            .writtenWhenChanged()
            .choice(
                "side", &W::side,
                {{WhereSide::Both, "both", "on both sides of any plane"}, {WhereSide::Over, "over", "over the plane"}, {WhereSide::Under, "under", "under the plane"}},
                "Does a work plane bound it; over it is where its normal points")
            .writtenWhenChanged()
            .text("plane", &W::plane, 200, "Work plane that bounds it, by name")
            .writtenWhenChanged()
            .flag("byStock", &W::byStock, "Does decide what the operations before leave of the stock", "where stock stands over", "with or without stock on them")
            .writtenWhenChanged()
            .length("stock", &W::stock, 0.01, 1000.0, "Least stock on the faces, over what is to be left there anyway")
            .step(0.1)
            .writtenWhenChanged()
            .flag("byReach", &W::byReach, "Does decide where the tool reaches without coming too near to anything, its axis standing still",
                  "where the tool reaches safely", "whether the tool reaches them or not")
            .writtenWhenChanged()
            .texts("notBy", &W::notBy, 100, "Operations before this one: what they cut is left to them")
            .writtenWhenChanged();
    return form;
}

} // namespace gyre
