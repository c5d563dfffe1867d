#include "kinds/AlongWork.h"
#include "form/Form.h"
#include "operation/RecipeForm.h"
#include "operation/StageCache.h"
#include "target/TargetSpec.h"
#include <fmt/format.h>

namespace gyre {

std::size_t bytesOf(const AlongWork& w) {
    std::size_t n = sizeof w + (w.result ? bytesOf(*w.result) : 0) + (w.axis ? bytesOf(*w.axis) : 0);
    if (w.scene)
        for (const Obstacle& o : *w.scene) n += 200 * o.tree.size();
    return n;
}

bool layAlong(Stages& s, WorkAlong laid) {
    if (!s.recipe.target->faces.empty() && !s.pickFaces()) return false;
    const OrderedJson whole = recipeForm().write(s.recipe);
    Hash all;
    all.add(s.under).add(s.tool).add(s.recipe.rests);
    for (const char* part : {"kind", "target", "pattern", "swarf", "curve", "edge", "axis", "holes", "guard"})
        if (whole.contains(part)) all.add(whole[part].dump());
    s.key = all.value();
    std::shared_ptr<const AlongWork> work;
    {
        const Progress::Span span(s.progress, 0.0, 0.3);
        if (!s.take(Stage::Pattern, s.key, work, [&] { return laid(s.place, s.recipe, s.out.tool, s.progress); })) return false;
    }
    s.out.along = work->result;
    s.out.axis = work->axis;
    s.add(s.out.along->findings);
    if (s.out.axis) s.add(s.out.axis->findings);
    s.out.passes = std::shared_ptr<const std::vector<Pass>>(s.out.along, &s.out.along->passes);
    if (work->scene) s.scene = work->scene;
    return true;
}

std::string factsAlong(const OperationResult& r, Stage stage) {
    if (stage == Stage::Guard || stage == Stage::Links) return kAsAll;
    if (!r.along) return "";
    if (stage == Stage::Axis) return fmt::format("steepest turn {:.2f}°/mm", r.along->steepest);
    return stage == Stage::Target ? r.along->what : r.along->how;
}

} // namespace gyre
