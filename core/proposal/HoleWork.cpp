#include "proposal/HoleWork.h"
#include "base/Units.h"
#include "holes/Drill.h"
#include "holes/DrillSpec.h"
#include "link/LinkSpec.h"
#include "machine/Reach.h"
#include "operation/Workplace.h"
#include "proposal/BestTool.h"
#include "proposal/MillWork.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {
namespace {

bool suits(const Hole& hole, Cycle cycle, const Assembly& a) {
    DrillSpec spec;
    spec.cycle = cycle;
    return holeDepth(hole, spec, a).questions.empty();
}

// Of drills the widest that goes to the bottom; of cones one made for the work, as slim as will do.
std::string toolFor(const Job& job, Cycle cycle, const Hole& hole) {
    return bestTool(job, [&](const Assembly& a) -> std::optional<double> {
        const CutterShape shape = a.cutter.shape;
        if (cycle == Cycle::Spot || cycle == Cycle::Chamfer) {
            // Into the full only what cuts to its middle.
            if (cycle == Cycle::Spot && shape == CutterShape::Chamfer && a.cutter.tipDiameter > 0.1) return std::nullopt;
            if ((shape != CutterShape::Spot && shape != CutterShape::Chamfer) || !suits(hole, cycle, a)) return std::nullopt;
            return (shape == (cycle == Cycle::Spot ? CutterShape::Spot : CutterShape::Chamfer) ? 1.0 : 0.0) + 1.0 / (1.0 + a.cutter.diameter);
        }
        // What is wider than the hole's narrowest part would stop at a step.
        if (shape != CutterShape::Drill || a.cutter.diameter > hole.diameter() + 0.02 || !suits(hole, cycle, a)) return std::nullopt;
        return a.cutter.diameter;
    });
}

/// A wider step of a hole with a floor: the flat-ended tool that is as wide as the step, or nearly.
std::string toolForStep(const Job& job, const Hole& hole, double diameter) {
    constexpr double kNearly = 0.9;
    return bestTool(job, [&](const Assembly& a) -> std::optional<double> {
        const double d = a.cutter.diameter;
        if (a.cutter.shape != CutterShape::Flat || d > diameter + 0.02 || d < kNearly * diameter || d <= hole.diameter() + 0.02 || !suits(hole, Cycle::Bore, a))
            return std::nullopt;
        return d;
    });
}

/// A cone at the mouth that is the model's own: a chamfer or countersink.
bool hasChamfer(const Hole& hole) {
    return hole.sections.size() > 1 && hole.sections.front().cone() && hole.sections.front().fromRadius > hole.sections.front().toRadius;
}

Recipe stepOf(const Job& job, const std::string& id, const Recipe& parent, Cycle cycle, const Hole& hole) {
    Recipe step;
    step.id = id;
    step.kind = OperationKind::HoleStep;
    step.parent = parent.id;
    step.drill->cycle = cycle;
    step.tool = toolFor(job, cycle, hole);
    if (const Assembly* tool = job.tool(step.tool)) {
        step.drill->peck = std::max(0.5, std::round(2.0 * tool->cutter.diameter) / 2.0);
        if (cycle == Cycle::Drill && hole.depth > 4.0 * tool->cutter.diameter) step.drill->cycle = Cycle::Peck; // deep ones must be cleared of chips
    }
    step.name = cycleName(step.drill->cycle);
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

void turnToReach(Job& job, const Workplace& place) {
    if (!place.machine) return;
    const Kinematics kinematics(*place.machine, place.partFrame, 100.0);
    const Vec3 upright = kinematics.forward(JointValues(kinematics.joints(), 0.0)).axis;
    const auto liking = [&](const Vec3& direction) { return reachOf(kinematics, direction).reached() ? 2.0 + direction.dot(upright) : 0.0; };
    constexpr double kBetter = 0.1;
    for (const Hole& h : place.holes) {
        if (h.bottom != HoleBottom::Through || !h.airBehind || job.markOf(h)) continue;
        const bool stepped = std::abs(h.sections.front().fromRadius - h.sections.back().toRadius) > 1e-3;
        const double here = liking(h.direction), there = liking(-h.direction);
        if ((here == 0.0 && there > 0.0) || (!stepped && there > here + kBetter)) job.mark(h).turned = true;
    }
}

HoleProposal proposeHoleWork(const Job& job, const Workplace& place, const HoleGroup& group) {
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
    parent.link->entryRadius = 0.0;
    parent.link->approach = 0.0;
    parent.link->low = true;
    std::vector<Vec3> directions;
    for (const Hole& h : meant) directions.push_back(h.direction);
    parent.link->skin = skinAround(place, directions, false);
    HoleProposal out{{parent}, {}};
    const Hole& hole = meant.front();
    const auto add = [&](Cycle cycle) -> Recipe& { return out.work.emplace_back(stepOf(job, idAfter(job, out.work.size()), parent, cycle, hole)); };
    if (toolFor(job, Cycle::Spot, hole).empty())
        out.notes.push_back(parent.name + ": no spot drill of the job suits, so there is no spot step");
    else
        add(Cycle::Spot);
    add(Cycle::Drill);
    // Wider steps from the inside out, each with a tool that has its floor's shape.
    for (auto s = hole.sections.rbegin(); s != hole.sections.rend(); ++s) {
        const double diameter = 2.0 * s->fromRadius;
        if (s->cone() || diameter <= hole.diameter() + 0.05) continue;
        if (const std::string tool = toolForStep(job, hole, diameter); !tool.empty()) {
            Recipe& r = add(Cycle::Bore);
            r.tool = tool;
            r.name = fmt::format("Counterbore Ø{:.4g}", diameter);
        } else {
            out.notes.push_back(fmt::format("{}: no flat tool of the job is as wide as the step Ø{:.4g}; mill it as a bore", parent.name, diameter));
        }
    }
    if (hasChamfer(hole)) {
        const HoleSection& c = hole.sections.front();
        const double angle = 2.0 * degrees(std::atan2(c.fromRadius - c.toRadius, c.to - c.from));
        const auto cut = [&](const std::string& id) {
            const Assembly* a = job.tool(id);
            return a && std::abs(a->cutter.pointDegrees - angle) < 1.0;
        };
        const Assembly* spot = out.work[1].drill->cycle == Cycle::Spot ? job.tool(out.work[1].tool) : nullptr;
        if (spot && cut(spot->id) && holeDepth(hole, out.work[1].drill, *spot).tip > (c.fromRadius - 0.01) / std::tan(0.5 * radians(angle)))
            return out; // spotting makes it
        if (const std::string tool = toolFor(job, Cycle::Chamfer, hole); cut(tool))
            add(Cycle::Chamfer).name = fmt::format("Countersink {:.0f}°", angle);
        else
            out.notes.push_back(fmt::format("{}: no cone of the job has the countersink's {:.0f}° and Ø{:.4g}", parent.name, angle, 2.0 * c.fromRadius));
    }
    return out;
}

Recipe proposeHoleStep(const Job& job, const Workplace& place, const Recipe& parent, Cycle cycle) {
    Hole one;
    for (const Hole& h : place.holes)
        if (!parent.holes.empty() && (h.mouth - parent.holes.front().mouth).norm() < 0.05) one = h;
    return stepOf(job, idAfter(job, 0), parent, cycle, one);
}

} // namespace gyre
