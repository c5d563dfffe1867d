// Along walls, curves and edges.
#include "form/Form.h"
#include "operation/Definition.h"
#include "operation/FollowWork.h"
#include "operation/RecipeForm.h"
#include <fmt/format.h>

namespace gyre {

std::size_t bytesOf(const FollowWork& w) {
    std::size_t n = sizeof w + (w.result ? bytesOf(*w.result) : 0) + (w.axis ? bytesOf(*w.axis) : 0);
    if (w.scene)
        for (const Obstacle& o : *w.scene) n += 200 * o.tree.size();
    return n;
}

namespace {

bool lay(Stages& s) {
    if (!s.recipe.target.faces.empty() && !s.pickFaces()) return false;
    const OrderedJson whole = recipeForm().write(s.recipe);
    Hash all;
    all.add(s.under).add(s.tool).add(s.recipe.rests);
    for (const char* part : {"kind", "target", "pattern", "swarf", "curve", "edge", "axis", "holes", "guard"})
        if (whole.contains(part)) all.add(whole[part].dump());
    s.key = all.value();
    std::shared_ptr<const FollowWork> work;
    {
        const Progress::Span span(s.progress, 0.0, 0.3);
        if (!s.take(Stage::Pattern, s.key, work, [&] { return followFor(s.place, s.recipe, s.out.tool, s.progress); })) return false;
    }
    s.out.follow = work->result;
    s.out.axis = work->axis;
    s.add(s.out.follow->findings);
    if (s.out.axis) s.add(s.out.axis->findings);
    s.out.passes = std::shared_ptr<const std::vector<Pass>>(s.out.follow, &s.out.follow->passes);
    if (work->scene) s.scene = work->scene;
    return true;
}

std::string facts(const OperationResult& r, Stage stage) {
    if (stage == Stage::Guard || stage == Stage::Links) return kAsAll;
    if (!r.follow) return "";
    if (stage == Stage::Axis) return fmt::format("steepest turn {:.2f}°/mm", r.follow->steepest);
    return stage == Stage::Target ? r.follow->what : r.follow->how;
}

// At the foot of a wall.
void cureFoot(const Recipe& r, std::vector<Finding>& findings) {
    if (r.swarf.lift) return;
    for (Finding& f : findings)
        if (f.stage == "Guard" && f.check == Check::Gouge) f.remedies.insert(f.remedies.begin(), {"Lift the tip off the floor", "swarf.floor", "lift"});
}

// An axis of the user's own reaches none of the edges.
void cureEdges(const Recipe& r, std::vector<Finding>& findings) {
    if (r.edge.axis == BreakAxis::Propose) return;
    for (Finding& f : findings)
        if (f.code == "nothing-generated") f.remedies.push_back({"Propose the axis", "edge.axis", "propose"});
}

double curveDepth(const Recipe& r) { return r.curve.by != CurveBy::Channel && r.curve.depth > 0.0 ? r.curve.depth + kHair : 0.0; }

double millStep(const Recipe& r) { return r.mill.stepover; }

} // namespace

const Definition& swarfDefinition() {
    static const Definition definition{
        .kind = OperationKind::Swarf, .lay = lay, .facts = facts, .drawsPasses = true, .spacing = [](const Recipe& r) { return r.swarf.stepover; }, .cure = cureFoot};
    return definition;
}

const Definition& curveDefinition() {
    static const Definition definition{
        .kind = OperationKind::Curve, .lay = lay, .facts = facts, .drawsPasses = true, .meantDepth = curveDepth, .spacing = millStep, .locks = true};
    return definition;
}

const Definition& edgeDefinition() {
    static const Definition definition{.kind = OperationKind::Edge, .lay = lay, .facts = facts, .drawsPasses = true, .spacing = millStep, .cure = cureEdges};
    return definition;
}

} // namespace gyre
