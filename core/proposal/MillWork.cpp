#include "proposal/MillWork.h"
#include "base/Units.h"
#include "kinds/MillInput.h"
#include "machine/Reach.h"
#include "milling/Floors.h"
#include "proposal/BestTool.h"
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

double tidy(double v, double step) { return std::max(step, std::round(v / step) * step); }

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
        if (b.role == "part" || b.role == "fixture" || (stockStands && b.role == "stock")) all.add(b.shape->mesh().bounds());
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

void fitMill(const Job& job, const Workplace& place, Recipe& r) {
    MillSpec& m = r.mill;
    const Recipe resolved = job.resolved(r);
    auto gathered = place.part ? gatherMill(place, resolved) : Result<GatheredMill>(tl::unexpected(Error{}));
    const auto sheet = gathered ? sheetOf(gathered->input, m) : Result<Sheet>(tl::unexpected(Error{}));
    const auto floor = sheet ? floorOf(gathered->input, *sheet, 0.02) : Result<Floor>(tl::unexpected(Error{}));
    const double deep = floor && !gathered->input.faces.empty() ? std::max(0.0, floor->top - floor->level) : 0.0;
    const auto reaches = [&](const Assembly& a) { return a.cutter.shoulderLength >= deep - 1e-6; };
    std::string tool;
    switch (m.shape) {
    case MillShape::Pocket:
    case MillShape::Outline:
        tool = bestTool(job, [&](const Assembly& a) -> std::optional<double> {
            if (a.cutter.shape != CutterShape::Flat || !reaches(a)) return std::nullopt;
            if (!floor) return m.shape == MillShape::Outline ? a.cutter.diameter : -a.cutter.diameter;
            const auto left = leftInCorners(*floor, 0.5 * a.cutter.diameter);
            if (!left) return std::nullopt;
            return *left < 0.02 * floor->area.area() ? a.cutter.diameter : -*left; // wide, unless too much stays in the corners
        });
        break;
    case MillShape::Bore: {
        double narrow = 1e300;
        if (gathered)
            for (const int f : gathered->input.faces) narrow = std::min(narrow, 2.0 * place.part->faces()[static_cast<std::size_t>(f)].radius);
        tool = bestTool(job, [&](const Assembly& a) -> std::optional<double> {
            return a.cutter.shape == CutterShape::Flat && a.cutter.diameter <= 0.8 * narrow ? std::optional(a.cutter.diameter) : std::nullopt;
        });
        break;
    }
    case MillShape::Face:
        tool = bestTool(job, [&](const Assembly& a) -> std::optional<double> { return upright(a.cutter.shape) ? std::optional(a.cutter.diameter) : std::nullopt; });
        break;
    case MillShape::Rough:
        tool = bestTool(job, [&](const Assembly& a) -> std::optional<double> {
            return upright(a.cutter.shape) ? std::optional(a.cutter.diameter + (a.cutter.shape == CutterShape::Flat ? 0.1 : 0.0)) : std::nullopt;
        });
        break;
    case MillShape::Follow:
        tool = bestTool(job, [&](const Assembly& a) -> std::optional<double> {
            return a.cutter.shape == CutterShape::Ball || a.cutter.shape == CutterShape::TaperedBall ? std::optional(-a.cutter.diameter) : std::nullopt;
        });
        break;
    case MillShape::Round:
        tool = bestTool(
            job, [&](const Assembly& a) -> std::optional<double> { return a.cutter.shape == CutterShape::Ball ? std::optional(a.cutter.diameter) : std::nullopt; });
        break;
    }
    if (!tool.empty()) r.tool = tool;
    if (r.tool.empty() && !job.tools.empty()) r.tool = job.tools.front().id;
    const Assembly* a = job.tool(r.tool);
    const double d = a ? a->cutter.diameter : 6.0;
    m.stepdown = tidy((m.shape == MillShape::Follow  ? 0.25
                       : m.shape == MillShape::Bore  ? 0.15
                       : m.shape == MillShape::Rough ? 0.5
                       : m.shape == MillShape::Face  ? 0.1
                                                     : 0.35) *
                          d,
                      0.25);
    if (m.shape == MillShape::Round) m.stepdown = 0.0;
    m.stepover = tidy((m.shape == MillShape::Face     ? 0.7
                       : m.shape == MillShape::Rough  ? 0.25
                       : m.shape == MillShape::Follow ? 0.25
                       : m.shape == MillShape::Round  ? 0.1
                                                      : 0.4) *
                          d,
                      0.1);
    m.entry = m.shape == MillShape::Follow ? MillEntry::Ramp : MillEntry::Helix;
    if (m.shape == MillShape::Face && floor) { // strokes run the long way
        const auto [low, high] = floor->area.bounds();
        m.along = high.x() - low.x() >= high.y() - low.y() ? 0.0 : 90.0;
        m.topBy = MillTop::Stock;
    }
    // Under stock that nothing has taken before, pockets and outlines begin where that begins.
    const auto takesStock = [](const Recipe& before) {
        return before.active && before.kind == OperationKind::Mill && (before.mill.shape == MillShape::Face || before.mill.shape == MillShape::Rough);
    };
    if ((m.shape == MillShape::Pocket || m.shape == MillShape::Outline) && m.topBy == MillTop::Geometry && gathered && !gathered->input.stock.empty() &&
        std::none_of(job.route.begin(), std::find_if(job.route.begin(), job.route.end(), [&](const Recipe& o) { return o.id == r.id; }), takesStock))
        m.topBy = MillTop::Stock;
    if (m.shape == MillShape::Follow || m.shape == MillShape::Outline)
        if (!gathered || gathered->input.faces.empty()) m.depthBy = m.depthBy == MillDepth::Geometry ? MillDepth::Typed : m.depthBy;
    r.link.entryRadius = m.shape == MillShape::Outline ? tidy(0.2 * d, 0.5) : 0.0;
    r.link.low = false;
    r.link.approach = 2.0;
    std::vector<Vec3> ways;
    if (sheet && sheet->wrapped)
        for (int k = 1; k < 3; ++k) ways.push_back(sheet->frame.linear().col(k));
    else if (sheet)
        ways.push_back(sheet->frame.linear().col(2));
    else if (m.on.rfind("round ", 0) == 0 && m.on.size() == 7) { // nothing to unroll yet, but it is known about what
        const int axis = static_cast<int>(m.on.back() - 'X');
        for (int k = 1; k < 3; ++k) ways.push_back(Vec3::Unit((axis + k) % 3));
    } else if (m.shape == MillShape::Bore && gathered)
        for (const int f : gathered->input.faces)
            ways.push_back(place.part->faces()[static_cast<std::size_t>(f)].axis.z() < -1e-9 ? Vec3(-place.part->faces()[static_cast<std::size_t>(f)].axis)
                                                                                             : place.part->faces()[static_cast<std::size_t>(f)].axis);
    for (const std::string& name : r.repeat.planes)
        for (const WorkPlane& p : job.planes)
            if (p.name == name) ways.push_back(p.normal);
    if (r.repeat.count > 1) {
        const std::vector<Vec3> once = ways;
        for (const Vec3& w : once) ways.push_back(rotation(Vec3::Unit(r.repeat.axis), 2.0 * kPi / r.repeat.count) * w);
    }
    if (!ways.empty() && place.part) r.link.skin = skinAround(place, ways, true);
}

Recipe proposeMill(const Job& job, const Workplace& place, MillShape shape) {
    static constexpr const char* kNames[] = {"Facing", "Pocket", "Outline", "Bore", "Along curves", "Whole round", "Roughing"};
    Recipe r;
    r.id = job.freshId();
    r.kind = OperationKind::Mill;
    r.name = kNames[static_cast<int>(shape)];
    r.mill.shape = shape;
    r.mill.beyond = shape == MillShape::Bore ? 0.5 : 0.0;
    if (shape == MillShape::Round) r.mill.on = kRound[roundAxis(place)];
    if (shape == MillShape::Rough) { // down on the whole part, from above
        r.mill.leaveFloor = 0.3;
        r.target.leave = 0.3;
        for (const WorkPlane& p : job.planes)
            if (r.mill.on.empty() && p.normal.z() > 1.0 - 1e-9) r.mill.on = p.name;
    }
    fitMill(job, place, r);
    return r;
}

HelicalGroove proposeHelicalGroove(const Job& job, const Workplace& place) {
    HelicalGroove out;
    const int axis = roundAxis(place);
    const Extent e = extentAbout(*place.part, axis);
    const double length = e.high - e.low;
    out.helix.kind = MendKind::Helix;
    out.helix.name = job.freshMendName(MendKind::Helix);
    static constexpr const char* kCentre[] = {"cx", "cy", "cz"};
    out.helix.numbers = {{"axis", axis}, {kCentre[axis], tidy(e.low + 0.2 * length, 1.0)}, {"radius", e.radius}, {"pitch", tidy(0.2 * length, 1.0)}, {"turns", 3.0}};
    Recipe& r = out.recipe;
    r = proposeMill(job, place, MillShape::Follow);
    r.name = "Helical groove";
    r.target.drawings = {out.helix.name};
    r.mill.on = kRound[axis];
    r.mill.depthBy = MillDepth::Typed;
    r.mill.depth = 3.0;
    r.mill.stepdown = 1.0;
    const std::string flat =
        bestTool(job, [&](const Assembly& a) -> std::optional<double> { return a.cutter.shape == CutterShape::Flat ? std::optional(-a.cutter.diameter) : std::nullopt; });
    if (!flat.empty()) r.tool = flat;
    std::vector<Vec3> ways{Vec3::Unit((axis + 1) % 3), Vec3::Unit((axis + 2) % 3)};
    r.link.skin = skinAround(place, ways, true);
    return out;
}

} // namespace gyre
