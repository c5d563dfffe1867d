#include "guided/CurveForm.h"
#include "form/Form.h"
#include "guided/CurveSpec.h"

namespace gyre {
namespace {

constexpr double kFar = 1e4; // mm

} // namespace

const Form<CurveSpec>& curveForm() {
    using C = CurveSpec;
    static const Form<C> form =
        Form<C>("work along curves")
            .choice("by", &C::by,
                    {{CurveBy::Tip, "tip", "the tip"},
                     {CurveBy::BallCentre, "ballCentre", "the ball's middle"},
                     {CurveBy::Side, "side", "the side"},
                     {CurveBy::Channel, "channel", "the cutter down a channel:"}},
                    "What follows the curve")
            .choice("side", &C::side, {{CurveSide::On, "on", "On"}, {CurveSide::Left, "left", "Left of"}, {CurveSide::Right, "right", "Right of"}}, "Side of the curve")
            .length("offset", &C::offset, -kFar, kFar, "Distance to the curve")
            .step(0.1)
            .length("axial", &C::axial, -kFar, kFar, "Shift along the axis")
            .step(0.1)
            .length("depth", &C::depth, 0.0, kFar, "Depth along the surface's normal; of a channel the height over its floor to begin at")
            .step(0.1)
            .length("stepdown", &C::stepdown, 0.0, kFar, "Depth of one pass; 0: at once")
            .step(0.1)
            .length("overlap", &C::overlap, 0.0, kFar, "Overlap on a closed curve")
            .number("entry", &C::entry, 0.0, 1.0, "Place of entry on a closed curve, as a fraction of it")
            .number("from", &C::from, 0.0, 1.0, "Start of the part that is cut, as a fraction of the curve")
            .number("to", &C::to, 0.0, 1.0, "End of the part that is cut, as a fraction of the curve")
            .flag("reversed", &C::reversed, "Direction of the curve", "turned round", "as it runs")
            .flag("backAndForth", &C::backAndForth, "Every other pass", "back and forth", "always this way");
    return form;
}

} // namespace gyre
