// Demo jobs of patterns: a spiral over the dome's crown, the horn's slot from its mouth, the yoke from above, the moth's wings along strokes.
#include "DemoJobs.h"
#include "Route.h"
#include "Workshop.h"
#include "axis/AxisSpec.h"
#include "guard/GuardSpec.h"
#include "guided/CurveSpec.h"
#include "holes/DrillSpec.h"
#include "job/Variants.h"
#include "link/LinkSpec.h"
#include "milling/MillSpec.h"
#include "operation/Repeat.h"
#include "pattern/PatternSpec.h"
#include "pattern/WhereSpec.h"
#include "target/Target.h"
#include "target/TargetSpec.h"
#include <algorithm>
#include <cmath>
#include <cstdio>

namespace gyre::demo {
namespace {

/// Rows over faces, as far as all jobs have them alike.
Recipe rowsOver(Route& r, const char* name, const char* tool, const std::vector<int>& faces, PatternBy kind) {
    Recipe rows;
    rows.id = r.job.freshId();
    rows.name = name;
    rows.tool = tool;
    for (const int f : faces) rows.target->faces.push_back(r.part().faceRef(f));
    rows.pattern->kind = kind;
    return rows;
}

// Above the highest stars one spiral, from the pole outwards, down to where the first of them begins.
bool makeDomeCrown(const std::filesystem::path& folder) {
    Route r(folder, "dome-stars");
    r.job.name = "Pierced dome, crown";
    r.job.route.clear();
    if (!r.place()) return false;
    const auto ball = facesThat(r.part(), [](const FaceInfo& f) { return f.kind == SurfaceKind::Sphere && f.normal.z() > 0.0 && f.bounds.high.z() > kDomeRadius - 0.1; });
    if (ball.size() != 1) return false;
    Recipe crown = rowsOver(r, "Crown", "ball-6", ball, PatternBy::Rings);
    crown.pattern->by = RowsBy::Scallop;
    crown.pattern->scallop = 0.005;
    crown.pattern->order = RowOrder::Spiral;
    crown.pattern->cut = RowCut::Climb;
    crown.where->bySlope = true;
    crown.where->flattest = 0.0;
    crown.where->steepest = 18.0;
    // It stands still, off the pole by more than the faces bend: the contact is never at the ball's dead centre, and no rotary whirls.
    crown.axis->rule = AxisRule::Fixed;
    crown.axis->direction = Vec3(std::sin(0.5), 0.0, std::cos(0.5));
    crown.link->skin = {SkinKind::Sphere, kDomeRadius + 25.0, 2};
    r.job.route.push_back(crown);
    r.roughed(0.3);
    return r.save("dome-crown");
}

// From both edges of its mouth down the cheeks, over the corners at their feet and along the channel, to where the rows meet.
bool makeHornSlot(const std::filesystem::path& folder) {
    Route r(folder, "horn-guide");
    r.job.name = "Horn guide, slot from its mouth";
    if (!r.place() || r.job.route.size() != 3) return false;
    const Recipe channel = r.job.route[0], cheek = r.job.route[1];
    std::vector<int> faces = resolveFaces(r.part(), channel.target->faces).value_or(std::vector<int>{});
    Recipe slot = rowsOver(r, "Slot", "ball-6-long", faces, PatternBy::Distance);
    for (std::size_t i = 1; i < 3; ++i) {
        const Recipe& one = r.job.route[i];
        slot.target->faces.insert(slot.target->faces.end(), one.target->faces.begin(), one.target->faces.end());
        // The upper of its two rails is the mouth's edge.
        const auto first = resolveEdges(r.part(), one.pattern->rail1), second = resolveEdges(r.part(), one.pattern->rail2);
        if (!first || !second || first->empty() || second->empty()) return false;
        const auto height = [&](int e) { return r.part().edges()[static_cast<std::size_t>(e)].middle.z(); };
        (i == 1 ? slot.pattern->rail1 : slot.pattern->rail2) = height(first->front()) > height(second->front()) ? one.pattern->rail1 : one.pattern->rail2;
    }
    // Between them and the channel lie a land and a low wall on either side.
    for (const int f : facesThat(r.part(), [](const FaceInfo& i) { return i.kind == SurfaceKind::FreeForm && i.area > 200.0 && i.area < 460.0; }))
        slot.target->faces.push_back(r.part().faceRef(f));
    slot.pattern->spacing = 0.8;
    slot.pattern->start = RowStart::First;
    slot.axis = cheek.axis;
    slot.guard = cheek.guard;
    slot.link = cheek.link;
    r.job.route = {slot};
    return r.save("horn-slot");
}

// Everything that is seen from above: levels where it is steep, planes where it is flat.
bool makeYokeBody(const std::filesystem::path& folder) {
    Route r(folder, "yoke-setup");
    r.job.name = "Lamp yoke, all from above";
    if (!r.place()) return false;
    Recipe& body = r.mill(MillShape::Body, "From above");
    body.tool = "ball-8"; // as deep as its shank lets it go
    body.mill->depthBy = MillDepth::Typed;
    body.mill->depth = 14.0;
    body.mill->stepover = body.mill->stepdown = 1.0;
    body.guard->response = GuardResponse::Drop;
    r.roughed(0.5);
    return r.save("yoke-body");
}

/// A curve drawn on the part from above, through places of X and Y: closed, or as pairs.
void draw(Route& r, const char* name, const std::vector<Vec2>& places, std::string_view as) {
    const MeshTree from(r.part().mesh());
    Mend curve;
    curve.kind = MendKind::Drawn;
    curve.name = name;
    curve.numbers[as == "pairs" ? "shape" : "ends"] = as == "pairs" ? 2.0 : 1.0;
    for (const Vec2& p : places) {
        const Vec3 above(p.x(), p.y(), 100.0);
        const RayHit hit = from.ray(above, -Vec3::UnitZ());
        if (hit.hit) curve.points.push_back({p.x(), p.y(), above.z() - hit.distance});
    }
    r.job.mends.push_back(curve);
}

std::vector<Vec2> ellipse(double x, double y, int points) {
    std::vector<Vec2> out;
    for (int i = 0; i < points; ++i) out.emplace_back(x * std::cos(2.0 * kPi * i / points), y * std::sin(2.0 * kPi * i / points));
    return out;
}

// The body at true distance from a line drawn around it, the roots of the wings from these rows on, and the wings along strokes.
bool makeMothWings(const std::filesystem::path& folder) {
    Route r(folder, "moth-relief");
    if (!r.place() || r.job.route.size() != 1) return false;
    r.job.name = "Moth relief, wings by strokes";
    draw(r, "body line", ellipse(6.5, 21.0, 48), "closed");
    draw(r, "roots", ellipse(13.0, 27.0, 64), "closed");
    // From the roots to the tips, on either side.
    std::vector<Vec2> strokes;
    for (const double side : {-1.0, 1.0})
        for (const Vec2& p : {Vec2(14, 6), Vec2(24, 12), Vec2(24, 12), Vec2(35, 17), Vec2(13, -9), Vec2(25, -18)}) strokes.emplace_back(side * p.x(), p.y());
    draw(r, "strokes", strokes, "pairs");
    if (!r.place()) return false;
    const Recipe all = r.job.route.front();
    r.job.route.clear();
    const auto add = [&](const char* name, PatternBy kind) -> Recipe& {
        Recipe rows = all;
        rows.id = r.job.freshId();
        rows.name = name;
        rows.pattern->kind = kind;
        rows.pattern->rail1.clear();
        rows.pattern->rail2.clear();
        rows.pattern->pieces = true;
        r.job.route.push_back(rows);
        return r.job.route.back();
    };
    Recipe& body = add("Body", PatternBy::Distance);
    body.pattern->curve = "body line";
    body.where->by = WhereCurves::Inside;
    body.where->curve = "body line";
    const std::string first = body.id;
    Recipe& roots = add("Roots of the wings", PatternBy::Seam);
    roots.pattern->beside = {first};
    roots.pattern->passOver = 4.0;
    roots.where->by = WhereCurves::Inside;
    roots.where->curve = "roots";
    Recipe& wings = add("Wings", PatternBy::Strokes);
    wings.pattern->curve = "strokes";
    wings.where->by = WhereCurves::Outside;
    wings.where->curve = "roots";
    return r.save("moth-wings");
}

} // namespace

bool makeSeamJob(Job job, const Part& part, const std::filesystem::path& folder) {
    job.name = "Lantern collar, seam";
    for (Assembly& a : job.tools)
        if (a.id == "ball-6") a.stickOut = 47.0;
    Recipe &wall = job.route.front(), lip = wall;
    std::vector<ShapeRef> walls, lips;
    for (const ShapeRef& ref : wall.target->faces) (part.faces()[static_cast<std::size_t>(ref.index)].bounds.low.z() < 20.0 ? walls : lips).push_back(ref);
    if (walls.empty() || lips.empty()) return false;
    wall.name = "Wall";
    wall.target->faces = walls;
    wall.pattern->kind = PatternBy::Planes;
    wall.pattern->lean = 90.0;
    wall.pattern->rail1.clear();
    wall.pattern->rail2.clear();
    wall.pattern->spacing = 0.6;
    wall.pattern->start = RowStart::First;
    lip.id = "lip";
    lip.name = "Lip";
    lip.target->faces = lips;
    lip.pattern = PatternSpec{};
    lip.pattern->kind = PatternBy::Seam;
    lip.pattern->beside = {wall.id};
    lip.pattern->spacing = wall.pattern->spacing;
    lip.pattern->passOver = 6.0;
    lip.axis->tiltDegrees = 20.0;
    job.route.push_back(lip);
    const auto ok = saveJob(job, folder / "collar-seam.gyre.json");
    if (!ok) std::fprintf(stderr, "%s\n", ok.error().text().c_str());
    return ok.has_value();
}

// Between its two borders, by planes, and at true distance from the walls.
bool makeVariantsJob(Job job, const Part& part, const std::filesystem::path& folder) {
    job.name = "Lantern collar, floor in three ways";
    for (Assembly& a : job.tools)
        if (a.id == "ball-6") a.stickOut = 47.0;
    const auto floor = facesThat(part, [](const FaceInfo& f) { return f.kind == SurfaceKind::Plane && f.normal.z() > 0.9 && std::abs(f.centre.z() - 6.0) < 0.1; });
    if (floor.size() != 1) return false;
    Recipe& rows = job.route.front();
    rows.name = "Floor";
    rows.target->faces = {part.faceRef(floor[0])};
    rows.pattern = PatternSpec{};
    rows.pattern->spacing = 0.6;
    for (const EdgeInfo& e : part.edges()) {
        const bool own = std::find(e.faces.begin(), e.faces.end(), floor[0]) != e.faces.end();
        if (!own) continue;
        const bool bore =
            std::any_of(e.faces.begin(), e.faces.end(), [&](int f) { return f >= 0 && part.faces()[static_cast<std::size_t>(f)].kind == SurfaceKind::Cylinder; });
        (bore ? rows.pattern->rail2 : rows.pattern->rail1).push_back(part.edgeRef(static_cast<int>(&e - part.edges().data())));
    }
    rows.axis = AxisSpec{};
    rows.axis->rule = AxisRule::Fixed;
    rows.guard->response = GuardResponse::Drop; // along the foot of the walls
    rows.link->skin = {SkinKind::Plane, 70.0, 2};
    const std::string id = rows.id;
    if (!addVariant(job, id)) return false;
    Recipe& planes = *job.operation(id);
    planes.pattern->kind = PatternBy::Planes;
    planes.pattern->rail1.clear();
    planes.pattern->rail2.clear();
    if (!addVariant(job, id)) return false;
    Recipe& distance = *job.operation(id);
    distance.pattern = job.variants.front().pattern;
    distance.pattern->kind = PatternBy::Distance;
    distance.pattern->rail2.clear();
    distance.pattern->start = RowStart::First;
    if (!takeVariant(job, id, "A")) return false;
    const auto ok = saveJob(job, folder / "collar-variants.gyre.json");
    if (!ok) std::fprintf(stderr, "%s\n", ok.error().text().c_str());
    return ok.has_value();
}

bool makeRowJobs(const std::filesystem::path& folder) { return makeDomeCrown(folder) && makeHornSlot(folder) && makeYokeBody(folder) && makeMothWings(folder); }

} // namespace gyre::demo
