#include "tool/Assembly.h"
#include "base/Units.h"
#include <fmt/format.h>

namespace gyre {

const char* cutterShapeName(CutterShape shape) {
    switch (shape) {
    case CutterShape::Flat:
        return "flat";
    case CutterShape::Ball:
        return "ball";
    case CutterShape::CornerRadius:
        return "corner radius";
    case CutterShape::TaperedBall:
        return "tapered ball";
    case CutterShape::Tapered:
        return "tapered";
    case CutterShape::Lollipop:
        return "lollipop";
    case CutterShape::Chamfer:
        return "chamfer";
    case CutterShape::Drill:
        return "drill";
    case CutterShape::Spot:
        return "spot drill";
    case CutterShape::Barrel:
        return "barrel";
    }
    return "";
}

CutterUse usedBy(CutterShape shape) {
    CutterUse u;
    u.cornerRadius = shape == CutterShape::CornerRadius || shape == CutterShape::Barrel;
    u.taper = shape == CutterShape::TaperedBall || shape == CutterShape::Tapered;
    u.point = shape == CutterShape::Chamfer || shape == CutterShape::Drill || shape == CutterShape::Spot;
    u.tip = shape == CutterShape::Chamfer;
    u.profile = shape == CutterShape::Barrel;
    u.fluteLength = shape != CutterShape::Lollipop;
    return u;
}

namespace {

/// The neck leaves a lollipop's ball where it is as thick as the ball is there.
double lollipopEnd(const Cutter& c) {
    const double r = 0.5 * c.diameter, n = std::min(0.5 * c.neckDiameter, r);
    return r + std::sqrt(r * r - n * n);
}

/// Height of a point above the tip where it has the full diameter.
double pointHeight(const Cutter& c) { return 0.5 * (c.diameter - (c.shape == CutterShape::Chamfer ? c.tipDiameter : 0.0)) / std::tan(radians(0.5 * c.pointDegrees)); }

} // namespace

double cuttingLength(const Cutter& c) { return c.shape == CutterShape::Lollipop ? lollipopEnd(c) : c.fluteLength; }

Cutter asShape(const Cutter& from, CutterShape shape) {
    Cutter c = from;
    c.shape = shape;
    const CutterUse use = usedBy(shape);
    const double r = 0.5 * c.diameter;
    if (use.cornerRadius && !(c.cornerRadius > 0.0 && c.cornerRadius < r)) c.cornerRadius = 0.2 * c.diameter;
    if (use.taper && !(c.taperDegrees > 0.0 && c.taperDegrees <= 60.0)) c.taperDegrees = 3.0;
    if (use.tip && !(c.tipDiameter < c.diameter)) c.tipDiameter = 0.1 * c.diameter;
    if (use.point) c.pointDegrees = shape == CutterShape::Drill ? 140.0 : 90.0;
    if (use.fluteLength) {
        double least = use.point ? pointHeight(c) : shape == CutterShape::Ball || shape == CutterShape::TaperedBall ? r : 0.1 * c.diameter;
        if (shape == CutterShape::Barrel) least = c.cornerRadius + 0.5 * r;
        c.fluteLength = std::max(c.fluteLength, least);
    }
    if (use.profile) {
        // Large enough that the flank does not cross the axis above the nose.
        const double high = c.fluteLength - c.cornerRadius, room = r - c.cornerRadius;
        c.profileRadius = std::max({c.profileRadius, 1.2 * (0.5 * (high * high / room + room) + c.cornerRadius), c.diameter});
    }
    if (shape == CutterShape::Lollipop && c.neckDiameter >= c.diameter) c.neckDiameter = 0.6 * c.diameter;
    c.shoulderLength = std::max(c.shoulderLength, cuttingLength(c));
    c.overallLength = std::max(c.overallLength, c.shoulderLength);
    return c;
}

Assembly possible(Assembly a) {
    Cutter& c = a.cutter;
    const auto atLeast = [](double& v, double least) { v = std::max(v, least); };
    for (double* v : {&c.diameter, &c.shankDiameter, &c.neckDiameter, &c.fluteLength, &c.shoulderLength, &c.overallLength, &a.stickOut}) atLeast(*v, 0.5);
    if (c.shape == CutterShape::Lollipop) c.neckDiameter = std::min(c.neckDiameter, 0.6 * c.diameter);
    c.cornerRadius = std::min(c.cornerRadius, 0.4 * c.diameter);
    c.taperDegrees = std::min(c.taperDegrees, 45.0);
    c.tipDiameter = std::min(c.tipDiameter, 0.5 * c.diameter);
    const double point = std::clamp(c.pointDegrees, 30.0, 170.0);
    if (c.shape == CutterShape::Barrel) { // a flank that is an arc of a sensible size
        c.cornerRadius = std::clamp(c.cornerRadius, 0.05 * c.diameter, 0.3 * c.diameter);
        c.fluteLength = std::min(c.fluteLength, 2.0 * c.diameter);
        c.profileRadius = std::min(c.profileRadius, 5e3);
    }
    c = asShape(c, c.shape);
    if (usedBy(c.shape).point) {
        c.pointDegrees = point;
        atLeast(c.fluteLength, pointHeight(c));
    }
    atLeast(c.shoulderLength, cuttingLength(c));
    atLeast(c.overallLength, c.shoulderLength);
    a.stickOut = std::clamp(a.stickOut, cuttingLength(c), std::max(cuttingLength(c), c.overallLength));
    atLeast(c.overallLength, a.stickOut);
    for (HolderStep& s : a.holder)
        for (double* v : {&s.lowerDiameter, &s.upperDiameter, &s.length}) atLeast(*v, 1.0);
    for (CuttingData& d : a.materials) {
        if (d.material.empty()) d.material = "steel";
        atLeast(d.surfaceSpeed, 1.0);
        atLeast(d.chipLoad, 0.001);
    }
    return a;
}

bool useMaterial(Assembly& a, const std::string& material) {
    for (const CuttingData& d : a.materials)
        if (d.material == material) {
            a.spindleSpeed = std::round(1000.0 * d.surfaceSpeed / (kPi * a.cutter.diameter));
            a.feedPerTooth = d.chipLoad;
            return true;
        }
    return false;
}

const char* coolantName(Coolant c) {
    static constexpr const char* kNames[] = {"none", "flood", "mist", "through"};
    return kNames[static_cast<int>(c)];
}

const char* zoneName(Zone zone) { return zone == Zone::Cutter ? "cutter" : zone == Zone::Shank ? "shank" : "holder"; }

double Assembly::gaugeLength() const {
    double sum = stickOut;
    for (const auto& s : holder) sum += s.length;
    return sum;
}

double contactRadius(const Cutter& c) {
    switch (c.shape) {
    case CutterShape::Ball:
    case CutterShape::TaperedBall:
    case CutterShape::Lollipop:
        return 0.5 * c.diameter;
    case CutterShape::CornerRadius:
    case CutterShape::Barrel:
        return c.cornerRadius;
    default:
        return 0.0;
    }
}

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

} // namespace

std::vector<RoundedFrustum> cuttingZone(const Cutter& c) {
    const double r = 0.5 * c.diameter;
    switch (c.shape) {
    case CutterShape::Flat:
        return {{0.0, r, c.fluteLength, r, 0.0}};
    case CutterShape::Ball:
        return {{r, 0.0, r, 0.0, r}, {r, r, c.fluteLength, r, 0.0}};
    case CutterShape::CornerRadius: {
        const double k = c.cornerRadius;
        return {{k, r - k, k, r - k, k}, {k, r, c.fluteLength, r, 0.0}};
    }
    case CutterShape::TaperedBall: {
        // The flank is tangent to the ball where its normal dips by the half angle.
        const double a = radians(c.taperDegrees);
        const double z = r - r * std::sin(a), radius = r * std::cos(a);
        return {{r, 0.0, r, 0.0, r}, {z, radius, c.fluteLength, radius + (c.fluteLength - z) * std::tan(a), 0.0}};
    }
    case CutterShape::Tapered:
        return {{0.0, r, c.fluteLength, r + c.fluteLength * std::tan(radians(c.taperDegrees)), 0.0}};
    case CutterShape::Lollipop:
        return {{r, 0.0, r, 0.0, r}};
    case CutterShape::Chamfer:
    case CutterShape::Drill:
    case CutterShape::Spot: {
        const double h = pointHeight(c);
        std::vector<RoundedFrustum> zone{{0.0, c.shape == CutterShape::Chamfer ? 0.5 * c.tipDiameter : 0.0, h, r, 0.0}};
        if (c.fluteLength > h + 1e-9) zone.push_back({h, r, c.fluteLength, r, 0.0});
        return zone;
    }
    case CutterShape::Barrel:
        return barrelZone(c);
    }
    return {};
}

std::vector<Piece> piecesOf(const Assembly& assembly) {
    const Cutter& c = assembly.cutter;
    std::vector<Piece> pieces;
    for (const auto& f : cuttingZone(c)) pieces.push_back({f, Zone::Cutter, "cutter"});
    const double cutEnd = cuttingLength(c), neckEnd = std::min(c.shoulderLength, assembly.stickOut);
    if (neckEnd > cutEnd + 1e-9) pieces.push_back({{cutEnd, 0.5 * c.neckDiameter, neckEnd, 0.5 * c.neckDiameter, 0.0}, Zone::Shank, "neck"});
    const double shankStart = std::max(cutEnd, neckEnd);
    if (assembly.stickOut > shankStart + 1e-9)
        pieces.push_back({{shankStart, 0.5 * c.shankDiameter, assembly.stickOut, 0.5 * c.shankDiameter, 0.0}, Zone::Shank, "shank"});
    double z = assembly.stickOut;
    for (std::size_t i = 0; i < assembly.holder.size(); ++i) {
        const auto& s = assembly.holder[i];
        pieces.push_back({{z, 0.5 * s.lowerDiameter, z + s.length, 0.5 * s.upperDiameter, 0.0},
                          Zone::Holder,
                          i == 0                            ? "holder nose"
                          : i + 1 == assembly.holder.size() ? "holder flange"
                                                            : "holder body"});
        z += s.length;
    }
    return pieces;
}

Status validate(const Assembly& a) {
    const Cutter& c = a.cutter;
    const auto finite = [](double v) { return std::isfinite(v) && std::abs(v) < 1e5; };
    const std::string place = a.name.empty() ? a.id : a.name;
    for (double v : {c.diameter, c.cornerRadius, c.taperDegrees, c.fluteLength, c.shoulderLength, c.neckDiameter, c.shankDiameter, c.overallLength, c.pointDegrees,
                     c.tipDiameter, c.profileRadius, a.stickOut, a.spindleSpeed, a.feedPerTooth})
        if (!finite(v)) return fail("a size of the tool is not a sensible number", place);
    if (c.diameter <= 0.0) return fail(fmt::format("the cutter diameter {} mm must be above 0", c.diameter), place);
    if (c.shankDiameter <= 0.0 || c.neckDiameter <= 0.0) return fail("shank and neck need a diameter above 0", place);
    if (c.shape == CutterShape::CornerRadius && (c.cornerRadius <= 0.0 || c.cornerRadius > 0.5 * c.diameter))
        return fail(fmt::format("a corner radius of {} mm does not fit on a diameter of {} mm", c.cornerRadius, c.diameter), place,
                    "Use a radius above 0 and at most half the diameter");
    const CutterUse use = usedBy(c.shape);
    if (use.taper && !(c.taperDegrees >= (c.shape == CutterShape::Tapered ? 1e-3 : 0.0) && c.taperDegrees <= 60.0))
        return fail(fmt::format("a flank of {}° is not a tapered cutter", c.taperDegrees), place, "Use 0° to 60°");
    if (c.fluteLength <= 0.0 && use.fluteLength) return fail("the flutes need a length above 0", place);
    if ((c.shape == CutterShape::Ball || c.shape == CutterShape::TaperedBall) && c.fluteLength < 0.5 * c.diameter)
        return fail("the flutes end below the middle of the ball", place, "Use a flute length of at least half the diameter");
    if (c.shape == CutterShape::Lollipop && c.neckDiameter >= c.diameter)
        return fail(fmt::format("a neck of {} mm hides the ball of {} mm", c.neckDiameter, c.diameter), place, "Use a neck thinner than the ball");
    if (use.point && !(c.pointDegrees >= 10.0 && c.pointDegrees <= 179.0))
        return fail(fmt::format("a point of {}° cannot be ground", c.pointDegrees), place, "Use 10° to 179°");
    if (use.tip && !(c.tipDiameter >= 0.0 && c.tipDiameter < c.diameter))
        return fail(fmt::format("a tip of {} mm leaves no cone below {} mm", c.tipDiameter, c.diameter), place);
    if (use.point && c.fluteLength < pointHeight(c) - 1e-9)
        return fail(fmt::format("the flutes of {} mm end on the point, which is {:.3f} mm high", c.fluteLength, pointHeight(c)), place, "Use longer flutes");
    if (use.profile) {
        if (!(c.cornerRadius > 0.0) || c.cornerRadius > 0.5 * c.diameter)
            return fail(fmt::format("a nose of {} mm does not fit on a barrel of {} mm", c.cornerRadius, c.diameter), place);
        if (c.profileRadius <= 0.5 * c.diameter)
            return fail(fmt::format("a flank of radius {} mm is no larger than the cutter's own", c.profileRadius), place, "Use a larger one, or a ball");
        if (c.profileRadius - c.cornerRadius <= std::abs(c.fluteLength - c.cornerRadius) || c.fluteLength <= c.cornerRadius || barrelProfile(c).nose.x() < -1e-9)
            return fail(fmt::format("a flank of radius {} mm over {} mm meets the axis above the nose", c.profileRadius, c.fluteLength), place,
                        "Use a larger flank radius, shorter flutes or a smaller nose");
    }
    if (use.fluteLength && c.fluteLength > c.overallLength)
        return fail(fmt::format("flutes of {} mm are longer than the whole tool of {} mm", c.fluteLength, c.overallLength), place);
    if (c.shoulderLength < cuttingLength(c) - 1e-9)
        return fail(fmt::format("the shoulder at {:.4g} mm lies below the end of the cutting part at {:.4g} mm", c.shoulderLength, cuttingLength(c)), place);
    if (a.stickOut > c.overallLength)
        return fail(fmt::format("a stick-out of {} mm leaves nothing of the {} mm long tool in the holder", a.stickOut, c.overallLength), place,
                    "Use a longer tool or a shorter stick-out");
    if (a.stickOut < cuttingLength(c)) return fail(fmt::format("a stick-out of {} mm buries the flutes ({:.4g} mm) in the holder", a.stickOut, cuttingLength(c)), place);
    if (c.flutes < 1 || c.flutes > 64) return fail("a cutter has 1 to 64 flutes", place);
    if (a.holder.size() > 64) return fail("a holder has at most 64 steps", place);
    for (const auto& s : a.holder)
        if (!finite(s.lowerDiameter) || !finite(s.upperDiameter) || !finite(s.length) || s.lowerDiameter <= 0.0 || s.upperDiameter <= 0.0 || s.length <= 0.0)
            return fail("every step of the holder needs diameters and a length above 0", place);
    if (a.materials.size() > 200) return fail("a tool knows at most 200 materials", place);
    for (const CuttingData& d : a.materials)
        if (d.material.empty() || !finite(d.surfaceSpeed) || !finite(d.chipLoad) || d.surfaceSpeed <= 0.0 || d.chipLoad <= 0.0)
            return fail("a material needs a name, a surface speed and a chip load above 0", place);
    if (a.spindleSpeed < 0.0 || a.feedPerTooth < 0.0) return fail("speed and feed cannot be negative", place);
    return {};
}

std::string shortName(const Cutter& c) {
    switch (c.shape) {
    case CutterShape::Flat:
        return fmt::format("Ø{:g} flat", c.diameter);
    case CutterShape::Ball:
        return fmt::format("Ø{:g} ball", c.diameter);
    case CutterShape::CornerRadius:
        return fmt::format("Ø{:g} R{:g}", c.diameter, c.cornerRadius);
    case CutterShape::TaperedBall:
    case CutterShape::Tapered:
        return fmt::format("Ø{:g} taper {:g}°", c.diameter, c.taperDegrees);
    case CutterShape::Lollipop:
        return fmt::format("Ø{:g} lollipop", c.diameter);
    case CutterShape::Chamfer:
        return fmt::format("Ø{:g} chamfer {:g}°", c.diameter, c.pointDegrees);
    case CutterShape::Drill:
        return fmt::format("Ø{:g} drill", c.diameter);
    case CutterShape::Spot:
        return fmt::format("Ø{:g} spot {:g}°", c.diameter, c.pointDegrees);
    case CutterShape::Barrel:
        return fmt::format("Ø{:g} barrel R{:g}", c.diameter, c.profileRadius);
    }
    return {};
}

} // namespace gyre
