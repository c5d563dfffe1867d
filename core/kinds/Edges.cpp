// Breaking edges.
#include "edgebreak/BreakSpec.h"
#include "edgebreak/EdgeBreak.h"
#include "kinds/AlongWork.h"
#include "machine/Reach.h"
#include "milling/MillSpec.h"
#include "operation/Meant.h"
#include "operation/Scenes.h"
#include "operation/StageCache.h"
#include "pattern/PatternSpec.h"
#include "target/Target.h"
#include "target/TargetSpec.h"
#include <fmt/format.h>

namespace gyre {
namespace {

// An axis of the user's own reaches none of the edges.
void cureEdges(const Recipe& r, std::vector<Finding>& findings) {
    if (r.edge->axis == BreakAxis::Propose) return;
    for (Finding& f : findings)
        if (f.code == "nothing-generated") f.remedies.push_back({"Propose the axis", "edge.axis", "propose"});
}

} // namespace

Result<AlongWork> edgeWork(const Workplace& place, const Recipe& r, const Assembly& tool, Progress& progress) {
    BreakInput in;
    in.part = place.part.get();
    auto edges = resolveEdges(*place.part, r.target->edges);
    if (!edges) return tl::unexpected(edges.error());
    auto faces = resolveFaces(*place.part, r.target->faces);
    if (!faces) return tl::unexpected(faces.error());
    in.edges = std::move(*edges);
    in.faces = std::move(*faces);
    std::size_t lost = 0;
    in.holes = holesMeant(place, r, lost);
    if (lost > 0) return fail(fmt::format("{} of the holes are not in the part any more", lost), {}, "Take the holes anew");
    const Kinematics kinematics(*place.machine, place.partFrame, tool.gaugeLength());
    std::shared_ptr<const Scene> scene = place.scene;
    std::shared_ptr<const Guard> guard;
    in.protect = [&](const std::vector<Strip>& strips) {
        scene = openedAlong(place, strips);
        guard = std::make_shared<const Guard>(tool, *scene, r.guard, r.pattern->chordTolerance);
    };
    in.blocked = [&](const AxisPose& pose) -> std::string {
        if (const ReachAnswer reach = reachOf(kinematics, pose.axis); !reach.reached()) return fmt::format("{} cannot point the tool there", place.machine->name);
        if (const auto hit = guard->hit(pose, Contact::Cutting)) return fmt::format("the {} comes too near to {}", zoneName(hit->zone), (*scene)[hit->obstacle].name);
        return {};
    };
    auto made = breakEdges(in, r.edge, tool, r.pattern->fineness(), progress);
    if (!made) return tl::unexpected(made.error());
    return AlongWork{std::make_shared<const AlongResult>(std::move(*made)), nullptr, scene};
}

const Definition& edgeDefinition() {
    static const Definition definition{.kind = OperationKind::Edge,
                                       .lay = [](Stages& s) { return layAlong(s, edgeWork); },
                                       .facts = factsAlong,
                                       .drawsPasses = true,
                                       .spacing = [](const Recipe& r) { return r.mill->stepover; },
                                       .cure = cureEdges};
    return definition;
}

} // namespace gyre
