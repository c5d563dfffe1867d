#include "proposal/AlongGuess.h"
#include "base/Units.h"
#include "guard/GuardSpec.h"
#include "guided/CurveSpec.h"
#include "link/LinkSpec.h"
#include "machine/Reach.h"
#include "operation/Meant.h"
#include "operation/Workplace.h"
#include "pattern/PatternSpec.h"
#include "proposal/BestTool.h"
#include "proposal/MillWork.h"
#include "swarf/Swarf.h"
#include "swarf/SwarfSpec.h"
#include "target/Target.h"
#include "target/TargetSpec.h"
#include <fmt/format.h>

namespace gyre {
namespace {

bool isBall(CutterShape s) { return s == CutterShape::Ball; }

/// How a wall goes on at its lower end.
enum class Foot { Free, Sharp, Fillet };
struct WallLook {
    Foot foot = Foot::Free;
    double tallest = 0.0, fillet = 1e9, hollow = 1e9; ///< hollow: least radius of inner bends along it
    std::vector<Vec3> directions;
};

WallLook lookAt(const Part& part, const Wall& wall) {
    WallLook look;
    const std::size_t n = wall.rulings.size();
    for (std::size_t i = 0; i < n; ++i) {
        const Ruling& r = wall.rulings[i];
        look.tallest = std::max(look.tallest, (r.high - r.low).norm());
        if (i % std::max<std::size_t>(1, n / 24) == 0) look.directions.push_back((r.high - r.low).normalized());
        const Ruling& next = wall.rulings[(i + 1) % n];
        if (i + 1 == n && !wall.closed) continue;
        for (const auto& [step, bend] : {std::pair<Vec3, Vec3>{next.low - r.low, next.lowNormal - r.lowNormal}, {next.high - r.high, next.highNormal - r.highNormal}})
            if (step.norm() > 1e-6 && bend.norm() > 1e-4 && bend.dot(step) < 0.0) look.hollow = std::min(look.hollow, step.norm() / bend.norm());
    }
    // Below the lower end: a face that goes on smoothly and turns outward is a fillet, one at an inner corner a floor.
    std::size_t sharp = 0, fillets = 0, asked = 0;
    for (const int f : wall.faces)
        for (const auto& loop : part.faces()[static_cast<std::size_t>(f)].loops)
            for (const int e : loop) {
                const EdgeInfo& info = part.edges()[static_cast<std::size_t>(e)];
                const bool lower = std::any_of(wall.rulings.begin(), wall.rulings.end(), [&](const Ruling& r) { return (r.low - info.middle).norm() < 0.6; });
                if (info.degenerate || !lower) continue;
                ++asked;
                if (info.angle < -radians(20.0)) ++sharp;
                if (std::abs(info.angle) > radians(5.0)) continue;
                const int other = info.faces[0] == f ? info.faces[1] : info.faces[0];
                if (other < 0) continue;
                const FaceInfo& foot = part.faces()[static_cast<std::size_t>(other)];
                ++fillets;
                const Ruling& r = *std::min_element(wall.rulings.begin(), wall.rulings.end(),
                                                    [&](const Ruling& a, const Ruling& b) { return (a.low - info.middle).norm() < (b.low - info.middle).norm(); });
                if (foot.kind != SurfaceKind::FreeForm && foot.kind != SurfaceKind::Plane && foot.radius > 0.0) look.fillet = std::min(look.fillet, foot.radius);
                if (foot.kind == SurfaceKind::FreeForm) { // how soon it bends out from under the wall
                    const SurfacePoint at = part.project(other, r.low);
                    const Vec3 down = (r.low - r.high).normalized();
                    const double bend = part.bend(other, at, down).dot(r.lowNormal);
                    if (bend > 1e-6) look.fillet = std::min(look.fillet, 1.0 / bend);
                }
            }
    if (asked > 0 && 2 * fillets >= asked)
        look.foot = Foot::Fillet;
    else if (sharp > 0)
        look.foot = Foot::Sharp;
    return look;
}

/// Between rails nothing is known of the wall but how it stands: that tells the skin. Tool and steps stay.
void fitBetweenRails(const Job& job, const Workplace& place, Recipe& r) {
    std::vector<Vec3> directions{Vec3::UnitZ(), Vec3(0.3, 0.2, 0.9).normalized()};
    if (const auto rails = wallRails(place, r)) {
        directions.clear();
        constexpr int kLooks = 24;
        for (int i = 0; i <= kLooks; ++i) {
            const double at = static_cast<double>(i) / kLooks;
            const Vec3 up = pointAt(rails->upper, at) - pointAt(rails->lower, at);
            if (up.norm() > 1e-6) directions.push_back(up.normalized());
        }
    }
    r.link->skin = skinAround(place, directions, false);
    if (const Assembly* a = job.tool(r.tool)) r.link->entryRadius = tidy(0.25 * a->cutter.diameter, 0.5);
}

void fitSwarf(const Job& job, const Workplace& place, Recipe& r) {
    if (r.swarf->fromRails) return fitBetweenRails(job, place, r);
    const auto faces = resolveFaces(*place.part, r.target->faces);
    if (!faces || faces->empty()) return;
    const auto wall = wallOfFaces(*place.part, *faces, 0.01, 2.0, 5.0);
    if (!wall) return;
    const WallLook look = lookAt(*place.part, *wall);
    const auto fits = [&](const Assembly& a) { return 0.5 * a.cutter.diameter < look.hollow && a.cutter.shoulderLength > 0.0; };
    std::string tool = bestTool(job, [&](const Assembly& a) -> std::optional<double> {
        if (!fits(a)) return std::nullopt;
        const bool ball = isBall(a.cutter.shape), flat = a.cutter.shape == CutterShape::Flat;
        if (look.foot == Foot::Fillet ? !ball || 0.5 * a.cutter.diameter > look.fillet * 1.02 : !flat) return std::nullopt;
        // The shank stays above the wall before all; long flutes next, then a stout one.
        const double deep = look.tallest + (look.foot == Foot::Fillet ? flankStart(a.cutter) : 0.0);
        const double stands = a.cutter.shankDiameter > a.cutter.diameter ? std::max(0.0, deep + 1.0 - a.cutter.shoulderLength) : 0.0;
        return a.cutter.diameter - 2.0 * std::max(0.0, look.tallest - cuttingLength(a.cutter)) - 100.0 * stands;
    });
    if (!tool.empty()) r.tool = tool;
    const Assembly* a = job.tool(r.tool);
    if (!a) return;
    const double start = flankStart(a->cutter);
    r.swarf->past = look.foot == Foot::Sharp ? 0.0 : look.foot == Foot::Fillet ? start : start + 1.0;
    const double whole = look.tallest + r.swarf->past, flutes = cuttingLength(a->cutter);
    r.swarf->stepdown = whole > flutes + 1e-6 ? std::max(0.5, std::floor(0.9 * flutes)) : 0.0;
    r.link->entryRadius = tidy(0.25 * a->cutter.diameter, 0.5);
    r.link->skin = skinAround(place, look.directions, false);
}

void fitCurve(const Job& job, const Workplace& place, Recipe& r) {
    const auto faces = resolveFaces(*place.part, r.target->faces);
    const bool channel = r.curve->by == CurveBy::Channel;
    double room = 1e9;
    if (channel && faces && !faces->empty())
        if (const auto rails = proposeRails(*place.part, *faces)) {
            for (const int e : rails->first.edges) r.pattern->rail1.push_back(place.part->edgeRef(e));
            for (const int e : rails->second.edges) r.pattern->rail2.push_back(place.part->edgeRef(e));
            const PolylineDistance across(chainLine(*place.part, rails->second));
            for (const Vec3& p : chainLine(*place.part, rails->first)) room = std::min(room, across.distance(p));
            for (const int f : *faces)
                if (const FaceInfo& i = place.part->faces()[static_cast<std::size_t>(f)]; i.kind != SurfaceKind::FreeForm && i.radius > 0.0)
                    room = std::min(room, 2.0 * i.radius);
        }
    const std::string tool = bestTool(job, [&](const Assembly& a) -> std::optional<double> {
        if (!isBall(a.cutter.shape)) return std::nullopt;
        if (channel) return a.cutter.diameter <= 0.95 * room ? std::optional(a.cutter.diameter - (a.id.find("long") == std::string::npos ? 0.1 : 0.0)) : std::nullopt;
        return -a.cutter.diameter;
    });
    if (!tool.empty()) r.tool = tool;
    const Assembly* a = job.tool(r.tool);
    const double d = a ? a->cutter.diameter : 6.0;
    r.curve->stepdown = tidy((channel ? 0.3 : 0.1) * d, 0.1);
    r.link->entryRadius = channel ? 0.0 : std::min(2.0, tidy(0.25 * d, 0.5));
    r.link->skin = skinAround(place, {Vec3::UnitZ(), Vec3(0.3, 0.2, 0.9).normalized()}, false);
}

void fitBreak(const Job& job, const Workplace& place, Recipe& r) {
    const bool ofHoles = r.edge->edges >= BreakEdges::HolesNear;
    std::vector<Vec3> directions{Vec3::UnitZ(), Vec3(0.3, 0.2, 0.9).normalized()};
    std::string tool;
    if (ofHoles) {
        std::size_t lost = 0;
        double narrow = 1e9, deep = 0.0;
        directions.clear();
        for (const Hole& h : holesMeant(place, r, lost)) {
            narrow = std::min(narrow, h.diameter());
            directions.push_back(h.direction);
            deep = std::max(deep, h.depth);
        }
        // Rapids end outside: within the holes the neck has little room.
        if (r.edge->edges != BreakEdges::HolesNear && deep > 0.0) r.link->approach = std::ceil(deep + 2.0);
        r.edge->size = narrow < 1e8 ? tidy(std::min(0.3, 0.06 * narrow), 0.05) : r.edge->size;
        // A lollipop that goes in; for near edges alone a small ball does as well.
        tool = bestTool(job, [&](const Assembly& a) -> std::optional<double> {
            const bool pop = a.cutter.shape == CutterShape::Lollipop;
            if (pop && a.cutter.diameter <= narrow - 2.0 * 0.1) return a.cutter.diameter;
            if (r.edge->edges == BreakEdges::HolesNear && isBall(a.cutter.shape)) return -a.cutter.diameter;
            return std::nullopt;
        });
    } else {
        tool = bestTool(job, [&](const Assembly& a) -> std::optional<double> {
            return isBall(a.cutter.shape) && a.cutter.diameter >= 6.0 * r.edge->size ? std::optional(-a.cutter.diameter) : std::nullopt;
        });
    }
    if (!tool.empty()) r.tool = tool;
    if (ofHoles && r.edge->edges != BreakEdges::HolesNear) r.guard->shankClearance = 0.2; // the neck goes through the holes; the proof asks for as much
    r.link->entryRadius = ofHoles ? 0.0 : 1.0;
    r.link->smallGap = 0.0;
    r.link->low = true;
    if (!directions.empty()) r.link->skin = skinAround(place, directions, false);
}

} // namespace

void fitAlong(const Job& job, const Workplace& place, Recipe& recipe) {
    if (!place.part) return;
    if (recipe.kind == OperationKind::Swarf) fitSwarf(job, place, recipe);
    if (recipe.kind == OperationKind::Curve) fitCurve(job, place, recipe);
    if (recipe.kind == OperationKind::Edge) fitBreak(job, place, recipe);
}

Recipe proposeAlong(const Job& job, const Workplace& place, OperationKind kind, BreakEdges edges) {
    Recipe r;
    r.id = job.freshId();
    r.kind = kind;
    r.name = kind == OperationKind::Swarf ? "Wall" : kind == OperationKind::Curve ? "Along a curve" : edges >= BreakEdges::HolesNear ? "Hole edges" : "Edges";
    r.edge->edges = edges;
    r.pattern->longestStep = kind == OperationKind::Edge ? 1.0 : 2.0;
    if (!job.tools.empty()) r.tool = job.tools.front().id;
    fitAlong(job, place, r);
    return r;
}

std::optional<Mend> raisedMiddle(const Job& job, const Part& part, const Recipe& recipe) {
    if (recipe.pattern->rail1.empty() || recipe.pattern->rail2.empty()) return std::nullopt;
    Mend m;
    m.kind = MendKind::Middle;
    m.name = job.freshMendName(MendKind::Middle);
    m.first.edges = recipe.pattern->rail1;
    m.second.edges = recipe.pattern->rail2;
    // Off the faces, along the axis of the datum that they look along most.
    Vec3 up = Vec3::Zero();
    for (const ShapeRef& r : recipe.target->faces)
        if (const auto f = part.findFace(r)) up += part.faces()[static_cast<std::size_t>(*f)].area * part.faces()[static_cast<std::size_t>(*f)].normal;
    int k = 2;
    if (up.norm() > 1e-9) up.cwiseAbs().maxCoeff(&k);
    const auto middle = [&](const std::vector<ShapeRef>& rail) {
        Box all;
        for (const ShapeRef& r : rail)
            if (const auto e = part.findEdge(r))
                for (const Vec3& p : part.edgeLine(*e)) all.add(p);
        return all.empty() ? Vec3(Vec3::Zero()) : all.centre();
    };
    const double apart = std::clamp(std::round((middle(m.first.edges) - middle(m.second.edges)).norm()), 10.0, 500.0);
    m.numbers = {{"raise", up[k] < 0.0 ? -apart : apart}, {"along", static_cast<double>(k)}};
    return m;
}

} // namespace gyre
