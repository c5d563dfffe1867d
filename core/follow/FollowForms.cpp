#include "follow/FollowForms.h"
#include "form/Form.h"

namespace gyre {
namespace {

constexpr double kFar = 1e4; // mm

struct SyncLine {
    double lower = 0.0, upper = 0.0;
};

const Form<SyncLine>& syncForm() {
    static const Form<SyncLine> form = Form<SyncLine>("a sync line")
                                           .number("lower", &SyncLine::lower, 0.0, 1.0, "Fraction of the lower rail")
                                           .needed()
                                           .number("upper", &SyncLine::upper, 0.0, 1.0, "Fraction of the upper rail")
                                           .needed();
    return form;
}

} // namespace

const Form<SwarfSpec>& swarfForm() {
    using S = SwarfSpec;
    static const Form<S> form = [] {
        WordInfo sync;
        sync.key = "sync";
        sync.kind = WordKind::List;
        sync.most = 1000;
        sync.what = "Sync lines: fractions of the lower and of the upper rail that belong together";
        sync.part = std::make_shared<const FormInfo>(syncForm().info());
        return Form<S>("a wall")
            .choice("from", &S::fromRails, {{false, "faces", "a wall of"}, {true, "rails", "the wall between"}}, "What tells the wall")
            .flag("otherSide", &S::otherSide, "Side of the rails", "the other side", "the free side")
            .flag("flipped", &S::flipped, "Which end is the lower one", "the other way up", "this way up")
            .length("past", &S::past, -kFar, kFar, "How far the tip goes past the lower edge")
            .length("stepdown", &S::stepdown, 0.0, kFar, "Depth of one level; 0: at once")
            .length("thickness", &S::thickness, 0.0, kFar, "Stock before the wall; 0: one pass")
            .length("stepover", &S::stepover, 0.01, kFar, "Thickness of one pass")
            .step(0.1)
            .choice("order", &S::depthsFirst, {{false, "thicknessFirst", "over, then down"}, {true, "depthsFirst", "down, then over"}}, "What comes first")
            .number("entry", &S::entry, 0.0, 1.0, "Place of entry on a closed wall, as a fraction of it")
            .flag("climb", &S::climb, "Direction of the cut", "climbing", "conventional")
            .choice("corner", &S::corner,
                    {{SwarfCorner::Roll, "roll", "rolled around"}, {SwarfCorner::Stop, "stop", "stopped at"}, {SwarfCorner::Loop, "loop", "looped"}}, "At outer corners")
            .length("extend", &S::extend, 0.0, kFar, "How far beyond open ends")
            .flag("twist", &S::twist, "How the side lies on twisted walls", "where it is least off", "on both ends")
            .choice("floor", &S::lift, {{true, "lift", "lift it"}, {false, "report", "only tell"}}, "What to do where a floor is in the way of the tip")
            .length("tolerance", &S::tolerance, 1e-4, 100.0, "Largest deviation that is let pass")
            .step(0.005)
            .special(
                sync,
                [](const JsonView& v, S& s) {
                    s.sync.clear();
                    for (const JsonView& line : v.list("sync", 1000)) {
                        const SyncLine one = syncForm().read(line);
                        s.sync.push_back({one.lower, one.upper});
                    }
                },
                [](const S& s, OrderedJson& out) {
                    out["sync"] = OrderedJson::array();
                    for (const auto& line : s.sync) out["sync"].push_back(syncForm().write({line[0], line[1]}));
                },
                [](S& s, Dice& dice) {
                    const SyncLine one = syncForm().random(dice);
                    s.sync.assign(dice() % 3, {one.lower, one.upper});
                });
    }();
    return form;
}

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
