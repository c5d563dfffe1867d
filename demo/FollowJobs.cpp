// Demo jobs along walls, curves and edges: collar, horn guide, dome, yoke and runner.
#include "DemoJobs.h"
#include "Route.h"
#include "Workshop.h"
#include <cmath>
#include <cstdio>

namespace gyre::demo {
namespace {

/// Faces that please.
template <class Like> std::vector<int> facesThat(const Part& part, const Like& like) {
    std::vector<int> out;
    for (int f = 0; f < part.bodyFaces(); ++f)
        if (like(part.faces()[static_cast<std::size_t>(f)])) out.push_back(f);
    return out;
}

// All nine lobes of the leaning wall, right round, in two depths; before that what stands before it, taken over instead of down.
bool makeCollar(const std::filesystem::path& folder) {
    Route r(folder, "lantern-collar");
    r.job.name = "Lantern collar, walls";
    r.job.route.clear();
    if (!r.place()) return false;
    const std::vector<int> wall = facesThat(r.part(), [](const FaceInfo& f) { return f.kind == SurfaceKind::FreeForm && f.bounds.low.z() > 13.9 && f.bounds.high.z() < 40.1 && f.normal.dot(Vec3(f.centre.x(), f.centre.y(), 0)) > 0.0; });
    if (wall.empty()) return false;
    Recipe& before = r.follow(OperationKind::Swarf, "Wall, stepped over", wallFaces(r.part(), wall.front()));
    before.swarf.thickness = 3.0;
    before.swarf.stepover = 1.0;
    before.target.leave = 0.2;
    r.follow(OperationKind::Swarf, "Wall", wallFaces(r.part(), wall.front()));
    return r.save("collar-walls");
}

// One row down the channel with the axis through a curve above it, then rows on both cheeks.
bool makeHorn(const std::filesystem::path& folder) {
    Route r(folder, "horn-setup");
    r.job.name = "Horn guide";
    if (!r.place()) return false;
    const auto edgeOfCheek = [&](bool left) { // the inner upper edge of a cheek
        int best = -1;
        for (int e = 0; e < r.part().bodyEdges(); ++e) {
            const EdgeInfo& i = r.part().edges()[static_cast<std::size_t>(e)];
            if (i.kind != CurveKind::FreeForm || i.length < 120.0 || i.angle < 0.5 || (i.middle.y() > 5.0) != left) continue;
            const bool inner = i.faces[0] >= 0 && i.faces[1] >= 0 && (std::abs(r.part().faces()[static_cast<std::size_t>(i.faces[0])].normal.z()) < 0.3 || std::abs(r.part().faces()[static_cast<std::size_t>(i.faces[1])].normal.z()) < 0.3);
            if (!inner) continue;
            if (best < 0 || i.middle.z() > r.part().edges()[static_cast<std::size_t>(best)].middle.z() + 1.0 || (std::abs(i.middle.z() - r.part().edges()[static_cast<std::size_t>(best)].middle.z()) <= 1.0 && std::abs(i.middle.y() - 5.0) < std::abs(r.part().edges()[static_cast<std::size_t>(best)].middle.y() - 5.0))) best = e;
        }
        return best;
    };
    const int one = edgeOfCheek(false), other = edgeOfCheek(true);
    if (one < 0 || other < 0) return false;
    Mend above;
    above.kind = MendKind::Middle;
    above.name = "above the channel";
    above.first.edges = {r.part().edgeRef(one)};
    above.second.edges = {r.part().edgeRef(other)};
    r.job.mends.push_back(above);
    if (!r.place()) return false;
    const auto floor = facesThat(r.part(), [](const FaceInfo& f) { return f.kind == SurfaceKind::FreeForm && f.area > 2500.0 && f.normal.z() > 0.9; });
    Recipe& row = r.follow(OperationKind::Curve, "Channel", floor);
    row.axis.rule = AxisRule::Curve;
    row.axis.curve = above.name;
    row.curve.depth = 6.0;
    for (const bool left : {false, true}) {
        Recipe cheek;
        cheek.id = r.job.freshId();
        cheek.name = left ? "Left cheek" : "Right cheek";
        cheek.tool = "ball-8-side";
        const auto inside = facesThat(r.part(), [&](const FaceInfo& f) { return f.kind == SurfaceKind::FreeForm && f.area > 3500.0 && std::abs(f.normal.z()) < 0.2 && f.normal.x() * f.normal.y() * (left ? 1.0 : 1.0) != 0.0 && (left ? f.normal.y() < 0.0 && f.centre.y() > 10.0 : f.normal.y() > 0.0 && f.centre.y() < 0.0); });
        if (inside.empty()) return false;
        for (const int f : inside) cheek.target.faces.push_back(r.part().faceRef(f));
        const auto rails = proposeRails(r.part(), inside);
        if (!rails) return false;
        for (const int e : rails->first.edges) cheek.pattern.rail1.push_back(r.part().edgeRef(e));
        for (const int e : rails->second.edges) cheek.pattern.rail2.push_back(r.part().edgeRef(e));
        cheek.pattern.spacing = 0.8;
        cheek.pattern.fromSecondRail = true;
        cheek.axis.rule = AxisRule::Curve;
        cheek.axis.curve = above.name;
        cheek.link = row.link;
        cheek.link.entryRadius = 1.0;
        r.job.route.push_back(cheek);
    }
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
    return r.save("yoke-edges");
}

// A full vane: its side from foot to tip, seven times; then rows over it with keys where it begins and ends.
bool makeRunner(const std::filesystem::path& folder) {
    Route r(folder, "runner-setup");
    r.job.name = "Whisper runner, vanes";
    if (!r.place()) return false;
    const auto sides = facesThat(r.part(), [](const FaceInfo& f) { return f.kind == SurfaceKind::FreeForm && f.area > 500.0 && f.area < 600.0 && f.normal.z() > 0.0; });
    if (sides.empty()) return false;
    const int side = sides.front();
    // Its long edges: the foot on the hub lies lower.
    std::vector<int> longOnes;
    for (const auto& loop : r.part().faces()[static_cast<std::size_t>(side)].loops)
        for (const int e : loop)
            if (r.part().edges()[static_cast<std::size_t>(e)].length > 25.0) longOnes.push_back(e);
    if (longOnes.size() != 2) return false;
    const auto& edges = r.part().edges();
    const auto out = [&](int e) { return std::hypot(edges[static_cast<std::size_t>(e)].middle.x(), edges[static_cast<std::size_t>(e)].middle.y()); };
    const int foot = edges[static_cast<std::size_t>(longOnes[0])].angle < 0.0 ? longOnes[0] : longOnes[1], tip = foot == longOnes[0] ? longOnes[1] : longOnes[0];
    (void)out;
    Recipe& vane = r.follow(OperationKind::Swarf, "Vane sides");
    vane.tool = "taper-4";
    vane.swarf.fromRails = true;
    vane.pattern.rail1 = {r.part().edgeRef(foot)};
    vane.pattern.rail2 = {r.part().edgeRef(tip)};
    vane.swarf.past = 0.0;
    vane.swarf.extend = 2.0;
    vane.repeat.count = 7;
    vane.link.skin = {SkinKind::Sphere, 65.0, 2};
    Recipe rows;
    rows.id = r.job.freshId();
    rows.name = "Vane rows";
    rows.tool = "taper-4";
    rows.target.faces = {r.part().faceRef(side)};
    rows.pattern.rail1 = {r.part().edgeRef(foot)};
    rows.pattern.rail2 = {r.part().edgeRef(tip)};
    rows.pattern.spacing = 1.0;
    rows.axis.tiltDegrees = 75.0;
    rows.axis.keys = {{0.0, 0.0, -1, -5.0, 0.0}, {0.5, 0.5, -1, 0.0, 0.0}, {1.0, 1.0, -1, 5.0, 0.0}};
    rows.axis.blended = true;
    rows.axis.last.tiltDegrees = 65.0;
    rows.link = vane.link;
    r.job.route.push_back(rows);
    return r.save("runner-vanes");
}

} // namespace

bool makeFollowJobs(const std::filesystem::path& folder) { return makeCollar(folder) && makeHorn(folder) && makeDomeEdges(folder) && makeYokeEdges(folder) && makeRunner(folder); }

} // namespace gyre::demo
