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
    }
    return "";
}

const char* zoneName(Zone zone) { return zone == Zone::Cutter ? "cutter" : zone == Zone::Shank ? "shank" : "holder"; }

double Assembly::gaugeLength() const {
    double sum = stickOut;
    for (const auto& s : holder) sum += s.length;
    return sum;
}

double contactRadius(const Cutter& c) {
    switch (c.shape) {
    case CutterShape::Flat:
        return 0.0;
    case CutterShape::Ball:
    case CutterShape::TaperedBall:
        return 0.5 * c.diameter;
    case CutterShape::CornerRadius:
        return c.cornerRadius;
    }
    return 0.0;
}

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
    }
    return {};
}

std::vector<Piece> piecesOf(const Assembly& assembly) {
    const Cutter& c = assembly.cutter;
    std::vector<Piece> pieces;
    for (const auto& f : cuttingZone(c)) pieces.push_back({f, Zone::Cutter, "cutter"});
    const double neckEnd = std::min(c.shoulderLength, assembly.stickOut);
    if (neckEnd > c.fluteLength + 1e-9) pieces.push_back({{c.fluteLength, 0.5 * c.neckDiameter, neckEnd, 0.5 * c.neckDiameter, 0.0}, Zone::Shank, "neck"});
    const double shankStart = std::max(c.fluteLength, neckEnd);
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
    for (double v : {c.diameter, c.cornerRadius, c.taperDegrees, c.fluteLength, c.shoulderLength, c.neckDiameter, c.shankDiameter, c.overallLength, a.stickOut,
                     a.spindleSpeed, a.feedPerTooth})
        if (!finite(v)) return fail("a size of the tool is not a sensible number", place);
    if (c.diameter <= 0.0) return fail(fmt::format("the cutter diameter {} mm must be above 0", c.diameter), place);
    if (c.shankDiameter <= 0.0 || c.neckDiameter <= 0.0) return fail("shank and neck need a diameter above 0", place);
    if (c.shape == CutterShape::CornerRadius && (c.cornerRadius <= 0.0 || c.cornerRadius > 0.5 * c.diameter))
        return fail(fmt::format("a corner radius of {} mm does not fit on a diameter of {} mm", c.cornerRadius, c.diameter), place,
                    "Use a radius above 0 and at most half the diameter");
    if (c.shape == CutterShape::TaperedBall && (c.taperDegrees < 0.0 || c.taperDegrees > 60.0))
        return fail(fmt::format("a flank of {}° is not a tapered cutter", c.taperDegrees), place, "Use 0° to 60°");
    if (c.fluteLength <= 0.0) return fail("the flutes need a length above 0", place);
    if (c.shape == CutterShape::Ball && c.fluteLength < 0.5 * c.diameter)
        return fail("the flutes end below the middle of the ball", place, "Use a flute length of at least half the diameter");
    if (c.shape == CutterShape::TaperedBall && c.fluteLength < 0.5 * c.diameter)
        return fail("the flutes end below the middle of the ball", place, "Use a flute length of at least half the diameter");
    if (c.fluteLength > c.overallLength) return fail(fmt::format("flutes of {} mm are longer than the whole tool of {} mm", c.fluteLength, c.overallLength), place);
    if (c.shoulderLength < c.fluteLength - 1e-9)
        return fail(fmt::format("the shoulder at {} mm lies below the end of the flutes at {} mm", c.shoulderLength, c.fluteLength), place);
    if (a.stickOut > c.overallLength)
        return fail(fmt::format("a stick-out of {} mm leaves nothing of the {} mm long tool in the holder", a.stickOut, c.overallLength), place,
                    "Use a longer tool or a shorter stick-out");
    if (a.stickOut < c.fluteLength) return fail(fmt::format("a stick-out of {} mm buries the flutes ({} mm) in the holder", a.stickOut, c.fluteLength), place);
    if (c.flutes < 1 || c.flutes > 64) return fail("a cutter has 1 to 64 flutes", place);
    if (a.holder.size() > 64) return fail("a holder has at most 64 steps", place);
    for (const auto& s : a.holder)
        if (!finite(s.lowerDiameter) || !finite(s.upperDiameter) || !finite(s.length) || s.lowerDiameter <= 0.0 || s.upperDiameter <= 0.0 || s.length <= 0.0)
            return fail("every step of the holder needs diameters and a length above 0", place);
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
        return fmt::format("Ø{:g} taper {:g}°", c.diameter, c.taperDegrees);
    }
    return {};
}

} // namespace gyre
