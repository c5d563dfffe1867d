// Demo jobs along walls, curves and edges: collar, horn guide, dome, yoke and runner.
#include "DemoJobs.h"
#include "Route.h"
#include "Workshop.h"
#include "axis/AxisSpec.h"
#include "guard/GuardSpec.h"
#include "guided/CurveSpec.h"
#include "holes/DrillSpec.h"
#include "link/LinkSpec.h"
#include "milling/MillSpec.h"
#include "operation/Repeat.h"
#include "pattern/PatternSpec.h"
#include "proposal/NewJob.h"
#include "swarf/Swarf.h"
#include "swarf/SwarfSpec.h"
#include "target/Target.h"
#include "target/TargetSpec.h"
#include <cmath>
#include <cstdio>
#include <tuple>

namespace gyre::demo {
namespace {

std::string addDisc(Job& job) {
    Assembly disc = *job.tool("flat-10");
    disc.id = "disc-16";
    disc.name = "Flat 16 on a neck of 6";
    disc.cutter.diameter = 16.0;
    disc.cutter.fluteLength = 12.0;
    disc.cutter.shoulderLength = 50.0;
    disc.cutter.neckDiameter = 6.0;
    disc.cutter.shankDiameter = 10.0;
    disc.cutter.overallLength = 110.0;
    disc.stickOut = 66.0;
    disc.spindleSpeed = 4000.0;
    job.tools.push_back(disc);
    return disc.id;
}

// All nine lobes of the leaning inner wall, right round: what stands before it is taken over instead of down, then the wall itself. (Outside,
// the lip stands over the wall: no straight side passes it.)
bool makeCollar(const std::filesystem::path& folder) {
    Route r(folder, "lantern-collar");
    r.job.name = "Lantern collar, walls";
    r.job.route.clear();
    if (!r.place()) return false;
    const std::vector<int> wall = facesThat(r.part(), [](const FaceInfo& f) {
        return f.kind == SurfaceKind::FreeForm && f.bounds.high.z() - f.bounds.low.z() > 40.0 && f.normal.dot(Vec3(f.centre.x(), f.centre.y(), 0)) < 0.0;
    });
    if (wall.empty()) return false;
    Recipe& before = r.follow(OperationKind::Swarf, "Wall, stepped over", wallFaces(r.part(), wall.front()));
    before.swarf->thickness = 3.0;
    before.swarf->stepover = 1.0;
    before.target->leave = 0.2;
    r.follow(OperationKind::Swarf, "Wall", wallFaces(r.part(), wall.front()));
    // Outside, below the lip, the wall leans over the tool: an undercut, taken with a cutter that is wider than its neck. It goes in sideways and comes
    // out sideways; the upper rail is a line half way up the wall, since above it the lobes are too hollow for so wide a cutter.
    const std::vector<int> outside = facesThat(r.part(), [](const FaceInfo& f) {
        return f.kind == SurfaceKind::FreeForm && std::abs(f.bounds.low.z() - 14.0) < 0.5 && std::abs(f.bounds.high.z() - 40.0) < 0.5;
    });
    Mend half;
    half.kind = MendKind::GridLine;
    half.name = "half way up";
    half.numbers = {{"along", 0}, {"at", 50}};
    for (const int f : outside) half.faces.push_back(r.part().faceRef(f));
    r.job.mends.push_back(half);
    if (!r.place()) return false;
    std::vector<ShapeRef> lower, upper;
    for (int e = 0; e < static_cast<int>(r.part().edges().size()); ++e) {
        const EdgeInfo& i = r.part().edges()[static_cast<std::size_t>(e)];
        const bool below = std::any_of(outside.begin(), outside.end(), [&](int f) { return i.faces[0] == f || i.faces[1] == f; }) && std::abs(i.middle.z() - 14.0) < 0.3;
        if (e >= r.part().bodyEdges() || (below && i.length > 8.0)) (e >= r.part().bodyEdges() ? upper : lower).push_back(r.part().edgeRef(e));
    }
    const std::string tool = addDisc(r.job);
    for (const bool last : {false, true}) {
        Recipe& under = r.follow(OperationKind::Swarf, last ? "Undercut" : "Undercut, stepped over");
        under.tool = tool;
        under.swarf->fromRails = true;
        under.pattern->rail1 = lower;
        under.pattern->rail2 = upper;
        under.swarf->past = -5.5; // clear of the clamps; below, a fillet begins
        under.target->leave = last ? 0.0 : 0.2;
        if (!last) {
            under.swarf->thickness = 3.0;
            under.swarf->stepover = 1.0;
        }
        under.guard->shankClearance = 0.5;
        under.guard->gougeTolerance = 0.03; // where lobes meet the disc takes 0.04 off the next one
        under.link->entryRadius = 10.0;
        under.link->skin = {SkinKind::Plane, 75.0};
    }
    return r.save("collar-walls");
}

// One row down the channel with the axis through a curve above it, then rows on both cheeks.
bool makeHorn(const std::filesystem::path& folder) {
    Route r(folder, "horn-setup");
    r.job.name = "Horn guide";
    if (!r.place()) return false;
    const auto floor = facesThat(r.part(), [](const FaceInfo& f) { return f.kind == SurfaceKind::FreeForm && f.area > 2500.0 && f.normal.z() > 0.9; });
    if (floor.size() != 1) return false;
    Mend deep; // the line down the channel's middle; the axis goes by one high above it
    deep.kind = MendKind::GridLine;
    deep.name = "down the channel";
    deep.faces = {r.part().faceRef(floor.front())};
    deep.numbers = {{"along", 1}};
    r.job.mends.push_back(deep);
    Mend high;
    high.kind = MendKind::OffsetAway;
    high.name = "above the channel";
    high.first.curve = deep.name;
    high.faces = deep.faces;
    high.numbers = {{"along", 3}, {"distance", 90}};
    r.job.mends.push_back(high);
    if (!r.place()) return false;
    for (const MendResult& m : *r.now().mends)
        if (!m.trouble.empty()) std::fprintf(stderr, "%s: %s\n", m.name.c_str(), m.trouble.c_str());
    Recipe& row = r.follow(OperationKind::Curve, "Channel", floor);
    row.axis->rule = AxisRule::Curve;
    row.axis->curve = high.name;
    row.curve->depth = 6.0;
    for (const bool left : {false, true}) {
        Recipe cheek;
        cheek.id = r.job.freshId();
        cheek.name = left ? "Left cheek" : "Right cheek";
        cheek.tool = "ball-6-long";
        cheek.guard->response = GuardResponse::Drop; // in the corner at its foot
        const auto inside = facesThat(r.part(), [&](const FaceInfo& f) {
            return f.kind == SurfaceKind::FreeForm && f.area > 3500.0 && std::abs(f.normal.z()) < 0.2 &&
                   (left ? f.normal.y() < 0.0 && f.centre.y() > 10.0 : f.normal.y() > 0.0 && f.centre.y() < 0.0);
        });
        if (inside.empty()) return false;
        for (const int f : inside) cheek.target->faces.push_back(r.part().faceRef(f));
        const auto rails = proposeRails(r.part(), inside);
        if (!rails) return false;
        for (const int e : rails->first.edges) cheek.pattern->rail1.push_back(r.part().edgeRef(e));
        for (const int e : rails->second.edges) cheek.pattern->rail2.push_back(r.part().edgeRef(e));
        cheek.pattern->spacing = 0.8;
        cheek.pattern->start = RowStart::Last;
        cheek.axis->rule = AxisRule::Curve;
        cheek.axis->curve = high.name;
        cheek.link = row.link;
        cheek.link->entryRadius = 1.0;
        r.job.route.push_back(cheek);
    }
    r.roughed(0.5);
    return r.save("horn-guide");
}

// Both edges of all star holes with one small lollipop, in one go.
bool makeDomeEdges(const std::filesystem::path& folder) {
    Route r(folder, "dome-stars");
    r.job.name = "Pierced dome, edges";
    r.job.route.clear();
    if (!r.place()) return false;
    r.follow(OperationKind::Edge, "Star edges", {}, {}, BreakEdges::HolesBoth);
    return r.save("dome-edges");
}

// All sharp edges around the yoke's top and its pockets.
bool makeYokeEdges(const std::filesystem::path& folder) {
    Route r(folder, "yoke-setup");
    r.job.name = "Lamp yoke, edges";
    if (!r.place()) return false;
    const auto planes = yokePlanes();
    const auto top = r.facesAt(SurfaceKind::Plane, Vec3(0, -5, 62));
    r.follow(OperationKind::Edge, "Top edges", top, {}, BreakEdges::Faces);
    r.follow(OperationKind::Edge, "Right pocket edges", r.facesAt(SurfaceKind::Plane, planes[5].first + 15.0 * planes[5].second.unitOrthogonal()), {}, BreakEdges::Faces);
    r.roughed(0.3);
    return r.save("yoke-edges");
}

// What a ball of 10 left along the foot of the yoke's front pocket; the axis stands up and leans where it must.
bool makeYokeCorners(const std::filesystem::path& folder) {
    Route r(folder, "yoke-setup");
    r.job.name = "Lamp yoke, corners of the front pocket";
    if (!r.place()) return false;
    std::vector<int> pocket = r.facesAt(SurfaceKind::Plane, Vec3(0, -26, 14));
    const auto back = r.facesAt(SurfaceKind::Plane, Vec3(0, -12, 38));
    if (pocket.empty() || back.empty()) return false;
    for (const int f : tangentFaces(r.part(), back.front())) pocket.push_back(f);
    Recipe rows = proposeRows(r.job, r.now(), nullptr);
    rows.id = r.job.freshId();
    rows.name = "Corners after Ø10";
    rows.tool = "ball-6-long";
    for (const int f : pocket) rows.target->faces.push_back(r.part().faceRef(f));
    rows.pattern->kind = PatternBy::Corners;
    rows.pattern->larger = 10.0;
    rows.pattern->by = RowsBy::Spacing;
    rows.pattern->spacing = 0.4;
    rows.axis->rule = AxisRule::Fixed;
    rows.guard->response = GuardResponse::Lean;
    rows.link->entryRadius = 0.5;
    r.job.route.push_back(rows);
    r.roughed(0.5);
    return r.save("yoke-corners");
}

/// What the runner's operations go by: a full vane's side with its long edges, and the hub, one face around all vanes.
struct RunnerPicks {
    int side = -1, foot = -1, tip = -1, hub = 0;
};

std::optional<RunnerPicks> runnerPicks(const Part& part) {
    const auto sides = facesThat(part, [](const FaceInfo& f) { return f.kind == SurfaceKind::FreeForm && f.area > 500.0 && f.area < 600.0 && f.normal.z() > 0.0; });
    if (sides.empty()) return std::nullopt;
    RunnerPicks out;
    out.side = sides.front();
    std::vector<int> longOnes;
    for (const auto& loop : part.faces()[static_cast<std::size_t>(out.side)].loops)
        for (const int e : loop)
            if (part.edges()[static_cast<std::size_t>(e)].length > 25.0) longOnes.push_back(e);
    if (longOnes.size() != 2) return std::nullopt;
    // The foot on the hub lies lower.
    out.foot = part.edges()[static_cast<std::size_t>(longOnes[0])].angle < 0.0 ? longOnes[0] : longOnes[1];
    out.tip = out.foot == longOnes[0] ? longOnes[1] : longOnes[0];
    for (int f = 0; f < part.bodyFaces(); ++f)
        if (part.faces()[static_cast<std::size_t>(f)].area > part.faces()[static_cast<std::size_t>(out.hub)].area) out.hub = f;
    return out;
}

// A full vane: its side from foot to tip, seven times; then rows over it with keys where it begins and ends.
void addVane(Route& r, const RunnerPicks& picks) {
    Recipe& vane = r.follow(OperationKind::Swarf, "Vane sides");
    vane.tool = "taper-4";
    vane.swarf->fromRails = true;
    vane.pattern->rail1 = {r.part().edgeRef(picks.foot)};
    vane.pattern->rail2 = {r.part().edgeRef(picks.tip)};
    vane.swarf->past = 0.0;
    vane.target->leave = 0.25; // the rows after it take the rest
    vane.swarf->extend = 2.0;
    vane.repeat->count = 7;
    vane.link->skin = {SkinKind::Sphere, 65.0, 2};
    Recipe rows;
    rows.id = r.job.freshId();
    rows.name = "Vane rows";
    rows.tool = "taper-4";
    rows.target->faces = {r.part().faceRef(picks.side)};
    rows.pattern->rail1 = {r.part().edgeRef(picks.foot)};
    rows.pattern->rail2 = {r.part().edgeRef(picks.tip)};
    rows.pattern->spacing = 1.0;
    rows.guard->response = GuardResponse::Drop; // where the hub comes up under the vane
    rows.axis->tiltDegrees = 75.0;
    rows.axis->keys = {{0.0, 0.0, -1, -5.0, 0.0}, {0.5, 0.5, -1, 0.0, 0.0}, {1.0, 1.0, -1, 5.0, 0.0}};
    rows.axis->blended = true;
    rows.axis->last.tiltDegrees = 65.0;
    rows.link = vane.link;
    r.job.route.push_back(rows);
}

void addSlimTool(Job& job) { // into the corners at the vanes' feet
    Assembly slim = *job.tool("taper-4");
    slim.id = "taper-2";
    slim.name = "Tapered ball 2, 3°";
    slim.cutter.diameter = 2.0;
    slim.cutter.taperDegrees = 3.0;
    slim.cutter.fluteLength = slim.cutter.shoulderLength = 19.0;
    slim.cutter.neckDiameter = slim.cutter.shankDiameter = 4.0;
    slim.stickOut = 34.0;
    job.tools.push_back(slim);
}

/// From the foot of one vane to the nearest foot that is met going round; one edge of each vane is so long.
std::optional<std::pair<int, int>> feetAround(const Part& part, int hub, double from, double to) {
    const auto& edges = part.edges();
    const auto feet = [&](double length) {
        std::vector<int> out;
        for (int e = 0; e < part.bodyEdges(); ++e) {
            const EdgeInfo& i = edges[static_cast<std::size_t>(e)];
            if (std::abs(i.length - length) < 0.5 && (i.faces[0] == hub || i.faces[1] == hub)) out.push_back(e);
        }
        return out;
    };
    const auto rim = [&](int e) {
        const EdgeInfo& i = edges[static_cast<std::size_t>(e)];
        const Vec3& p = i.start.z() < i.end.z() ? i.start : i.end;
        return std::atan2(p.y(), p.x());
    };
    std::optional<std::pair<int, int>> rails;
    double nearest = 1e9;
    for (const int a : feet(from))
        for (const int b : feet(to)) {
            const double ahead = std::remainder(rim(b) - rim(a), 2.0 * M_PI);
            if (ahead <= 0.0 || ahead >= nearest - 1e-6) continue;
            nearest = ahead;
            rails = {a, b};
        }
    return rails;
}

// Rows from the foot of one vane to the next one's; full and half vanes in turn end across between the ends of both.
void addHub(Route& r, const char* name, int hub, const std::pair<int, int>& rails, const LinkSpec& link) {
    const auto& edges = r.part().edges();
    // The tool stands along the vane it is next to: the lines that both its ends rise in.
    const auto ends = [&](int foot) {
        std::vector<ShapeRef> out;
        for (const int f : edges[static_cast<std::size_t>(foot)].faces)
            if (f != hub)
                for (const auto& loop : r.part().faces()[static_cast<std::size_t>(f)].loops)
                    for (const int e : loop)
                        if (edges[static_cast<std::size_t>(e)].length < 20.0) out.push_back(r.part().edgeRef(e));
        return out;
    };
    Recipe floor;
    floor.id = r.job.freshId();
    floor.name = name;
    floor.tool = "taper-2";
    floor.target->faces = {r.part().faceRef(hub)};
    floor.pattern->rail1 = {r.part().edgeRef(rails.first)};
    floor.pattern->rail2 = {r.part().edgeRef(rails.second)};
    floor.pattern->across = true;
    floor.pattern->ends = RowEnds::HalfStepIn;
    floor.pattern->spacing = 0.8;
    floor.guard->response = GuardResponse::Drop; // in the corners at the vanes
    floor.axis->rule = floor.axis->last.rule = AxisRule::Lines;
    floor.axis->edges = ends(rails.first);
    floor.axis->blended = true;
    floor.axis->last.edges = ends(rails.second);
    floor.link = link;
    floor.link->entryRadius = 0.5;
    floor.repeat->count = 7;
    r.job.route.push_back(floor);
}

bool makeRunner(const std::filesystem::path& folder) {
    Route r(folder, "runner-setup");
    r.job.name = "Whisper runner, vanes";
    if (!r.place()) return false;
    const auto picks = runnerPicks(r.part());
    if (!picks) return false;
    addVane(r, *picks);
    addSlimTool(r.job);
    const LinkSpec link = r.job.route.back().link;
    for (const auto& [name, from, to] : {std::tuple{"Hub, full to half vane", 53.7, 39.4}, std::tuple{"Hub, half to full vane", 36.7, 57.5}}) {
        const auto rails = feetAround(r.part(), picks->hub, from, to);
        if (!rails) return false;
        addHub(r, name, picks->hub, *rails, link);
    }
    r.roughed(0.5);
    return r.save("runner-vanes");
}

/// Where a foot ends at the rim, going round.
double rimAngle(const Part& part, int foot) {
    const EdgeInfo& i = part.edges()[static_cast<std::size_t>(foot)];
    const Vec3& p = i.start.z() < i.end.z() ? i.start : i.end;
    return std::atan2(p.y(), p.x());
}

/// The foot of such a length that is met next going round from an angle, by where they end at the rim.
int nextFoot(const Part& part, int hub, double from, double length) {
    int best = -1;
    double nearest = 1e9;
    for (int e = 0; e < part.bodyEdges(); ++e) {
        const EdgeInfo& i = part.edges()[static_cast<std::size_t>(e)];
        if (std::abs(i.length - length) > 0.5 || (i.faces[0] != hub && i.faces[1] != hub)) continue;
        const double ahead = std::remainder(rimAngle(part, e) - from, 2.0 * M_PI);
        if (ahead <= 1e-6 || ahead >= nearest - 1e-6) continue;
        nearest = ahead;
        best = e;
    }
    return best;
}

// One passage in one operation: down one full vane, over the hub, up and down the half vane, and up the next full one, with more lead where the half vane parts the
// way, and where vanes begin and end.
bool makePassage(const std::filesystem::path& folder) {
    Route r(folder, "runner-vanes");
    r.job.name = "Whisper runner, passage";
    if (!r.place()) return false;
    const Part& part = r.part();
    const auto picks = runnerPicks(part);
    if (!picks) return false;
    std::vector<int> feet; // on either side of the way, from one full vane to the next
    double at = M_PI;      // where one looks at it from
    for (const double length : {53.7, 39.4, 36.7, 57.5}) {
        feet.push_back(nextFoot(part, picks->hub, at, length));
        if (feet.back() < 0) return false;
        at = rimAngle(part, feet.back());
    }
    const auto wall = [&](int foot) {
        const auto& faces = part.edges()[static_cast<std::size_t>(foot)].faces;
        return faces[0] == picks->hub ? faces[1] : faces[0];
    };
    const auto ends = [&](int foot) { // the lines that the vane begins and ends in
        std::vector<ShapeRef> out;
        for (const auto& loop : part.faces()[static_cast<std::size_t>(wall(foot))].loops)
            for (const int e : loop)
                if (part.edges()[static_cast<std::size_t>(e)].length < 20.0) out.push_back(part.edgeRef(e));
        return out;
    };
    Recipe passage = r.job.route.back();
    passage.id = r.job.freshId();
    passage.name = "Passage";
    passage.target->faces = {part.faceRef(picks->hub)};
    for (const int foot : feet) passage.target->faces.push_back(part.faceRef(wall(foot)));
    passage.pattern = PatternSpec{};
    passage.pattern->kind = PatternBy::Passage;
    passage.pattern->spacing = 0.8;
    passage.pattern->order = RowOrder::BackAndForth;
    passage.pattern->pieces = true;
    fitRails(part, passage);
    passage.axis->edges = ends(feet.front());
    passage.axis->last.edges = ends(feet.back());
    passage.axis->offFaces = 15.0; // a taper's flank off the walls
    passage.axis->keys = {{0.0, 0.0, -1, 4.0, 0.0}, {0.2, 0.2, -1, 0.0, 0.0},   {0.35, 0.35, -1, 4.0, 0.0},
                          {0.5, 0.5, -1, 0.0, 0.0}, {0.85, 0.85, -1, 0.0, 0.0}, {1.0, 1.0, -1, 4.0, 0.0}};
    passage.guard->response = GuardResponse::Lean;
    passage.guard->otherwise = GuardResponse::Drop;
    passage.repeat->count = 1;
    r.job.route = {passage};
    return r.save("runner-passage");
}

} // namespace

bool makeFollowJobs(const std::filesystem::path& folder) {
    return makeCollar(folder) && makeHorn(folder) && makeDomeEdges(folder) && makeYokeEdges(folder) && makeYokeCorners(folder) && makeRunner(folder) &&
           makePassage(folder);
}

} // namespace gyre::demo
