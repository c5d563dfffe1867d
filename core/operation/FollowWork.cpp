#include "operation/FollowWork.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "follow/Told.h"
#include "machine/Reach.h"
#include "operation/MillInput.h"
#include <fmt/format.h>
#include <set>

namespace gyre {
namespace {

Result<AimedAt> aimedAt(const Workplace& place, const AxisAim& aim) {
    AimedAt at;
    at.part = place.part.get();
    if (aim.rule == AxisRule::Normals) {
        auto faces = resolveFaces(*place.part, aim.faces);
        if (!faces) return tl::unexpected(faces.error());
        at.faces = std::move(*faces);
    }
    if (aim.rule != AxisRule::Curve && aim.rule != AxisRule::Lines) return at;
    auto edges = resolveEdges(*place.part, aim.edges);
    if (!edges) return tl::unexpected(edges.error());
    if (!aim.curve.empty()) {
        const auto named = curvesNamed(place, aim.curve);
        if (!named) return tl::unexpected(named.error());
        if (named->flat) return fail("the drawing '" + aim.curve + "' lies flat on a sheet, not in space", "Axis", "Choose a curve in space");
        at.curves = named->curves;
    }
    if (aim.rule == AxisRule::Lines) { // each by itself; chains of a drawing are taken apart at their knots
        std::vector<Curve> lines;
        for (const Curve& c : at.curves)
            for (std::size_t i = 0; i < c.pieces(); ++i) lines.push_back(straightLines({c.at(i, 0.0), c.at(i, 1.0)}));
        for (const int e : *edges)
            lines.push_back(straightLines({place.part->edges()[static_cast<std::size_t>(e)].start, place.part->edges()[static_cast<std::size_t>(e)].end}));
        at.curves = std::move(lines);
        return at;
    }
    if (!edges->empty()) {
        auto chains = curvesOf(*place.part, *edges);
        if (!chains) return tl::unexpected(chains.error());
        at.curves.insert(at.curves.end(), chains->begin(), chains->end());
    }
    return at;
}

/// The direction nearest to a wanted one that the machine takes with one rotary joint held; inside of the window before all.
std::function<Vec3(const Vec3&, double, double)> lockedTo(const Kinematics& kinematics, std::size_t joint, double angle) {
    const auto k = std::make_shared<const Kinematics>(kinematics);
    const auto& rotaries = k->rotaries();
    std::size_t free = joint;
    for (const int r : rotaries)
        if (static_cast<std::size_t>(r) != joint) free = static_cast<std::size_t>(r);
    return [k, joint, angle, free](const Vec3& wanted, double lowest, double highest) {
        JointValues q(k->joints(), 0.0);
        q[joint] = angle;
        const auto at = [&](double t) {
            if (free != joint) q[free] = t;
            return k->forward(q).axis;
        };
        if (free == joint) return at(0.0);
        constexpr double kOutside = 1e3; // a degree outside of the window is worse than any that is off the wanted one
        const auto off = [&](double t) {
            const Vec3 a = at(t);
            const double up = angleBetween(a, Vec3::UnitZ());
            return angleBetween(a, wanted) + kOutside * std::max({0.0, lowest - up, up - highest});
        };
        constexpr int kSteps = 180;
        double best = 0.0, least = 1e300;
        for (int i = 0; i < kSteps; ++i) {
            const double t = 2.0 * kPi * i / kSteps - kPi;
            if (const double d = off(t); d < least) {
                least = d;
                best = t;
            }
        }
        double low = best - 2.0 * kPi / kSteps, high = best + 2.0 * kPi / kSteps;
        constexpr double kGolden = 0.6180339887498949;
        for (int i = 0; i < 60; ++i) {
            const double a = high - kGolden * (high - low), b = low + kGolden * (high - low);
            if (off(a) < off(b))
                high = b;
            else
                low = a;
        }
        return at(0.5 * (low + high));
    };
}

// Lifts the tool along its axis where its end would enter anything but the wall; ramps of 45° lead up to such places and down again.
bool liftOffFloors(const Workplace& place, const Recipe& r, const Assembly& tool, FollowResult& work, Progress& progress) {
    const auto scene = work.ownFaces.empty() ? place.scene : withOwnFaces(place, work.ownFaces, work.ownTolerance);
    const Guard guard(tool, *scene, r.guard, r.pattern.chordTolerance);
    std::vector<std::size_t> parts;
    for (std::size_t o = 0; o < place.scene->size(); ++o)
        if ((*place.scene)[o].kind == ObstacleKind::Part && r.guard.part) parts.push_back(o);
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
    work.findings.push_back(toldAt(Rank::Look, "wall-lifted", "Pattern",
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
    const std::set<int> low = beside(r.pattern.rail1), high = beside(r.pattern.rail2);
    std::vector<int> both;
    std::set_intersection(low.begin(), low.end(), high.begin(), high.end(), std::back_inserter(both));
    return both;
}

Result<FollowWork> swarfFor(const Workplace& place, const Recipe& r, const Assembly& tool, Progress& progress) {
    SwarfInput in;
    in.part = place.part.get();
    if (r.swarf.fromRails) {
        auto rails = wallRails(place, r);
        if (!rails) return tl::unexpected(rails.error());
        in.lower = std::move(rails->lower);
        in.upper = std::move(rails->upper);
    } else {
        auto faces = resolveFaces(*place.part, r.target.faces);
        if (!faces) return tl::unexpected(faces.error());
        in.faces = std::move(*faces);
    }
    in.settle = [&](FollowResult& work, Progress& going) {
        // What the wall may be off says nothing of floors and neighbours.
        work.ownFaces = r.swarf.fromRails ? facesBetween(*place.part, r) : in.faces;
        work.ownTolerance = r.swarf.tolerance;
        return !r.swarf.lift || liftOffFloors(place, r, tool, work, going);
    };
    auto made = swarf(in, r.swarf, tool, r.target.leave, r.pattern.chordTolerance, r.pattern.longestStep, progress);
    if (!made) return tl::unexpected(made.error());
    const auto scene = made->ownFaces.empty() ? nullptr : withOwnFaces(place, made->ownFaces, made->ownTolerance);
    return FollowWork{std::make_shared<const FollowResult>(std::move(*made)), nullptr, scene};
}

Result<FollowWork> curveFor(const Workplace& place, const Recipe& r, const Assembly& tool, Progress& progress) {
    GuideInput in;
    in.part = place.part.get();
    auto faces = resolveFaces(*place.part, r.target.faces);
    if (!faces) return tl::unexpected(faces.error());
    if (r.curve.by == CurveBy::Channel) {
        if (faces->empty()) return fail("no channel is picked", {}, "Click its faces");
        PatternSpec one = r.pattern;
        one.byScallop = false;
        one.ends = RowEnds::HalfStepIn;
        one.spacing = 1000.0; // a single row, half way between the rails
        if (one.rail1.empty() || one.rail2.empty()) {
            const auto rails = proposeRails(*place.part, *faces);
            if (!rails) return tl::unexpected(rails.error());
            one.rail1.clear();
            one.rail2.clear();
            for (const int e : rails->first.edges) one.rail1.push_back(place.part->edgeRef(e));
            for (const int e : rails->second.edges) one.rail2.push_back(place.part->edgeRef(e));
        }
        auto rows = layRows(*place.part, *faces, one, contactRadius(tool.cutter), progress);
        if (!rows) return tl::unexpected(rows.error());
        in.channel = std::move(rows->rows);
        for (std::size_t i = 0; i < in.channel.size(); ++i) in.channel[i].returning = false;
    } else {
        in.faces = std::move(*faces);
        auto edges = resolveEdges(*place.part, r.target.edges);
        if (!edges) return tl::unexpected(edges.error());
        auto curves = curvesOf(*place.part, *edges);
        if (!curves) return tl::unexpected(curves.error());
        in.curves = std::move(*curves);
        for (const std::string& name : r.target.drawings) {
            const auto named = curvesNamed(place, name);
            if (!named) return tl::unexpected(named.error());
            if (named->flat) return fail("the drawing '" + name + "' lies flat on a sheet", {}, "Put it on a plane or wrap it in Set up first");
            in.curves.insert(in.curves.end(), named->curves.begin(), named->curves.end());
        }
    }
    auto rows = guideRows(in, r.curve, r.pattern.chordTolerance, r.pattern.longestStep);
    if (!rows) return tl::unexpected(rows.error());
    const auto help = axisHelp(place, r, tool);
    if (!help) return tl::unexpected(help.error());
    auto axes = setAxes(*rows, r.axis, tool.cutter, *help);
    if (!axes) return tl::unexpected(axes.error());
    auto made = guidedPasses(*rows, *axes, r.curve, tool, r.target.leave, r.pattern.chordTolerance);
    if (!made) return tl::unexpected(made.error());
    return FollowWork{std::make_shared<const FollowResult>(std::move(*made)), std::make_shared<const AxisResult>(std::move(*axes)), nullptr};
}

Result<FollowWork> breakFor(const Workplace& place, const Recipe& r, const Assembly& tool, Progress& progress) {
    BreakInput in;
    in.part = place.part.get();
    auto edges = resolveEdges(*place.part, r.target.edges);
    if (!edges) return tl::unexpected(edges.error());
    auto faces = resolveFaces(*place.part, r.target.faces);
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
        guard = std::make_shared<const Guard>(tool, *scene, r.guard, r.pattern.chordTolerance);
    };
    in.blocked = [&](const AxisPose& pose) -> std::string {
        if (const ReachAnswer reach = reachOf(kinematics, pose.axis); !reach.reached()) return fmt::format("{} cannot point the tool there", place.machine->name);
        if (const auto hit = guard->hit(pose, Contact::Cutting)) return fmt::format("the {} comes too near to {}", zoneName(hit->zone), (*scene)[hit->obstacle].name);
        return {};
    };
    auto made = breakEdges(in, r.edge, tool, r.pattern.chordTolerance, r.pattern.longestStep, progress);
    if (!made) return tl::unexpected(made.error());
    return FollowWork{std::make_shared<const FollowResult>(std::move(*made)), nullptr, scene};
}

} // namespace

std::shared_ptr<const Scene> openedAlong(const Workplace& place, const std::vector<Strip>& strips) {
    const auto body = place.part->body() ? place.part->body() : place.part;
    const auto tree = std::make_shared<const MeshTree>(withoutStrips(body->mesh(), strips));
    auto scene = std::make_shared<Scene>(*place.scene);
    for (Obstacle& o : *scene)
        if (o.kind == ObstacleKind::Part) o.forCutter = tree;
    return scene;
}

std::shared_ptr<const Scene> withOwnFaces(const Workplace& place, const std::vector<int>& faces, double tolerance) {
    const auto body = place.part->body() ? place.part->body() : place.part;
    std::vector<char> own(body->faces().size(), 0);
    for (const int f : faces)
        if (static_cast<std::size_t>(f) < own.size()) own[static_cast<std::size_t>(f)] = 1; // faces that mends made are no part of the body
    TriangleMesh mine = body->mesh(), rest = mine;
    mine.triangles.clear();
    rest.triangles.clear();
    const TriangleMesh& all = body->mesh();
    for (std::size_t t = 0; t < all.triangles.size(); ++t) (own[static_cast<std::size_t>(all.faces[t])] ? mine : rest).triangles.push_back(all.triangles[t]);
    mine.faces.clear();
    rest.faces.clear();
    auto scene = std::make_shared<Scene>(*place.scene);
    for (Obstacle& o : *scene)
        if (o.kind == ObstacleKind::Part) {
            o.forCutter = std::make_shared<const MeshTree>(rest);
            o.own = std::make_shared<const MeshTree>(mine);
            o.ownTolerance = tolerance;
        }
    return scene;
}

std::vector<int> movedFaces(const Part& part, const std::vector<int>& faces, const std::vector<Frame>& moves) {
    std::set<int> out;
    for (const Frame& move : moves)
        for (const int f : faces) {
            const FaceInfo& from = part.faces()[static_cast<std::size_t>(f)];
            for (std::size_t other = 0; other < part.faces().size(); ++other) {
                const FaceInfo& to = part.faces()[other];
                const bool same = (move * from.centre - to.centre).norm() < 0.05 && std::abs(from.area - to.area) < 1e-3 * (1.0 + from.area);
                if (same) out.insert(static_cast<int>(other));
            }
        }
    return {out.begin(), out.end()};
}

std::vector<Strip> movedStrips(const std::vector<Strip>& strips, const std::vector<Frame>& moves) {
    std::vector<Strip> out;
    for (const Frame& move : moves)
        for (Strip s : strips) {
            for (Vec3& p : s.line) p = move * p;
            out.push_back(std::move(s));
        }
    return out;
}

Result<WallRails> wallRails(const Workplace& place, const Recipe& recipe) {
    WallRails out;
    for (const bool upper : {false, true}) {
        auto edges = resolveEdges(*place.part, upper ? recipe.pattern.rail2 : recipe.pattern.rail1);
        if (!edges) return tl::unexpected(edges.error());
        if (edges->empty()) return fail(upper ? "no upper rail is picked" : "no lower rail is picked", {}, "Click its edges in the view");
        auto chains = curvesOf(*place.part, *edges);
        if (!chains) return tl::unexpected(chains.error());
        if (chains->size() != 1)
            return fail(fmt::format("the edges of the {} rail do not hang together", upper ? "upper" : "lower"), {}, "Pick edges that follow each other");
        (upper ? out.upper : out.lower) = std::move(chains->front());
    }
    out.upper = alignedWith(out.lower, out.upper);
    return out;
}

Result<AxisHelp> axisHelp(const Workplace& place, const Recipe& recipe, const Assembly& tool) {
    AxisHelp help(rotaryLine(*place.machine, place.partFrame));
    auto first = aimedAt(place, recipe.axis);
    if (!first) return tl::unexpected(first.error());
    help.first = std::move(*first);
    if (recipe.axis.blended) {
        auto last = aimedAt(place, recipe.axis.last);
        if (!last) return tl::unexpected(last.error());
        help.last = std::move(*last);
    }
    const Kinematics kinematics(*place.machine, place.partFrame, tool.gaugeLength());
    help.pole = poleOf(kinematics);
    if (recipe.axis.locked.empty()) return help;
    const auto& joints = place.machine->joints;
    for (std::size_t j = 0; j < joints.size(); ++j)
        if (joints[j].name == recipe.axis.locked && joints[j].kind == JointKind::Rotary) help.locked = lockedTo(kinematics, j, radians(recipe.axis.lockedDegrees));
    return help;
}

std::vector<Hole> holesMeant(const Workplace& place, const Recipe& recipe, std::size_t& lost) {
    lost = 0;
    if (recipe.holes.empty()) return place.holes;
    std::vector<Hole> holes;
    for (const HoleRef& ref : recipe.holes) {
        const auto it = std::find_if(place.holes.begin(), place.holes.end(),
                                     [&](const Hole& h) { return (h.mouth - ref.mouth).norm() < 0.05 && std::abs(h.diameter() - ref.diameter) < 0.05; });
        if (it == place.holes.end())
            ++lost;
        else
            holes.push_back(ref.turned ? reversed(*it) : *it);
    }
    return holes;
}

Result<FollowWork> followFor(const Workplace& place, const Recipe& recipe, const Assembly& tool, Progress& progress) {
    switch (recipe.kind) {
    case OperationKind::Swarf:
        return swarfFor(place, recipe, tool, progress);
    case OperationKind::Curve:
        return curveFor(place, recipe, tool, progress);
    default:
        return breakFor(place, recipe, tool, progress);
    }
}

} // namespace gyre
