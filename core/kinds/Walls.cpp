// Walls with the cutter's side.
#include "base/Parallel.h"
#include "geom/FindingAt.h"
#include "guard/GuardSpec.h"
#include "kinds/AlongWork.h"
#include "operation/Meant.h"
#include "operation/Scenes.h"
#include "operation/StageCache.h"
#include "pattern/PatternSpec.h"
#include "swarf/Swarf.h"
#include "swarf/SwarfSpec.h"
#include "target/Target.h"
#include "target/TargetSpec.h"
#include <fmt/format.h>
#include <set>

namespace gyre {
namespace {

// Lifts the tool along its axis where its end would enter anything but the wall; ramps of 45° lead up to such places and down again.
bool liftOffFloors(const Workplace& place, const Recipe& r, const Assembly& tool, AlongResult& work, Progress& progress) {
    const auto scene = work.ownFaces.empty() ? place.scene : withOwnFaces(place, work.ownFaces, work.ownTolerance);
    const Guard guard(tool, *scene, r.guard, r.pattern->chordTolerance);
    std::vector<std::size_t> parts;
    for (std::size_t o = 0; o < place.scene->size(); ++o)
        if ((*place.scene)[o].kind == ObstacleKind::Part && r.guard->part) parts.push_back(o);
    const double most = std::max(5.0, 2.0 * tool.cutter.diameter);
    const auto enters = [&](const AxisPose& p) { return std::any_of(parts.begin(), parts.end(), [&](std::size_t o) { return guard.overcuts(p, o); }); };
    double highest = 0.0;
    std::size_t lifted = 0;
    Vec3 where = Vec3::Zero();
    std::vector<std::vector<double>> lifts(work.passes.size());
    for (std::size_t k = 0; k < work.passes.size(); ++k) {
        const Toolpath& path = work.passes[k].path;
        auto& lift = lifts[k];
        lift.assign(path.size(), 0.0);
        if (!parallelFor(
                path.size(), 16,
                [&](std::size_t i) {
                    const auto at = [&](double up) { return AxisPose{path.tip[i] + up * path.axis[i], path.axis[i]}; };
                    if (!enters(at(0.0)) || enters(at(most))) return; // what cannot be lifted free is told by the guard
                    double low = 0.0, high = most;
                    while (high - low > 0.005) (enters(at(0.5 * (low + high))) ? low : high) = 0.5 * (low + high);
                    lift[i] = high;
                },
                &progress))
            return false;
        const std::size_t n = path.size(), rounds = work.passes[k].closed ? 2 : 1;
        for (std::size_t round = 0; round < rounds; ++round) {
            for (std::size_t i = 0; i + 1 < n; ++i) lift[i + 1] = std::max(lift[i + 1], lift[i] - (path.tip[i + 1] - path.tip[i]).norm());
            for (std::size_t i = n; i-- > 1;) lift[i - 1] = std::max(lift[i - 1], lift[i] - (path.tip[i - 1] - path.tip[i]).norm());
            if (work.passes[k].closed) lift.front() = lift.back() = std::max(lift.front(), lift.back());
        }
        for (std::size_t i = 0; i < n; ++i) {
            if (lift[i] < 0.01) continue;
            ++lifted;
            if (lift[i] > highest) {
                highest = lift[i];
                where = path.contact[i];
            }
        }
    }
    if (lifted == 0) return true;
    for (std::size_t k = 0; k < work.passes.size(); ++k)
        for (std::size_t i = 0; i < work.passes[k].path.size(); ++i) work.passes[k].path.tip[i] += lifts[k][i] * work.passes[k].path.axis[i];
    work.findings.push_back(findingAt(Rank::Look, "wall-lifted", "Pattern",
                                      fmt::format("at {} locations the tip is lifted by up to {:.2f} mm: below it the wall is not cut", lifted, highest),
                                      "the floor or an inner corner stands in its way there", where, highest, {{"Leave it down, only tell", "swarf.floor", "report"}}));
    return true;
}

/// The faces that lie between the rails of a wall: beside an edge of each.
std::vector<int> facesBetween(const Part& part, const Recipe& r) {
    const auto beside = [&](const std::vector<ShapeRef>& refs) {
        std::set<int> faces;
        if (const auto edges = resolveEdges(part, refs))
            for (const int e : *edges)
                for (const int f : part.edges()[static_cast<std::size_t>(e)].faces)
                    if (f >= 0) faces.insert(f);
        return faces;
    };
    const std::set<int> low = beside(r.pattern->rail1), high = beside(r.pattern->rail2);
    std::vector<int> both;
    std::set_intersection(low.begin(), low.end(), high.begin(), high.end(), std::back_inserter(both));
    return both;
}

// At the foot of a wall.
void cureFoot(const Recipe& r, std::vector<Finding>& findings) {
    if (r.swarf->lift) return;
    for (Finding& f : findings)
        if (f.stage == "Guard" && f.check == Check::Gouge) f.remedies.insert(f.remedies.begin(), {"Lift the tip off the floor", "swarf.floor", "lift"});
}

} // namespace

Result<AlongWork> swarfWork(const Workplace& place, const Recipe& r, const Assembly& tool, Progress& progress) {
    SwarfInput in;
    in.part = place.part.get();
    if (r.swarf->fromRails) {
        auto rails = wallRails(place, r);
        if (!rails) return tl::unexpected(rails.error());
        in.lower = std::move(rails->lower);
        in.upper = std::move(rails->upper);
    } else {
        auto faces = resolveFaces(*place.part, r.target->faces);
        if (!faces) return tl::unexpected(faces.error());
        in.faces = std::move(*faces);
    }
    in.settle = [&](AlongResult& work, Progress& going) {
        // What the wall may be off says nothing of floors and neighbours.
        work.ownFaces = r.swarf->fromRails ? facesBetween(*place.part, r) : in.faces;
        work.ownTolerance = r.swarf->tolerance;
        return !r.swarf->lift || liftOffFloors(place, r, tool, work, going);
    };
    auto made = swarf(in, r.swarf, tool, r.target->leave, r.pattern->fineness(), progress);
    if (!made) return tl::unexpected(made.error());
    const auto scene = made->ownFaces.empty() ? nullptr : withOwnFaces(place, made->ownFaces, made->ownTolerance);
    return AlongWork{std::make_shared<const AlongResult>(std::move(*made)), nullptr, scene};
}

const Definition& swarfDefinition() {
    static const Definition definition{.kind = OperationKind::Swarf,
                                       .lay = [](Stages& s) { return layAlong(s, swarfWork); },
                                       .facts = factsAlong,
                                       .drawsPasses = true,
                                       .spacing = [](const Recipe& r) { return r.swarf->stepover; },
                                       .cure = cureFoot};
    return definition;
}

} // namespace gyre
