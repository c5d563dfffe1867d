#include "base/Units.h"
#include "tool/CutterKind.h"
#include <fmt/format.h>

namespace gyre {

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
        double least = use.point ? pointHeightOf(c) : shape == CutterShape::Ball || shape == CutterShape::TaperedBall ? r : 0.1 * c.diameter;
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
        atLeast(c.fluteLength, pointHeightOf(c));
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
            a.spindleSpeed = std::min(kFastestSpindle, std::round(1000.0 * d.surfaceSpeed / (kPi * a.cutter.diameter)));
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
    const CutterKind& kind = kindOf(c.shape);
    const CutterUse use = kind.use;
    if (c.fluteLength <= 0.0 && use.fluteLength) return fail("the flutes need a length above 0", place);
    if (auto ok = kind.valid(c, place); !ok) return ok;
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

} // namespace gyre
