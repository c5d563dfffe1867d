// Which words each kind of operation has.
#include "operation/RecipeForm.h"
#include "axis/AxisForm.h"
#include "axis/AxisSpec.h"
#include "edgebreak/BreakForm.h"
#include "edgebreak/BreakSpec.h"
#include "form/Form.h"
#include "guard/GuardForm.h"
#include "guard/GuardSpec.h"
#include "guided/CurveForm.h"
#include "guided/CurveSpec.h"
#include "holes/DrillForm.h"
#include "holes/DrillSpec.h"
#include "link/LinkForm.h"
#include "link/LinkSpec.h"
#include "milling/MillForm.h"
#include "milling/MillSpec.h"
#include "motion/PointsSpec.h"
#include "operation/Repeat.h"
#include "operation/SliceSpec.h"
#include "part/ShapeRefForm.h"
#include "pattern/PatternForm.h"
#include "pattern/PatternKinds.h"
#include "pattern/WhereForm.h"
#include "pattern/WhereSpec.h"
#include "stock/FeedByCut.h"
#include "swarf/SwarfForm.h"
#include "swarf/SwarfSpec.h"
#include "target/TargetForm.h"
#include "target/TargetSpec.h"
#include "touch/TouchForm.h"
#include "touch/TouchSpec.h"

namespace gyre {
namespace {

struct KindWord {
    OperationKind kind;
    const char *id, *label;
};
constexpr KindWord kKindWords[] = {{OperationKind::Surface, "surface", "rows over faces"},
                                   {OperationKind::Holes, "holes", "work in holes"},
                                   {OperationKind::HoleStep, "holeStep", "a step in holes"},
                                   {OperationKind::Mill, "mill", "milling on a plane or wrapped"},
                                   {OperationKind::Swarf, "swarf", "the cutter's side down a wall"},
                                   {OperationKind::Curve, "curve", "along curves"},
                                   {OperationKind::Edge, "edge", "edges broken"},
                                   {OperationKind::Slices, "slices", "operations slice by slice"}};

const Form<Repeat>& repeatForm() {
    static const Form<Repeat> form = Form<Repeat>("repeating")
                                         .texts("planes", &Repeat::planes, 1000, "Other planes with the same work")
                                         .count("count", &Repeat::count, 1, 1000, "Times around the axis")
                                         .choice("axis", &Repeat::axis, {{0, "x", "X"}, {1, "y", "Y"}, {2, "z", "Z"}}, "Axis that it is repeated around")
                                         .angle("degrees", &Repeat::degrees, -360.0, 360.0, "From one to the next; 0: evenly all around");
    return form;
}

const Form<CheckFaces>& checkForm() {
    using C = CheckFaces;
    static const Form<C> form = Form<C>("check faces")
                                    .list("faces", &C::faces, kMostShapes, shapeRefForm(), "Faces of the part that the cutter keeps off")
                                    .length("keepOff", &C::keepOff, -100.0, 100.0, "How far the cutter keeps off them; less than 0: how deep it may enter them")
                                    .step(0.05);
    return form;
}

const Form<SliceSpec>& slicesForm() {
    using S = SliceSpec;
    static const Form<S> form = Form<S>("slices")
                                    .choice("axis", &S::axis, {{0, "x", "X"}, {1, "y", "Y"}, {2, "z", "Z"}}, "Axis of the datum along which slices follow each other")
                                    .length("from", &S::from, -1e5, 1e5, "Free end, where the first slice begins")
                                    .length("to", &S::to, -1e5, 1e5, "Where the last slice ends; what lies beyond it is part of that")
                                    .length("thickness", &S::thickness, 0.05, 1e4, "Largest thickness of a slice; all are alike")
                                    .step(0.5)
                                    .length("overlap", &S::overlap, 0.0, 1000.0, "How far each slice goes on into the next one")
                                    .step(0.1)
                                    .check([](const JsonView& v, const S& s) {
                                        if (slicesOf(s).empty()) v.complain(fmt::format("these are more than {} slices; use a larger thickness", kMostSlices));
                                    })
                                    .settled([](S& s) { s.thickness = std::max(s.thickness, std::abs(s.from - s.to) / 10.0); });
    return form;
}

const Form<FeedByCut>& feedByCutForm() {
    using F = FeedByCut;
    static const Form<F> form = Form<F>("a feed that follows the cut")
                                    .flag("on", &F::on, "Does the feed follow the cut", "following the cut", "the same everywhere")
                                    .number("least", &F::least, 5.0, 100.0, "Slowest, percent of the feed asked for")
                                    .step(5.0)
                                    .number("most", &F::most, 100.0, 500.0, "Fastest, percent of the feed asked for")
                                    .step(10.0);
    return form;
}

const Form<PointsSpec>& pointsForm() {
    using P = PointsSpec;
    static const Form<P> form = Form<P>("how the control runs through points")
                                    .choice("how", &P::how,
                                            {{AtPoints::AsItStands, "asItStands", "runs on as it stands"},
                                             {AtPoints::ExactStop, "exactStop", "stops exactly"},
                                             {AtPoints::Smoothed, "smoothed", "rounds them off"}},
                                            "What the control does at the path's points")
                                    .length("within", &P::within, 0.001, 1.0, "How far it may leave the path where it rounds points off")
                                    .step(0.005);
    return form;
}

Form<Recipe> made(OperationKind kind) {
    using R = Recipe;
    std::vector<Form<R>::Option<OperationKind>> kinds;
    for (const KindWord& k : kKindWords) kinds.push_back({k.kind, k.id, k.label});
    Form<R> form("this kind of operation");
    form.text("id", &R::id, 100, "What it is known by").needed().choice("kind", &R::kind, kinds, "Kind of operation").text("name", &R::name, 200, "Name");
    if (kind == OperationKind::Slices) {
        form.flag("active", &R::active, "Is it part of the route", "on", "switched off").part("slices", &R::slices, slicesForm(), "How it is divided");
        form.settled([kind](R& r) { r.kind = kind; });
        return form;
    }
    form.text("variant", &R::variant, 20, "Which of several ways of doing it this is; empty: there is one").writtenWhenChanged();
    form.text("tool", &R::tool, 100, "Tool")
        .flag("active", &R::active, "Is it part of the route", "on", "switched off")
        .number("feed", &R::feed, 0.0, 1e6, "Feed in mm/min; 0: from the tool");
    if (kind == OperationKind::HoleStep) form.text("parent", &R::parent, 100, "The operation on holes that it is a step of");
    if (kind != OperationKind::HoleStep && kind != OperationKind::Holes)
        form.text("parent", &R::parent, 100, "The slices that it is cut in; empty: it is cut as a whole").writtenWhenChanged();
    const bool holes = kind == OperationKind::Holes || kind == OperationKind::HoleStep;
    if (!holes) form.part("feedByCut", &R::feedByCut, feedByCutForm(), "Feed that follows the cut").writtenWhenChanged();
    if (!holes) form.part("points", &R::points, pointsForm(), "What the control does at points").writtenWhenChanged();
    if (!holes) form.part("target", &R::target, targetForm(), "What is cut");
    if (kind == OperationKind::Mill)
        form.part("pattern", &R::pattern, finenessForm(), "How fine its points are").writtenWhenChanged();
    else if (!holes)
        form.part("pattern", &R::pattern, patternForm(), "Rows");
    if (kind == OperationKind::Surface)
        form.part("where", &R::where, whereForm(), "Where rows are kept")
            .writtenWhenChanged()
            .part("touch", &R::touch, touchForm(), "What the cutter touches")
            .writtenWhenChanged();
    if (kind == OperationKind::Mill) form.part("mill", &R::mill, millForm(), "Milling");
    if (kind == OperationKind::Swarf) form.part("swarf", &R::swarf, swarfForm(), "The wall");
    if (kind == OperationKind::Edge) form.part("edge", &R::edge, breakForm(), "How edges are broken");
    if (kind == OperationKind::Curve) form.part("curve", &R::curve, curveForm(), "How the curve is followed");
    if (kind == OperationKind::Curve || kind == OperationKind::Surface) form.part("axis", &R::axis, axisForm(), "The tool axis");
    if (holes || kind == OperationKind::Edge) form.list("holes", &R::holes, kMostShapes, holeRefForm(), "Holes").writtenWhenChanged();
    if (holes) form.part("drill", &R::drill, drillForm(), "Work in the holes");
    if (kind != OperationKind::Holes) {
        form.part("repeat", &R::repeat, repeatForm(), "The same again elsewhere");
        if (kind == OperationKind::Surface || kind == OperationKind::HoleStep) form.writtenWhenChanged();
    }
    form.part("guard", &R::guard, guardForm(), "What must not be touched");
    if (!holes) form.list("checks", &R::checks, kMostChecks, checkForm(), "Groups of faces that the cutter keeps off by amounts of their own").writtenWhenChanged();
    form.part("links", &R::link, linkForm(), "Entries, and ways between");
    form.settled([kind](R& r) { r.kind = kind; });
    return form;
}

} // namespace

const Form<Recipe>& recipeForm(OperationKind kind) {
    static const std::vector<Form<Recipe>> all = [] {
        std::vector<Form<Recipe>> forms;
        for (const KindWord& k : kKindWords) forms.push_back(made(k.kind));
        return forms;
    }();
    return all[static_cast<std::size_t>(kind)];
}

const FormInfo& recipeWords(OperationKind kind) {
    static const std::vector<FormInfo> all = [] {
        std::vector<FormInfo> infos;
        for (const KindWord& k : kKindWords) infos.push_back(recipeForm(k.kind).info());
        return infos;
    }();
    return all[static_cast<std::size_t>(kind)];
}

const Form<Recipe>& recipeForm() {
    static const Form<Recipe> form = [] {
        std::vector<const Form<Recipe>*> kinds;
        for (const KindWord& k : kKindWords) kinds.push_back(&recipeForm(k.kind));
        return Form<Recipe>::oneOf(
            "an operation", "kind", kinds, [](const Recipe& r) { return static_cast<std::size_t>(r.kind); }, 0);
    }();
    return form;
}

PatternWords patternWords(PatternBy by) { return {kindOf(by).says, kindOf(by).rails, kindOf(by).drawn}; }

std::string placesTextOf(const Recipe& r) {
    OrderedJson out = repeatForm().write(r.repeat);
    if (r.slice.any()) out["slice"] = {r.slice.number, r.slice.of, r.slice.axis, r.slice.low, r.slice.high};
    for (const WorkPlane& p : r.planes) {
        const Frame f = p.frame();
        OrderedJson numbers = OrderedJson::array();
        for (int i = 0; i < 3; ++i)
            for (int k = 0; k < 4; ++k) numbers.push_back(f.matrix()(i, k));
        out["onPlanes"].push_back({{"name", p.name}, {"frame", numbers}});
    }
    return out.dump();
}

std::string checksTextOf(const Recipe& r) {
    OrderedJson out = OrderedJson::array();
    for (const CheckFaces& c : r.checks) out.push_back(checkForm().write(c));
    return out.dump();
}

std::string keyTextOf(const Recipe& r) {
    OrderedJson words = recipeForm().write(r);
    words.erase("variant"); // which of several ways it is called changes nothing
    std::string out = words.dump() + placesTextOf(r);
    if (r.rests != 0) out += std::to_string(r.rests);
    return out;
}

} // namespace gyre
