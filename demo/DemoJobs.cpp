// The demo jobs: recipes over the workshop's parts.
#include "DemoJobs.h"
#include "Route.h"
#include "Solids.h"
#include "Workshop.h"
#include "axis/AxisSpec.h"
#include "guard/GuardSpec.h"
#include "guided/CurveSpec.h"
#include "holes/DrillSpec.h"
#include "link/LinkSpec.h"
#include "machine/Reach.h"
#include "milling/MillSpec.h"
#include "operation/Repeat.h"
#include "pattern/PatternSpec.h"
#include "proposal/HoleWork.h"
#include "session/Workshop.h"
#include "target/Target.h"
#include "target/TargetSpec.h"
#include "touch/TouchSpec.h"
#include <cmath>
#include <cstdio>

namespace gyre::demo {
namespace {

bool complain(const Error& e) {
    std::fprintf(stderr, "%s\n", e.text().c_str());
    return false;
}

// Faces of the collar's wall and lip over some of its lobes, found by where they lie.
std::vector<ShapeRef> flareFaces(const Part& part, int lobes) {
    std::vector<ShapeRef> refs;
    for (std::size_t i = 0; i < part.faces().size(); ++i) {
        const FaceInfo& f = part.faces()[i];
        const Vec3 outward(f.centre.x(), f.centre.y(), 0.0);
        const bool outer = f.kind == SurfaceKind::FreeForm && f.normal.dot(outward) > 0.0 && f.bounds.low.z() > 13.0;
        double angle = std::atan2(f.centre.y(), f.centre.x()) * 180.0 / M_PI;
        if (angle < 0.0) angle += 360.0;
        if (outer && angle < 40.0 * lobes) refs.push_back(part.faceRef(static_cast<int>(i)));
    }
    return refs;
}

// Set up only: stock around it, planes on two of its holes.
bool makeDomeJob(const std::filesystem::path& folder) {
    Job job;
    job.name = "Pierced dome";
    job.machine = "heron-5t.machine.json";
    job.seat = Vec3(0, 0, 30);
    job.bodies = {{"dome", "part", "pierced-dome.step"}, {"spigot", "fixture", "dome-spigot.step"}};
    JobBody stock;
    stock.name = "bar end";
    stock.role = "stock";
    stock.shape = StockShape{StockShape::Kind::Cylinder, Vec3(-70, -70, -6), Vec3(70, 70, 62), 2, 70.0};
    job.bodies.push_back(stock);
    job.tools = tools().assemblies;
    const auto stars = starHoles();
    for (const std::size_t i : {9u, 46u}) {
        Hole hole;
        hole.mouth = stars[i].point;
        hole.direction = stars[i].direction;
        job.planes.push_back(planeByHole(hole));
        job.planes.back().name = job.planes.size() == 1 ? "low star" : "high star";
    }
    if (const auto ok = saveJob(job, folder / "dome-setup.gyre.json"); !ok) return false;
    // Spotted and drilled, group by group.
    Workshop workshop(folder);
    Progress progress;
    const auto place = workshop.placeFor(job, progress);
    if (!place) return false;
    job.name = "Pierced dome, stars";
    job.bodies.pop_back(); // turned before
    for (const HoleGroup& g : groupHoles((*place)->holes, rotaryLine(*(*place)->machine, (*place)->partFrame)))
        for (const Recipe& r : proposeHoleWork(job, **place, g).work) job.route.push_back(r);
    const auto ok = saveJob(job, folder / "dome-stars.gyre.json");
    return ok ? true : complain(ok.error());
}

// Rows over the whole carved top of the scan, with the ball leaning into its way.
bool makeMothJob(const std::filesystem::path& folder) {
    Job job;
    job.name = "Moth relief";
    job.machine = "egret-5h.machine.json";
    job.seat = Vec3(0, 0, 20);
    job.bodies = {{"moth", "part", "moth-relief.stl"}, {"plate", "fixture", "moth-plate.step"}};
    JobBody stock;
    stock.role = "stock";
    job.bodies.push_back(stock);
    roughed(job, 0.5);
    job.tools = tools().assemblies;
    Progress progress;
    const auto part = Part::open(folder / "moth-relief.stl", 0.02, progress);
    if (!part) return complain(part.error());
    Recipe rows;
    rows.id = "wings";
    rows.name = "Wings and body";
    rows.tool = "ball-4";
    int top = 0;
    for (int f = 0; f < static_cast<int>((*part)->faces().size()); ++f)
        if ((*part)->faces()[static_cast<std::size_t>(f)].normal.z() > (*part)->faces()[static_cast<std::size_t>(top)].normal.z()) top = f;
    rows.target->faces = {(*part)->faceRef(top)};
    const auto rails = proposeRails(**part, {top});
    if (!rails) return complain(rails.error());
    for (int e : rails->first.edges) rows.pattern->rail1.push_back((*part)->edgeRef(e));
    for (int e : rails->second.edges) rows.pattern->rail2.push_back((*part)->edgeRef(e));
    rows.pattern->spacing = 0.5;
    rows.axis->leadDegrees = 12.0;
    rows.axis->tiltDegrees = 0.0;
    rows.axis->smoothing = 6.0; // a scan trembles; the head need not
    rows.touch->by = TouchBy::AlongAxis;
    rows.axis->nearPole = 1.0;
    rows.link->skin = {SkinKind::Plane, 30.0};
    job.route = {rows};
    const auto ok = saveJob(job, folder / "moth-relief.gyre.json");
    return ok ? true : complain(ok.error());
}

/// A part set up with its fixture and stock, ready for operations.
struct SetupOf {
    const char *file, *part, *fixture, *machine;
    Vec3 seat;
    StockShape stock;
};

bool makeSetup(const std::filesystem::path& folder, const SetupOf& of, const std::vector<WorkPlane>& planes, const std::vector<Mend>& mends = {}) {
    const auto fileOf = [](std::string name) {
        for (char& c : name)
            if (c == ' ') c = '-';
        return name + ".step";
    };
    Job job;
    job.name = of.part;
    job.name[0] = static_cast<char>(std::toupper(static_cast<unsigned char>(job.name[0])));
    job.machine = std::string(of.machine) + ".machine.json";
    job.seat = of.seat;
    job.bodies = {{of.part, "part", fileOf(of.part)}, {of.fixture, "fixture", fileOf(of.fixture)}};
    JobBody stock;
    stock.name = "stock";
    stock.role = "stock";
    stock.shape = of.stock;
    job.bodies.push_back(stock);
    job.planes = planes;
    job.mends = mends;
    job.tools = tools().assemblies;
    const auto ok = saveJob(job, folder / (std::string(of.file) + ".gyre.json"));
    return ok ? true : complain(ok.error());
}

bool makeSetups(const std::filesystem::path& folder) {
    using K = StockShape::Kind;
    const auto box = [](const Vec3& low, const Vec3& high) {
        StockShape s;
        s.kind = K::Block;
        s.low = low;
        s.high = high;
        return s;
    };
    const auto bar = [](int axis, double radius, double from, double to, double inner = 0.0) {
        StockShape s;
        s.kind = inner > 0.0 ? K::Tube : K::Cylinder;
        s.axis = axis;
        s.radius = radius;
        s.innerRadius = inner;
        s.low[axis] = from;
        s.high[axis] = to;
        return s;
    };
    std::vector<WorkPlane> planes;
    const char* kNames[] = {"top", "right port", "left port", "right rear port", "left rear port", "right pocket", "left pocket"};
    for (const auto& [at, normal] : yokePlanes()) {
        Hole hole;
        hole.mouth = at;
        hole.direction = normal;
        planes.push_back(planeByHole(hole));
        planes.back().name = kNames[planes.size() - 1];
        if (planes.size() > 1) planes.back().x = lookingAlong(at, normal).linear().col(0); // level, as the yoke is drawn
    }
    Mend follower; // the way of a cam follower on the barrel: its grooves wind like this
    follower.kind = MendKind::Helix;
    follower.name = "follower";
    follower.numbers = {{"axis", 0}, {"cx", 34}, {"radius", 40}, {"pitch", 72}, {"growth", 1}, {"endPitch", 158.4}, {"turns", 150.0 / 360.0}};
    Mend others = follower; // the other two followers stand a third of a turn on
    others.kind = MendKind::Copy;
    others.name = "other followers";
    others.first.curve = follower.name;
    others.numbers = {{"count", 2}, {"turn", 120}, {"axis", 0}};
    Mend skin; // the barrel without its grooves, a little longer: what a groove's depth is measured from
    skin.kind = MendKind::FreedFace;
    skin.name = "skin";
    Progress progress;
    const auto barrel = Part::open(folder / "focus-barrel.step", 0.05, progress);
    if (!barrel) return complain(barrel.error());
    int outer = -1;
    for (int f = 0; f < static_cast<int>((*barrel)->faces().size()); ++f) {
        const auto at = [&](int i) -> const FaceInfo& { return (*barrel)->faces()[static_cast<std::size_t>(i)]; };
        if (at(f).kind == SurfaceKind::Cylinder && at(f).radius > 39.9 && (outer < 0 || at(f).area > at(outer).area)) outer = f;
    }
    if (outer >= 0) skin.faces = {(*barrel)->faceRef(outer)};
    skin.numbers = {{"extent", 0}, {"grow", 2}};
    return makeSetup(folder, {"barrel-setup", "focus barrel", "barrel mandrel", "plover-4", Vec3(30, 0, 0), bar(0, 41, 0, 120, 29)}, {}, {follower, others, skin}) &&
           makeSetup(folder, {"yoke-setup", "lamp yoke", "yoke riser", "heron-5t", Vec3(0, 0, 66), box(Vec3(-60, -44, 0), Vec3(60, 44, 66))}, planes) &&
           makeSetup(folder, {"horn-setup", "horn guide", "horn vice", "snipe-5n", Vec3(0, 0, 60), box(Vec3(-70, -42, 0), Vec3(70, 42, 76))}, {}) &&
           makeSetup(folder, {"runner-setup", "whisper runner", "runner arbor", "dunlin-5m", Vec3(0, 0, 57), bar(2, 46, 0, 40, 5)}, {});
}

// The same faces under three patterns, side by side; the cutter further out, so that all of them are safe.
bool makePatternJob(Job job, const std::filesystem::path& folder) {
    job.name = "Lantern collar, patterns";
    for (Assembly& a : job.tools)
        if (a.id == "ball-6") a.stickOut = 47.0;
    Recipe &rails = job.route.front(), distance = rails, levels = rails;
    rails.name = "Between rails";
    distance.id = "distance";
    distance.name = "True distance from the rim";
    distance.pattern->kind = PatternBy::Distance;
    distance.pattern->rail1 = rails.pattern->rail2;
    distance.pattern->rail2.clear();
    distance.pattern->start = RowStart::First;
    distance.pattern->reversed = true; // the rows run away from the other rail: the tilt is to lean to the same side
    levels.id = "levels";
    levels.name = "Levels";
    levels.pattern->kind = PatternBy::Planes;
    levels.pattern->lean = 90.0;
    levels.pattern->rail1.clear();
    levels.pattern->rail2.clear();
    job.route.push_back(distance);
    job.route.push_back(levels);
    const auto ok = saveJob(job, folder / "collar-patterns.gyre.json");
    return ok ? true : complain(ok.error());
}

// A short, stiff cutter: the holder would run into a clamp, and the axis leans away there.
bool makeLeaningJob(Job job, const std::filesystem::path& folder) {
    job.name = "Lantern collar, leaning";
    for (Assembly& a : job.tools)
        if (a.id == "ball-6") a.stickOut = 30.0;
    Recipe& flare = job.route.front();
    flare.pattern->spacing = 0.8;
    flare.guard->response = GuardResponse::Lean;
    flare.guard->otherwise = GuardResponse::Lift;
    flare.guard->atLast = GuardResponse::Drop;
    const auto ok = saveJob(job, folder / "collar-leans.gyre.json");
    return ok ? true : complain(ok.error());
}

} // namespace

bool makeJobs(const std::filesystem::path& folder) {
    Progress progress;
    auto part = Part::open(folder / "lantern-collar.step", 0.02, progress);
    if (!part) return complain(part.error());
    Job job;
    job.name = "Lantern collar";
    job.machine = "heron-5t.machine.json";
    job.seat = Vec3(0, 0, 40);
    job.bodies = {{"collar", "part", "lantern-collar.step"}, {"seat", "fixture", "collar-seat.step"}};
    for (int i = 1; i <= 3; ++i) job.bodies.push_back({"clamp " + std::to_string(i), "fixture", "collar-clamp-" + std::to_string(i) + ".step"});
    job.tools = tools().assemblies;
    Recipe flare;
    flare.id = "flare";
    flare.name = "Flare";
    flare.tool = "ball-6";
    flare.target->faces = flareFaces(**part, 4);
    flare.pattern->spacing = 0.4;
    flare.pattern->start = RowStart::Last;
    flare.axis->leadDegrees = 5.0;
    flare.axis->tiltDegrees = 38.0;
    flare.link->skin = {SkinKind::Cylinder, 82.0};
    job.route = {flare};
    auto rails = proposeRails(**part, [&] {
        std::vector<int> faces;
        for (const auto& r : flare.target->faces) faces.push_back(r.index);
        return faces;
    }());
    if (!rails) return complain(rails.error());
    for (int e : rails->first.edges) job.route[0].pattern->rail1.push_back((*part)->edgeRef(e));
    for (int e : rails->second.edges) job.route[0].pattern->rail2.push_back((*part)->edgeRef(e));
    if (auto ok = saveJob(job, folder / "lantern-collar.gyre.json"); !ok) return complain(ok.error());
    if (!makePatternJob(job, folder) || !makeLeaningJob(job, folder) || !makeSeamJob(job, **part, folder) || !makeVariantsJob(job, **part, folder)) return false;
    // Set up only, as the others are: in a turned blank.
    job.name = "Lantern collar, setup";
    job.route.clear();
    JobBody blank;
    blank.name = "blank";
    blank.role = "stock";
    blank.shape = StockShape{StockShape::Kind::Tube, Vec3(-46, -46, 0), Vec3(46, 46, 53), 2, 46.0, 15.0};
    job.bodies.push_back(blank);
    if (auto ok = saveJob(job, folder / "collar-setup.gyre.json"); !ok) return complain(ok.error());
    return makeDomeJob(folder) && makeMothJob(folder) && makeSetups(folder) && makeMillJobs(folder) && makeFollowJobs(folder) && makeRowJobs(folder);
}

} // namespace gyre::demo
