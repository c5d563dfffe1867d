// One tool with one cycle in the holes of its parent.
#include "form/Form.h"
#include "holes/DrillForm.h"
#include "holes/DrillSpec.h"
#include "kinds/Kinds.h"
#include "operation/Meant.h"
#include "operation/StageCache.h"
#include "operation/StockOnTheWay.h"
#include <fmt/format.h>

namespace gyre {
namespace {

/// What the view draws: one line down every hole.
std::shared_ptr<const PatternResult> linesDown(const std::vector<Hole>& holes, const Stages& s) {
    auto pattern = std::make_shared<PatternResult>();
    for (std::size_t p = 0; p < s.out.passes->size(); ++p) {
        const Hole& h = holes[s.out.drill->holes[p]];
        Row row;
        row.points = {h.mouth + s.recipe.drill->above * h.direction, h.mouth - s.out.drill->tips[p] * h.direction};
        row.normals.assign(2, h.direction);
        row.faces.assign(2, -1);
        row.index = static_cast<int>(p);
        pattern->rows.push_back(std::move(row));
    }
    return pattern;
}

/// The cutter may enter the walls of its holes, and a cone the faces around the mouth.
std::shared_ptr<const Scene> withoutHoles(const std::vector<Hole>& holes, const Stages& s) {
    std::vector<char> own(s.place.part->faces().size(), 0);
    const bool cone = s.recipe.drill->cycle == Cycle::Spot || s.recipe.drill->cycle == Cycle::Chamfer;
    for (const Hole& h : holes)
        for (const int f : h.faces) {
            own[static_cast<std::size_t>(f)] = 1;
            if (!cone) continue;
            for (const auto& loop : s.place.part->faces()[static_cast<std::size_t>(f)].loops)
                for (const int e : loop)
                    for (const int beside : s.place.part->edges()[static_cast<std::size_t>(e)].faces)
                        if (beside >= 0) own[static_cast<std::size_t>(beside)] = 1;
        }
    const auto body = s.place.part->body() ? s.place.part->body() : s.place.part;
    TriangleMesh rest = body->mesh();
    std::vector<std::array<std::uint32_t, 3>> kept;
    for (std::size_t t = 0; t < rest.triangles.size(); ++t)
        if (!own[static_cast<std::size_t>(rest.faces[t])]) kept.push_back(rest.triangles[t]);
    rest.triangles = std::move(kept);
    rest.faces.clear();
    auto scene = std::make_shared<Scene>(*s.place.scene);
    const auto tree = std::make_shared<const MeshTree>(rest);
    for (Obstacle& o : *scene)
        if (o.kind == ObstacleKind::Part) o.forCutter = tree;
    return scene;
}

// The holes that are meant, found again by their mouths.
bool lay(Stages& s) {
    std::size_t lost = 0;
    const std::vector<Hole> holes = s.recipe.holes.empty() ? std::vector<Hole>() : holesMeant(s.place, s.recipe, lost);
    s.out.holesMeant = s.recipe.holes.size();
    if (lost > 0) {
        s.stop(Stage::Target, Error{fmt::format("{} of the holes are not in the part any more", lost), {}, "Take the holes anew", false});
        return false;
    }
    if (holes.empty()) {
        s.stop(Stage::Target, Error{"no hole is meant", {}, "Take holes in Set up", false});
        return false;
    }
    const std::string recipe = drillForm().write(s.recipe.drill).dump();
    Hash which;
    for (const HoleRef& h : s.recipe.holes) which.add(h.mouth.x()).add(h.mouth.y()).add(h.mouth.z()).add(h.turned ? 1.0 : 0.0);
    s.key = Hash().add(s.under).add(which.value()).add(recipe).add(s.tool).add(s.feed()).value();
    if (!s.take(Stage::Pattern, s.key, s.out.drill, [&]() -> Result<DrillResult> { return drillHoles(holes, s.recipe.drill, s.out.tool, s.feed()); })) return false;
    s.add(s.out.drill->findings);
    std::vector<AxisPose> over;
    for (const std::size_t i : s.out.drill->holes) over.push_back({holes[i].mouth + s.recipe.drill->above * holes[i].direction, holes[i].direction});
    s.add(rapidsEndingInStock(s.place, s.out.operation, over, s.present, s.progress));
    s.out.passes = std::shared_ptr<const std::vector<Pass>>(s.out.drill, &s.out.drill->passes);
    if (s.out.passes->empty()) {
        if (s.recipe.drill->cycle == Cycle::Spot) omit(s.out, "the tool fits none of them");
        return false;
    }
    s.out.pattern = linesDown(holes, s);
    s.scene = withoutHoles(holes, s);
    return true;
}

std::string facts(const OperationResult& r, Stage stage) {
    if (stage == Stage::Target) return r.drill ? fmt::format("{} of {} holes", r.drill->passes.size(), r.holesMeant) : "";
    if (stage == Stage::Pattern && r.drill && !r.drill->tips.empty()) {
        const auto [low, high] = std::minmax_element(r.drill->tips.begin(), r.drill->tips.end());
        const std::string deep = *high - *low < 0.005 ? fmt::format("{:.2f}", *high) : fmt::format("{:.2f} to {:.2f}", *low, *high);
        return fmt::format("tip {} mm below the mouth · {:.0f} mm from hole to hole", deep, r.drill->way);
    }
    return stage == Stage::Guard || stage == Stage::Links ? kAsAll : "";
}

} // namespace

void omit(OperationResult& out, const char* reason) {
    out.omitted = true;
    Finding f;
    f.rank = Rank::Note;
    f.code = "step-omitted";
    f.stage = stageName(Stage::Target);
    f.operation = out.operation;
    f.text = "the holes are not spotted: the step is left out";
    f.reason = reason;
    f.remedies.push_back({"Leave the step out", "active", "false"});
    out.findings.push_back(std::move(f));
}

const Definition& holeStepDefinition() {
    static const Definition definition{.kind = OperationKind::HoleStep,
                                       .lay = lay,
                                       .facts = facts,
                                       .dispensable = [](const Recipe& r) { return r.drill->cycle == Cycle::Spot; },
                                       .feedsItself = [](const Recipe& r) { return r.drill->cycle == Cycle::Tap && r.drill->pitch > 0.0; }};
    return definition;
}

const Definition& holesDefinition() {
    // The steps under it make the paths.
    static const Definition definition{.kind = OperationKind::Holes, .lay = [](Stages&) { return false; }, .facts = nullptr};
    return definition;
}

const Definition& slicesDefinition() {
    // What stands under it is worked slice by slice, see Job::worked().
    static const Definition definition{.kind = OperationKind::Slices, .lay = [](Stages&) { return false; }, .facts = nullptr};
    return definition;
}

} // namespace gyre
