#include "base/Units.h"
#include "tool/CutterKind.h"
#include <fmt/format.h>

namespace gyre {

// In the half plane through the axis: the nose is a circle of radius RE that stands on z = 0 and touches the flank's arc from inside;
// the arc's middle lies at the height of the flutes' end, R from the full radius.
BarrelProfile barrelProfile(const Cutter& c) {
    BarrelProfile b;
    b.radius = c.profileRadius;
    b.middle = Vec2(0.5 * c.diameter - c.profileRadius, c.fluteLength);
    const double apart = c.profileRadius - c.cornerRadius, high = c.fluteLength - c.cornerRadius;
    b.nose = Vec2(b.middle.x() + std::sqrt(std::max(0.0, apart * apart - high * high)), c.cornerRadius);
    b.join = (b.nose - b.middle).normalized();
    return b;
}

double pointHeightOf(const Cutter& c) { return 0.5 * (c.diameter - (c.shape == CutterShape::Chamfer ? c.tipDiameter : 0.0)) / std::tan(radians(0.5 * c.pointDegrees)); }

namespace {

// The arc as frusta whose corners stand out of it by half of what their flanks fall short of it.
std::vector<RoundedFrustum> barrelZone(const Cutter& c) {
    constexpr double kShort = 0.002; // mm
    const BarrelProfile b = barrelProfile(c);
    const double from = std::atan2(b.join.y(), b.join.x()), n = std::ceil(std::abs(from) / std::sqrt(8.0 * kShort / b.radius));
    const int pieces = std::clamp(static_cast<int>(n), 2, 64);
    const double fall = b.radius * (1.0 - std::cos(0.5 * from / pieces)), r = b.radius + 0.5 * fall;
    std::vector<RoundedFrustum> zone{{b.nose.y(), std::max(0.0, b.nose.x()), b.nose.y(), std::max(0.0, b.nose.x()), c.cornerRadius}};
    Vec2 last;
    for (int i = 0; i <= pieces; ++i) {
        const double a = from * (1.0 - static_cast<double>(i) / pieces);
        const Vec2 p = b.middle + r * Vec2(std::cos(a), std::sin(a));
        if (i > 0) zone.push_back({last.y(), last.x(), p.y(), p.x(), 0.0});
        last = p;
    }
    return zone;
}

/// The neck leaves a lollipop's ball where it is as thick as the ball is there.
double lollipopEnd(const Cutter& c) {
    const double r = 0.5 * c.diameter, n = std::min(0.5 * c.neckDiameter, r);
    return r + std::sqrt(r * r - n * n);
}

std::vector<RoundedFrustum> flatZone(const Cutter& c) { return {{0.0, 0.5 * c.diameter, c.fluteLength, 0.5 * c.diameter, 0.0}}; }

std::vector<RoundedFrustum> ballZone(const Cutter& c) {
    const double r = 0.5 * c.diameter;
    return {{r, 0.0, r, 0.0, r}, {r, r, c.fluteLength, r, 0.0}};
}

std::vector<RoundedFrustum> cornerZone(const Cutter& c) {
    const double r = 0.5 * c.diameter, k = c.cornerRadius;
    return {{k, r - k, k, r - k, k}, {k, r, c.fluteLength, r, 0.0}};
}

// The flank is tangent to the ball where its normal dips by the half angle.
std::vector<RoundedFrustum> taperedBallZone(const Cutter& c) {
    const double r = 0.5 * c.diameter, a = radians(c.taperDegrees), z = r - r * std::sin(a), radius = r * std::cos(a);
    return {{r, 0.0, r, 0.0, r}, {z, radius, c.fluteLength, radius + (c.fluteLength - z) * std::tan(a), 0.0}};
}

std::vector<RoundedFrustum> taperedZone(const Cutter& c) {
    const double r = 0.5 * c.diameter;
    return {{0.0, r, c.fluteLength, r + c.fluteLength * std::tan(radians(c.taperDegrees)), 0.0}};
}

std::vector<RoundedFrustum> lollipopZone(const Cutter& c) {
    const double r = 0.5 * c.diameter;
    return {{r, 0.0, r, 0.0, r}};
}

std::vector<RoundedFrustum> pointedZone(const Cutter& c) {
    const double r = 0.5 * c.diameter, h = pointHeightOf(c);
    std::vector<RoundedFrustum> zone{{0.0, c.shape == CutterShape::Chamfer ? 0.5 * c.tipDiameter : 0.0, h, r, 0.0}};
    if (c.fluteLength > h + 1e-9) zone.push_back({h, r, c.fluteLength, r, 0.0});
    return zone;
}

double noRadius(const Cutter&) { return 0.0; }
double halfDiameter(const Cutter& c) { return 0.5 * c.diameter; }
double cornerRadius(const Cutter& c) { return c.cornerRadius; }

Status anyIsValid(const Cutter&, const std::string&) { return {}; }

Status ballIsValid(const Cutter& c, const std::string& place) {
    if (c.fluteLength < 0.5 * c.diameter) return fail("the flutes end below the middle of the ball", place, "Use a flute length of at least half the diameter");
    return {};
}

Status cornerIsValid(const Cutter& c, const std::string& place) {
    if (c.cornerRadius <= 0.0 || c.cornerRadius > 0.5 * c.diameter)
        return fail(fmt::format("a corner radius of {} mm does not fit on a diameter of {} mm", c.cornerRadius, c.diameter), place,
                    "Use a radius above 0 and at most half the diameter");
    return {};
}

Status taperIsValid(const Cutter& c, const std::string& place) {
    if (!(c.taperDegrees >= (c.shape == CutterShape::Tapered ? 1e-3 : 0.0) && c.taperDegrees <= 60.0))
        return fail(fmt::format("a flank of {}° is not a tapered cutter", c.taperDegrees), place, "Use 0° to 60°");
    return c.shape == CutterShape::TaperedBall ? ballIsValid(c, place) : Status{};
}

Status lollipopIsValid(const Cutter& c, const std::string& place) {
    if (c.neckDiameter >= c.diameter)
        return fail(fmt::format("a neck of {} mm hides the ball of {} mm", c.neckDiameter, c.diameter), place, "Use a neck thinner than the ball");
    return {};
}

Status pointIsValid(const Cutter& c, const std::string& place) {
    if (!(c.pointDegrees >= 10.0 && c.pointDegrees <= 179.0)) return fail(fmt::format("a point of {}° cannot be ground", c.pointDegrees), place, "Use 10° to 179°");
    if (c.shape == CutterShape::Chamfer && !(c.tipDiameter >= 0.0 && c.tipDiameter < c.diameter))
        return fail(fmt::format("a tip of {} mm leaves no cone below {} mm", c.tipDiameter, c.diameter), place);
    if (c.fluteLength < pointHeightOf(c) - 1e-9)
        return fail(fmt::format("the flutes of {} mm end on the point, which is {:.3f} mm high", c.fluteLength, pointHeightOf(c)), place, "Use longer flutes");
    return {};
}

Status barrelIsValid(const Cutter& c, const std::string& place) {
    if (!(c.cornerRadius > 0.0) || c.cornerRadius > 0.5 * c.diameter)
        return fail(fmt::format("a nose of {} mm does not fit on a barrel of {} mm", c.cornerRadius, c.diameter), place);
    if (c.profileRadius <= 0.5 * c.diameter)
        return fail(fmt::format("a flank of radius {} mm is no larger than the cutter's own", c.profileRadius), place, "Use a larger one, or a ball");
    if (c.profileRadius - c.cornerRadius <= std::abs(c.fluteLength - c.cornerRadius) || c.fluteLength <= c.cornerRadius || barrelProfile(c).nose.x() < -1e-9)
        return fail(fmt::format("a flank of radius {} mm over {} mm meets the axis above the nose", c.profileRadius, c.fluteLength), place,
                    "Use a larger flank radius, shorter flutes or a smaller nose");
    return {};
}

const CutterKind kKinds[] = {
    {CutterShape::Flat, "flat", "flat", {}, flatZone, noRadius, [](const Cutter&) -> std::string { return "flat"; }, anyIsValid},
    {CutterShape::Ball, "ball", "ball", {}, ballZone, halfDiameter, [](const Cutter&) -> std::string { return "ball"; }, ballIsValid},
    {CutterShape::CornerRadius,
     "cornerRadius",
     "corner radius",
     {.cornerRadius = true},
     cornerZone,
     cornerRadius,
     [](const Cutter& c) { return fmt::format("R{:g}", c.cornerRadius); },
     cornerIsValid},
    {CutterShape::TaperedBall,
     "taperedBall",
     "tapered ball",
     {.taper = true},
     taperedBallZone,
     halfDiameter,
     [](const Cutter& c) { return fmt::format("taper {:g}°", c.taperDegrees); },
     taperIsValid},
    {CutterShape::Tapered,
     "tapered",
     "tapered",
     {.taper = true},
     taperedZone,
     noRadius,
     [](const Cutter& c) { return fmt::format("taper {:g}°", c.taperDegrees); },
     taperIsValid},
    {CutterShape::Lollipop,
     "lollipop",
     "lollipop",
     {.fluteLength = false},
     lollipopZone,
     halfDiameter,
     [](const Cutter&) -> std::string { return "lollipop"; },
     lollipopIsValid},
    {CutterShape::Chamfer,
     "chamfer",
     "chamfer",
     {.point = true, .tip = true},
     pointedZone,
     noRadius,
     [](const Cutter& c) { return fmt::format("chamfer {:g}°", c.pointDegrees); },
     pointIsValid},
    {CutterShape::Drill, "drill", "drill", {.point = true}, pointedZone, noRadius, [](const Cutter&) -> std::string { return "drill"; }, pointIsValid},
    {CutterShape::Spot,
     "spot",
     "spot drill",
     {.point = true},
     pointedZone,
     noRadius,
     [](const Cutter& c) { return fmt::format("spot {:g}°", c.pointDegrees); },
     pointIsValid},
    {CutterShape::Barrel,
     "barrel",
     "barrel",
     {.cornerRadius = true, .profile = true},
     barrelZone,
     cornerRadius,
     [](const Cutter& c) { return fmt::format("barrel R{:g}", c.profileRadius); },
     barrelIsValid},
};
static_assert(std::size(kKinds) == kCutterShapes);

} // namespace

const CutterKind& kindOf(CutterShape shape) { return kKinds[static_cast<std::size_t>(shape)]; }
const char* cutterShapeName(CutterShape shape) { return kindOf(shape).name; }
CutterUse usedBy(CutterShape shape) { return kindOf(shape).use; }
double cuttingLength(const Cutter& c) { return c.shape == CutterShape::Lollipop ? lollipopEnd(c) : c.fluteLength; }
double contactRadius(const Cutter& c) { return kindOf(c.shape).contactRadius(c); }
std::vector<RoundedFrustum> cuttingZone(const Cutter& c) { return kindOf(c.shape).zone(c); }
std::string shortName(const Cutter& c) { return fmt::format("Ø{:g} {}", c.diameter, kindOf(c.shape).brief(c)); }

} // namespace gyre
