#include "proposal/MillWork.h"
#include "base/Units.h"
#include "kinds/MillInput.h"
#include "link/LinkSpec.h"
#include "machine/Reach.h"
#include "milling/Floors.h"
#include "milling/MillSpec.h"
#include "operation/Repeat.h"
#include "operation/Workplace.h"
#include "proposal/BestTool.h"
#include "swarf/Swarfer.h"
#include "target/TargetSpec.h"
#include <algorithm>
#include <fmt/format.h>

namespace gyre {
namespace {

bool upright(CutterShape s) { return s == CutterShape::Flat || s == CutterShape::CornerRadius; }

/// What a round cutter leaves in the corners of a floor, mm²; nothing when it does not fit in at all.
std::optional<double> leftInCorners(const Floor& floor, double radius) {
    const Region inside = grown(floor.area, -radius);
    if (inside.empty()) return std::nullopt;
    Region reached = grown(inside, radius + 1e-3);
    if (!floor.open.empty()) reached = united(reached, aroundLines(floor.open, 2.0 * radius)); // the cutter comes in from there
    return without(floor.area, reached).area();
}

/// The part's reach around a line, and along it.
struct Extent {
    double radius = 0.0, low = 1e300, high = -1e300;
};
Extent extentAbout(const Part& part, int axis) {
    Extent e;
    for (const Vec3& p : part.mesh().points) {
        e.radius = std::max(e.radius, std::hypot(p[(axis + 1) % 3], p[(axis + 2) % 3]));
        e.low = std::min(e.low, p[axis]);
        e.high = std::max(e.high, p[axis]);
    }
    return e;
}

/// About which of the datum's axes the part is round: the machine's one rotary, else the axis of its largest cylinder.
int roundAxis(const Workplace& place) {
    if (const auto line = rotaryLine(*place.machine, place.partFrame))
        for (int k = 0; k < 3; ++k)
            if (std::abs(line->direction[k]) > 1.0 - 1e-9) return k;
    int axis = 0;
    double most = -1.0;
    for (const FaceInfo& f : place.part->faces())
        for (int k = 0; k < 3; ++k)
            if (f.kind == SurfaceKind::Cylinder && std::abs(f.axis[k]) > 1.0 - 1e-9 && f.area > most) {
                most = f.area;
                axis = k;
            }
    return axis;
}

const char* kRound[] = {"round X", "round Y", "round Z"};

} // namespace

Skin skinAround(const Workplace& place, const std::vector<Vec3>& directions, bool stockStands) {
    Box all;
    for (const PlacedBody& b : place.bodies)
        if (b.role == "part" || b.role == "fixture" || (stockStands && b.role == "stock")) all.add(b.shape->tree().bounds());
    constexpr double kFree = 10.0;
    const auto round = [](double v) { return 5.0 * std::ceil(v / 5.0); };
    const auto furthest = [&](int k) { return std::max(std::abs(all.low[k]), std::abs(all.high[k])); };
    for (const int k : {2, 1, 0}) {
        if (std::all_of(directions.begin(), directions.end(), [&](const Vec3& d) { return d[k] > 1.0 - 1e-9; })) return {SkinKind::Plane, round(all.high[k] + kFree), k};
        if (std::all_of(directions.begin(), directions.end(), [&](const Vec3& d) { return std::abs(d[k]) < 1e-6; }))
            return {SkinKind::Cylinder, round(std::hypot(furthest((k + 1) % 3), furthest((k + 2) % 3)) + kFree), k};
    }
    return {SkinKind::Sphere, round(Vec3(furthest(0), furthest(1), furthest(2)).norm() + kFree), 2};
}

MillShape millShapeFor(const Part& part, const std::vector<int>& faces, const std::vector<int>& edges) {
    if (faces.empty()) return edges.empty() ? MillShape::Pocket : MillShape::Follow;
    const FaceInfo& first = part.faces()[static_cast<std::size_t>(faces.front())];
    if (first.kind == SurfaceKind::Cylinder) {
        if (first.normal.dot(rejected(first.centre - first.axisPoint, first.axis)) < 0.0) return MillShape::Bore;
        // The floor of a wrapped pocket looks outward, too; walls tell it from a plain round.
        bool walls = false;
        for (const auto& loop : first.loops)
            for (const int e : loop) walls = walls || part.edges()[static_cast<std::size_t>(e)].angle < -radians(20.0);
        return walls ? MillShape::Pocket : MillShape::Round;
    }
    if (first.kind != SurfaceKind::Plane) return MillShape::Pocket;
    bool walls = false;
    for (const int f : faces)
        for (const auto& loop : part.faces()[static_cast<std::size_t>(f)].loops)
            for (const int e : loop) walls = walls || part.edges()[static_cast<std::size_t>(e)].angle < -radians(20.0);
    return walls ? MillShape::Pocket : MillShape::Face;
}

namespace {

/// What a shape usually takes, as shares of the cutter's diameter; 0: all at once.
struct UsualSteps {
    double down, over;
};
UsualSteps usualSteps(MillShape shape) {
    switch (shape) {
    case MillShape::Face:
        return {0.1, 0.7};
    case MillShape::Bore:
        return {0.15, 0.4};
    case MillShape::Follow:
        return {0.25, 0.25};
    case MillShape::Round:
        return {0.0, 0.1};
    case MillShape::Rough:
        return {0.5, 0.25};
    case MillShape::Body:
        return {0.0, 0.08};
    case MillShape::Pocket:
    case MillShape::Outline:
        break;
    }
    return {0.35, 0.4};
}

/// What is known of the work when its tool and steps are chosen.
struct MillSight {
    Result<GatheredMill> gathered;
    Result<Sheet> sheet;
    Result<Floor> floor;
};
MillSight lookAt(const Job& job, const Workplace& place, const Recipe& r) {
    MillSight out{place.part ? gatherMill(place, job.resolved(r)) : Result<GatheredMill>(tl::unexpected(Error{})), tl::unexpected(Error{}), tl::unexpected(Error{})};
    if (out.gathered) out.sheet = sheetOf(out.gathered->input, r.mill);
    if (out.sheet) out.floor = floorOf(out.gathered->input, *out.sheet, 0.02);
    return out;
}

/// How well a cutter suits a shape; nothing: not at all.
std::optional<double> suits(const Assembly& a, MillShape shape, const Workplace& place, const MillSight& seen) {
    const CutterShape cutter = a.cutter.shape;
    const double d = a.cutter.diameter;
    switch (shape) {
    case MillShape::Pocket:
    case MillShape::Outline: {
        const double deep = seen.floor && !seen.gathered->input.faces.empty() ? std::max(0.0, seen.floor->top - seen.floor->level) : 0.0;
        if (cutter != CutterShape::Flat || a.cutter.shoulderLength < deep - 1e-6) return std::nullopt;
        if (!seen.floor) return shape == MillShape::Outline ? d : -d;
        const auto left = leftInCorners(*seen.floor, 0.5 * d);
        if (!left) return std::nullopt;
        return *left < 0.02 * seen.floor->area.area() ? d : -*left; // wide, unless too much stays in the corners
    }
    case MillShape::Bore: {
        double narrow = 1e300;
        if (seen.gathered)
            for (const int f : seen.gathered->input.faces) narrow = std::min(narrow, 2.0 * place.part->faces()[static_cast<std::size_t>(f)].radius);
        return cutter == CutterShape::Flat && d <= 0.8 * narrow ? std::optional(d) : std::nullopt;
    }
    case MillShape::Face:
        return upright(cutter) ? std::optional(d) : std::nullopt;
    case MillShape::Rough:
        return upright(cutter) ? std::optional(d + (cutter == CutterShape::Flat ? 0.1 : 0.0)) : std::nullopt;
    case MillShape::Follow:
        return cutter == CutterShape::Ball || cutter == CutterShape::TaperedBall ? std::optional(-d) : std::nullopt;
    case MillShape::Round:
    case MillShape::Body:
        return cutter == CutterShape::Ball ? std::optional(d) : std::nullopt;
    }
    return std::nullopt;
}

/// Where the cut begins and how deep it goes.
void fitHeights(const Job& job, const Recipe& r, const MillSight& seen, MillSpec& m) {
    if (m.shape == MillShape::Face && seen.floor) { // strokes run the long way
        const auto [low, high] = seen.floor->area.bounds();
        m.along = high.x() - low.x() >= high.y() - low.y() ? 0.0 : 90.0;
        m.topBy = MillTop::Stock;
    }
    // Under stock that nothing has taken before, pockets and outlines begin where that begins.
    const auto takesStock = [](const Recipe& before) {
        return before.active && before.kind == OperationKind::Mill && (before.mill->shape == MillShape::Face || before.mill->shape == MillShape::Rough);
    };
    if ((m.shape == MillShape::Pocket || m.shape == MillShape::Outline) && m.topBy == MillTop::Geometry && seen.gathered && !seen.gathered->input.stock.empty() &&
        std::none_of(job.route.begin(), std::find_if(job.route.begin(), job.route.end(), [&](const Recipe& o) { return o.id == r.id; }), takesStock))
        m.topBy = MillTop::Stock;
    if (m.shape == MillShape::Follow || m.shape == MillShape::Outline)
        if (!seen.gathered || seen.gathered->input.faces.empty()) m.depthBy = m.depthBy == MillDepth::Geometry ? MillDepth::Typed : m.depthBy;
}

/// The directions in which the tool leaves the work, its repeats among them.
std::vector<Vec3> waysOut(const Job& job, const Workplace& place, const Recipe& r, const MillSight& seen) {
    const MillSpec& m = r.mill;
    std::vector<Vec3> ways;
    if (seen.sheet && seen.sheet->wrapped)
        for (int k = 1; k < 3; ++k) ways.push_back(seen.sheet->frame.linear().col(k));
    else if (seen.sheet)
        ways.push_back(seen.sheet->frame.linear().col(2));
    else if (m.on.rfind("round ", 0) == 0 && m.on.size() == 7) { // nothing to unroll yet, but it is known about what
        const int axis = static_cast<int>(m.on.back() - 'X');
        for (int k = 1; k < 3; ++k) ways.push_back(Vec3::Unit((axis + k) % 3));
    } else if (m.shape == MillShape::Bore && seen.gathered)
        for (const int f : seen.gathered->input.faces) {
            const Vec3& axis = place.part->faces()[static_cast<std::size_t>(f)].axis;
            ways.push_back(axis.z() < -1e-9 ? Vec3(-axis) : axis);
        }
    for (const std::string& name : r.repeat->planes)
        for (const WorkPlane& p : job.planes)
            if (p.name == name) ways.push_back(p.normal);
    if (r.repeat->count > 1) {
        const std::vector<Vec3> once = ways;
        for (const Vec3& w : once) ways.push_back(rotation(Vec3::Unit(r.repeat->axis), 2.0 * kPi / r.repeat->count) * w);
    }
    return ways;
}

} // namespace

void fitMill(const Job& job, const Workplace& place, Recipe& r) {
    MillSpec& m = r.mill;
    const MillSight seen = lookAt(job, place, r);
    const std::string tool = bestTool(job, [&](const Assembly& a) { return suits(a, m.shape, place, seen); });
    if (!tool.empty()) r.tool = tool;
    if (r.tool.empty() && !job.tools.empty()) r.tool = job.tools.front().id;
    const Assembly* a = job.tool(r.tool);
    const double d = a ? a->cutter.diameter : 6.0;
    const UsualSteps steps = usualSteps(m.shape);
    m.stepdown = steps.down > 0.0 ? tidy(steps.down * d, 0.25) : 0.0;
    m.stepover = tidy(steps.over * d, 0.1);
    m.entry = m.shape == MillShape::Follow ? MillEntry::Ramp : MillEntry::Helix;
    fitHeights(job, r, seen, m);
    r.link->entryRadius = m.shape == MillShape::Outline ? tidy(0.2 * d, 0.5) : 0.0;
    r.link->low = false;
    r.link->approach = 2.0;
    // From one way of a body to the next beside or below it there is no need to go up.
    if (m.shape == MillShape::Body) r.link->smallGap = 4.0 * m.stepover;
    if (const std::vector<Vec3> ways = waysOut(job, place, r, seen); !ways.empty() && place.part) r.link->skin = skinAround(place, ways, true);
}

Recipe proposeMill(const Job& job, const Workplace& place, MillShape shape) {
    static constexpr const char* kNames[] = {"Facing", "Pocket", "Outline", "Bore", "Along curves", "Whole round", "Roughing", "Body from above"};
    Recipe r;
    r.id = job.freshId();
    r.kind = OperationKind::Mill;
    r.name = kNames[static_cast<int>(shape)];
    r.mill->shape = shape;
    r.mill->beyond = shape == MillShape::Bore ? 0.5 : 0.0;
    if (shape == MillShape::Round) r.mill->on = kRound[roundAxis(place)];
    if (shape == MillShape::Rough) {
        r.mill->leaveFloor = 0.3;
        r.target->leave = 0.3;
    }
    if (shape == MillShape::Rough || shape == MillShape::Body) { // down on the whole part, from above
        for (const WorkPlane& p : job.planes)
            if (r.mill->on.empty() && p.normal.z() > 1.0 - 1e-9) r.mill->on = p.name;
    }
    fitMill(job, place, r);
    return r;
}

namespace {

constexpr const char* kCentre[] = {"cx", "cy", "cz"};

bool looksOutward(const FaceInfo& f) { return f.normal.dot(rejected(f.centre - f.axisPoint, f.axis)) > 0.0; }

/// The axis of the datum that a cylinder lies along; −1: none.
int axisOf(const FaceInfo& f) {
    for (int k = 0; k < 3; ++k)
        if (f.kind == SurfaceKind::Cylinder && std::abs(f.axis[k]) > 1.0 - 1e-9) return k;
    return -1;
}

bool throughDatum(const FaceInfo& f) { return rejected(f.axisPoint, f.axis).norm() < 1e-6; }

/// Where a groove about an axis begins and how long there is room for it.
void layHelix(Mend& helix, const Part& part, int axis, const FaceInfo* around) {
    Extent e = extentAbout(part, axis);
    Vec3 centre = Vec3::Zero();
    if (around) {
        e = {around->radius, around->bounds.low[axis], around->bounds.high[axis]};
        centre = around->axisPoint;
        for (int k = 0; k < 3; ++k)
            if (std::abs(centre[k]) < 1e-9) centre[k] = 0.0;
    }
    const double length = e.high - e.low;
    centre[axis] = tidy(e.low + 0.2 * length, 1.0);
    helix.numbers["axis"] = axis;
    for (int k = 0; k < 3; ++k) helix.numbers[kCentre[k]] = centre[k];
    helix.numbers["radius"] = e.radius;
    if (!helix.numbers.count("pitch")) helix.numbers["pitch"] = tidy(0.2 * length, 1.0);
}

void goAround(Recipe& r, const Workplace& place, int axis, const FaceInfo* around) {
    // Sheets of an axis are those of the datum; a cylinder elsewhere is its own sheet.
    const bool own = around && !throughDatum(*around);
    r.mill->on = own ? "" : kRound[axis];
    r.target->faces.clear();
    if (own) r.target->faces = {place.part->faceRef(static_cast<int>(around - place.part->faces().data()))};
    r.link->skin = skinAround(place, {Vec3::Unit((axis + 1) % 3), Vec3::Unit((axis + 2) % 3)}, true);
}

} // namespace

std::optional<int> cylinderAlong(const Part& part, int axis) {
    std::optional<int> best;
    for (int f = 0; f < part.bodyFaces(); ++f) {
        const FaceInfo& info = part.faces()[static_cast<std::size_t>(f)];
        if (axisOf(info) == axis && looksOutward(info) && (!best || info.area > part.faces()[static_cast<std::size_t>(*best)].area)) best = f;
    }
    return best;
}

HelicalGroove proposeHelicalGroove(const Job& job, const Workplace& place, std::optional<int> around) {
    HelicalGroove out;
    int axis = roundAxis(place);
    if (!around) around = cylinderAlong(*place.part, axis);
    if (!around) // nothing there is round about the axis that turns
        for (int k = 0; k < 3; ++k)
            if (const auto f = cylinderAlong(*place.part, k);
                f && (!around || place.part->faces()[static_cast<std::size_t>(*f)].area > place.part->faces()[static_cast<std::size_t>(*around)].area))
                around = f;
    const FaceInfo* cylinder = around ? &place.part->faces()[static_cast<std::size_t>(*around)] : nullptr;
    if (cylinder && axisOf(*cylinder) >= 0) axis = axisOf(*cylinder);
    out.helix.kind = MendKind::Helix;
    out.helix.name = job.freshMendName(MendKind::Helix);
    out.helix.numbers = {{"turns", 3.0}};
    layHelix(out.helix, *place.part, axis, cylinder);
    Recipe& r = out.recipe;
    r = proposeMill(job, place, MillShape::Follow);
    r.name = "Helical groove";
    r.target->drawings = {out.helix.name};
    r.mill->depthBy = MillDepth::Typed;
    r.mill->depth = 3.0;
    r.mill->stepdown = 1.0;
    const std::string flat =
        bestTool(job, [&](const Assembly& a) -> std::optional<double> { return a.cutter.shape == CutterShape::Flat ? std::optional(-a.cutter.diameter) : std::nullopt; });
    if (!flat.empty()) r.tool = flat;
    goAround(r, place, axis, cylinder);
    return out;
}

Status moveGroove(Job& job, const Workplace& place, const std::string& operation, const std::string& helix, int around) {
    Recipe* r = job.operation(operation);
    const auto mend = std::find_if(job.mends.begin(), job.mends.end(), [&](const Mend& m) { return m.name == helix && m.kind == MendKind::Helix; });
    if (!r || mend == job.mends.end()) return fail("there is no groove to move");
    const FaceInfo& face = place.part->faces()[static_cast<std::size_t>(around)];
    if (face.kind != SurfaceKind::Cylinder) return fail("a groove goes around a cylinder", fmt::format("face {}", around), "Pick a cylinder");
    const int axis = axisOf(face);
    if (axis < 0) return fail("the cylinder lies along none of the datum's axes", fmt::format("face {}", around), "Lay the part's datum along it");
    layHelix(*mend, *place.part, axis, &face);
    goAround(*r, place, axis, &face);
    return {};
}

} // namespace gyre
