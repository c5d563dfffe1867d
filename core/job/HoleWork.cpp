#include "job/HoleWork.h"
#include "job/MillWork.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {
namespace {

// Of drills the widest that goes in; of cones one made for the work, as slim as will do.
std::string toolFor(const Job& job, Cycle cycle, const Hole& hole) {
    const bool cone = cycle == Cycle::Spot || cycle == Cycle::Chamfer;
    std::string best;
    double most = -1.0;
    for (const Assembly& a : job.tools) {
        const CutterShape shape = a.cutter.shape;
        if (cone ? shape != CutterShape::Spot && shape != CutterShape::Chamfer : shape != CutterShape::Drill) continue;
        DrillSpec spec;
        spec.cycle = cycle;
        if (!holeDepth(hole, spec, a).questions.empty()) continue;
        const bool made = shape == (cycle == Cycle::Spot ? CutterShape::Spot : CutterShape::Chamfer);
        const double fit = cone ? (made ? 1.0 : 0.0) + 1.0 / (1.0 + a.cutter.diameter) : a.cutter.diameter;
        if (fit > most) {
            most = fit;
            best = a.id;
        }
    }
    return best;
}

Recipe stepOf(const Job& job, const std::string& id, const Recipe& parent, Cycle cycle, const Hole& hole) {
    Recipe step;
    step.id = id;
    step.kind = OperationKind::HoleStep;
    step.parent = parent.id;
    step.drill.cycle = cycle;
    step.tool = toolFor(job, cycle, hole);
    if (const Assembly* tool = job.tool(step.tool)) {
        step.drill.peck = std::max(0.5, std::round(2.0 * tool->cutter.diameter) / 2.0);
        if (cycle == Cycle::Drill && hole.depth > 4.0 * tool->cutter.diameter) step.drill.cycle = Cycle::Peck; // deep ones must be cleared of chips
    }
    step.name = cycleName(step.drill.cycle);
    step.name[0] = static_cast<char>(step.name[0] - 'a' + 'A');
    return step;
}

std::string idAfter(const Job& job, std::size_t more) {
    for (std::size_t i = job.route.size() + 1;; ++i)
        if (const std::string id = fmt::format("op{}", i); !job.operation(id) && more-- == 0) return id;
}

} // namespace

std::vector<Hole> wantedHoles(const Job& job, const Workplace& place) {
    std::vector<Hole> all = place.holes;
    for (Hole& h : all)
        if (const HoleMark* m = job.markOf(h); m && m->turned) h = reversed(h);
    return all;
}

std::vector<Recipe> proposeHoleWork(const Job& job, const Workplace& place, const HoleGroup& group) {
    if (group.holes.empty()) return {};
    Recipe parent;
    parent.id = idAfter(job, 0);
    parent.kind = OperationKind::Holes;
    const std::vector<Hole> wanted = wantedHoles(job, place);
    std::vector<Hole> meant;
    for (const std::size_t i : group.holes) {
        parent.holes.push_back({place.holes[i].mouth, place.holes[i].diameter()});
        meant.push_back(wanted[i]);
    }
    parent.name = fmt::format("{} × Ø{:.4g}", group.holes.size(), meant.front().diameter());
    parent.link.entryRadius = 0.0;
    parent.link.approach = 0.0;
    parent.link.low = true;
    std::vector<Vec3> directions;
    for (const Hole& h : meant) directions.push_back(h.direction);
    parent.link.skin = skinAround(place, directions, false);
    return {parent, stepOf(job, idAfter(job, 1), parent, Cycle::Spot, meant.front()), stepOf(job, idAfter(job, 2), parent, Cycle::Drill, meant.front())};
}

Recipe proposeHoleStep(const Job& job, const Workplace& place, const Recipe& parent, Cycle cycle) {
    Hole one;
    for (const Hole& h : place.holes)
        if (!parent.holes.empty() && (h.mouth - parent.holes.front().mouth).norm() < 0.05) one = h;
    return stepOf(job, idAfter(job, 0), parent, cycle, one);
}

} // namespace gyre
