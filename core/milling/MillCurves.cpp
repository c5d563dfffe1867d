// Grooves and engraving along curves, and bores.
#include "base/Units.h"
#include "milling/Miller.h"
#include <fmt/format.h>

namespace gyre {

Status Miller::bores() {
    std::vector<char> done(m_in.part->faces().size(), 0);
    if (m_in.faces.empty()) return fail("no bore is picked", {}, "Click the wall of a round pocket");
    bool any = false;
    for (int f : m_in.faces) {
        const FaceInfo& info = m_in.part->faces()[static_cast<std::size_t>(f)];
        if (info.kind != SurfaceKind::Cylinder) return fail(fmt::format("face {} is no cylinder", f), {}, "Click the wall of a round pocket");
        if (done[static_cast<std::size_t>(f)]) continue;
        const Vec3 outward = rejected(info.centre - info.axisPoint, info.axis).normalized();
        if (info.normal.dot(outward) > 0.0) return fail(fmt::format("face {} is the outside of a round", f), {}, "Click the wall of a round pocket");
        // All faces of the same cylinder are one bore.
        double low = 1e300, high = -1e300;
        for (int g : m_in.faces) {
            const FaceInfo& other = m_in.part->faces()[static_cast<std::size_t>(g)];
            if (other.kind != SurfaceKind::Cylinder || std::abs(other.radius - info.radius) > 1e-6 || other.axis.cross(info.axis).norm() > 1e-6) continue;
            if (rejected(other.axisPoint - info.axisPoint, info.axis).norm() > 1e-6) continue;
            done[static_cast<std::size_t>(g)] = 1;
            for (const Vec3& p : m_in.part->faceMesh(g).points) {
                low = std::min(low, (p - info.axisPoint).dot(info.axis));
                high = std::max(high, (p - info.axisPoint).dot(info.axis));
            }
        }
        if (auto ok = bore(info, f, low, high); !ok) return ok;
        any = true;
    }
    return any ? Status{} : Status(fail("nothing to bore"));
}

FlatPass Miller::helixRing(int ring, double radius) {
    FlatPass pass;
    pass.level = ring;
    // No steeper than the ramp that is asked for, whatever the step down.
    const double steepest = 2.0 * kPi * radius * std::tan(radians(std::clamp(m_spec.rampDegrees, 0.1, 89.0)));
    const double pitch = std::min(m_spec.stepdown > 0.0 ? m_spec.stepdown : m_top - m_bottom + kOver, std::max(1e-3, steepest));
    if (radius < 1e-6) { // just as wide as the cutter
        add(pass, Vec2::Zero(), m_top + kOver, Motion::LeadIn);
        add(pass, Vec2::Zero(), m_bottom, Motion::Cut);
    } else {
        const int perTurn = std::max(24, static_cast<int>(std::ceil(kPi / std::acos(1.0 - std::min(0.5, m_chord / radius)))));
        const double turns = std::max(1.0, std::ceil((m_top + kOver - m_bottom) / pitch));
        const int n = static_cast<int>(turns) * perTurn;
        const double hand = m_spec.climb ? 1.0 : -1.0;
        m_out.pitch = std::max(m_out.pitch, (m_top + kOver - m_bottom) / turns);
        for (int i = 0; i <= n + perTurn; ++i) {
            const double a = hand * 2.0 * kPi * i / perTurn;
            const Vec2 d(std::cos(a), std::sin(a));
            // The innermost helix goes into the full, at the feed of entries; the last turn, and all that follow, only widen.
            add(pass, radius * d, std::max(m_bottom, m_top + kOver - (m_top + kOver - m_bottom) * i / n), ring == 0 && i <= n ? Motion::LeadIn : Motion::Cut,
                Vec2::Zero(), -d);
        }
        add(pass, 0.7 * radius * Vec2::UnitX(), m_bottom, Motion::LeadOut); // off the wall before coming up
    }
    return pass;
}

Status Miller::bore(const FaceInfo& info, int face, double low, double high) {
    // Entered from the open end; where both are open from the end that looks up, or along the chosen plane.
    Vec3 out = info.axis;
    const double inside = info.radius - m_radius - m_leave;
    const auto blocked = [&](double at, const Vec3& way) { // does the axis meet the part beyond this end?
        const RayHit hit = m_in.part->tree().ray(info.axisPoint + at * info.axis, way, 1e4);
        return hit.hit;
    };
    Vec3 wanted = Vec3::UnitZ();
    for (const WorkPlane& p : m_in.planes)
        if (p.name == m_spec.on) wanted = p.normal;
    const bool upBlocked = blocked(high + 1e-3, info.axis), downBlocked = blocked(low - 1e-3, -info.axis);
    if (upBlocked && downBlocked) return fail(fmt::format("bore {} is closed at both ends", face), {}, "");
    if (upBlocked || (!downBlocked && (wanted.dot(info.axis) < -1e-9 || (std::abs(wanted.dot(info.axis)) <= 1e-9 && info.axis.sum() < 0.0)))) out = -info.axis;
    const bool through = !upBlocked && !downBlocked;
    const double upper = out.dot(info.axis) > 0.0 ? high : -low, lower = out.dot(info.axis) > 0.0 ? low : -high;
    if (inside < -1e-6)
        return fail(fmt::format("the cutter Ø{:g} does not fit into a bore Ø{:g}", m_tool.cutter.diameter, 2.0 * info.radius), {}, "Choose a smaller cutter");
    WorkPlane plane{"", info.axisPoint + upper * out, out, anyPerpendicular(out)};
    m_sheet = planeSheet(plane);
    m_out.sheet = m_sheet;
    m_top = m_spec.topBy == MillTop::Typed ? m_spec.top : 0.0;
    m_bottom = m_spec.depthBy == MillDepth::Typed ? -m_spec.depth : lower - upper - (through ? m_spec.beyond : 0.0);
    m_bottom += through ? 0.0 : m_spec.leaveFloor;
    m_out.top = m_top;
    m_out.bottom = m_bottom;
    Loop circle;
    for (int i = 0; i < 90; ++i) circle.push_back(info.radius * Vec2(std::cos(radians(4.0 * i)), std::sin(radians(4.0 * i))));
    m_out.target = united(m_out.target, regionOf({circle}));
    const int rings = inside > m_radius ? static_cast<int>(std::ceil((inside - 0.9 * m_radius) / std::max(1e-3, m_spec.stepover))) + 1 : 1;
    const double first = rings > 1 ? std::min(inside, 0.9 * m_radius) : inside;
    m_out.levels = static_cast<std::size_t>(rings);
    for (int k = 0; k < rings; ++k) {
        const double radius = rings > 1 ? first + (inside - first) * k / (rings - 1) : inside;
        const std::size_t before = m_out.flat.size();
        m_out.flat.push_back(helixRing(k, radius));
        finish(before);
    }
    return {};
}

// Along curves; a groove wider than the cutter gets passes at both sides.
/// From wall to wall at one level.
FlatPass Miller::grooveAt(const Line& line, const std::vector<Vec2>& t, const std::vector<double>& half, double from, double level) {
    const double most = *std::max_element(half.begin(), half.end());
    const int n = most > 1e-6 ? static_cast<int>(std::ceil(most / m_spec.stepover - 1e-9)) : 0;
    FlatPass pass;
    pass.closed = false;
    if (m_spec.entry == MillEntry::Helix && most > 0.15 * m_radius)
        helixDown(pass, line.front(), std::min(most, 0.9 * m_radius), from + kOver, level);
    else
        rampAlong(pass, line, from + kOver, level);
    for (const Vec2& p : line) add(pass, p, level, Motion::Cut);
    const double hand = m_spec.climb ? 1.0 : -1.0;
    // Back on the left, forward on the right: the wall is on the right of the cutter both times.
    double round = 0.0; // how much of the way aside goes around the axis
    for (const Vec2& d : t) round = std::max(round, std::abs(d.x()));
    const bool roundFloor = m_sheet.wrapped && m_spec.parallel && n > 0 && round > 1e-6;
    const auto both = [&](double share, bool shifted) {
        const auto height = [&](std::size_t i) { return level - (shifted && roundFloor ? dropBeside(half[i], std::abs(t[i].x()), level) : 0.0); };
        for (std::size_t i = line.size(); i-- > 0;) aside(pass, line[i], t[i], hand * share * half[i], height(i), shifted);
        if (shifted && roundFloor) hop(pass, line.front(), t.front(), hand * share * half.front(), -hand * share * half.front(), level);
        for (std::size_t i = 0; i < line.size(); ++i) aside(pass, line[i], t[i], -hand * share * half[i], height(i), shifted);
    };
    // A round floor: the axis follows each pass as far as its flank keeps off the walls, which are parallel to the middle's radius; the
    // walls themselves are cut by moving the cutter aside.
    const bool shifts = m_sheet.wrapped && m_spec.parallel;
    const int floors = roundFloor ? floorPasses(most, round, level) : n;
    const double turned = roundFloor ? widestTurn(most * round) / (most * round) : 1.0;
    for (int j = 1; j <= floors; ++j) both(turned * j / floors, shifts && !roundFloor);
    if (roundFloor) {
        // Between leaning and moving aside the level end would dip below the floor: over it.
        aside(pass, line.back(), t.back(), -hand * turned * half.back(), level + kOver, false);
        aside(pass, line.back(), t.back(), hand * half.back(), level + kOver, true);
        both(1.0, true);
        m_widest = std::max(m_widest, most * round);
    }
    return pass;
}

Status Miller::follow() {
    const auto curves = flatCurves(m_in, m_sheet, 0.25 * m_chord);
    if (curves.empty()) return fail("no curve is picked", {}, "Pick edges or a curve, or choose a drawing");
    if (m_spec.depthBy == MillDepth::Geometry) return fail("a curve does not say how deep it is cut", {}, "Type a depth, or go down to the model");
    if (auto ok = setDepth(m_spec.topBy == MillTop::Typed ? m_spec.top : 0.0, 0.0); !ok) return ok;
    const double width = m_spec.width > 0.0 ? m_spec.width : m_tool.cutter.diameter;
    if (m_spec.width > 0.0 && width < m_tool.cutter.diameter - 1e-6 && m_tool.cutter.shape != CutterShape::Tapered && m_tool.cutter.shape != CutterShape::TaperedBall)
        return fail(fmt::format("the cutter Ø{:g} is wider than the groove of {:g}", m_tool.cutter.diameter, width), {}, "Choose a smaller cutter");
    const std::vector<double> levels = levelsOf(m_top, m_bottom, m_spec.stepdown);
    m_out.levels = levels.size();
    for (const auto& c : curves) {
        Line line;
        for (const Vec3& p : c)
            if (line.empty() || (line.back() - p.head<2>()).norm() > 1e-6) line.push_back(p.head<2>());
        if (line.size() < 2) continue;
        m_out.curves.push_back(line);
        line = dense(line);
        const bool closed = line.size() > 3 && (line.front() - line.back()).norm() < 0.02;
        const auto t = tangents(line, closed);
        std::vector<double> half(line.size());
        double most = 0.0;
        for (std::size_t i = 0; i < line.size(); ++i) {
            const double square = m_spec.widthAlong && m_sheet.wrapped ? width * std::abs(t[i].y()) : width;
            half[i] = std::max(0.0, 0.5 * square - m_radius - m_leave);
            most = std::max(most, half[i]);
            if (m_spec.width > 0.0 && square < m_tool.cutter.diameter - 1e-3)
                return fail(fmt::format("the groove is {:.3f} wide across there, less than the cutter", square), {}, "Choose a smaller cutter");
        }
        const int n = most > 1e-6 ? static_cast<int>(std::ceil(most / m_spec.stepover - 1e-9)) : 0;
        if (n > 0)
            if (const auto at = tooTight(line, t, half)) {
                return fail(fmt::format("the groove bends too tightly for its width at {:.2f} {:.2f}", at->x(), at->y()), {},
                            "Make the groove narrower, or round the corner");
            }
        double from = m_top;
        for (std::size_t k = 0; k < levels.size(); ++k) {
            m_out.flat.push_back(grooveAt(line, t, half, from, levels[k]));
            m_out.flat.back().level = static_cast<int>(k);
            from = levels[k];
        }
    }
    if (m_widest > 0.0) tellCorners(m_widest);
    return {};
}

// From one side of a groove to the other, over its round floor.
void Miller::hop(FlatPass& pass, const Vec2& at, const Vec2& tangent, double from, double to, double height) {
    aside(pass, at, tangent, from, height + kOver, true);
    aside(pass, at, tangent, to, height + kOver, true);
}

// On the sheet: how far aside the axis may turn to until the flank, leaning with it, meets the wall at the groove's top:
// (R + top) sin θ + r cos θ = half + r, θ = way / R.
double Miller::widestTurn(double half) const {
    const double high = m_sheet.radius + m_top, r = m_radius;
    double low = 0.0, up = std::min(0.5 * kPi, 1.2 * half / std::max(1e-9, m_sheet.radius));
    const auto over = [&](double a) { return high * std::sin(a) + r * std::cos(a) > half + r; };
    for (int i = 0; i < 60; ++i) (over(0.5 * (low + up)) ? up : low) = 0.5 * (low + up);
    return std::min(half, low * m_sheet.radius);
}

// Moved aside, the level end of the cutter may sink until its inner edge lies on the round floor.
double Miller::dropBeside(double half, double round, double height) const {
    const double radius = std::max(0.05, m_sheet.radius + height), inner = std::max(0.0, half - m_radius) * round;
    return inner < radius ? radius - std::sqrt(radius * radius - inner * inner) : 0.0;
}

// Between the last pass that leans with the floor and the wall a strip stays that neither reaches.
void Miller::tellCorners(double half) {
    const double radius = std::max(0.05, m_sheet.radius + m_bottom), wall = half + m_radius, angle = widestTurn(half) / m_sheet.radius;
    // The level end of the last leaning pass lies on the floor as far out as its middle.
    const double strip = wall - radius * std::sin(angle);
    if (strip < 1e-3 || wall >= radius) return;
    const double stands = radius - dropBeside(half, 1.0, m_bottom) - std::sqrt(radius * radius - wall * wall);
    tell(Rank::Note, "corner-stands", fmt::format("Along the groove's walls a strip of {:.2f} mm of its floor stands by up to {:.3f} mm", strip, stands),
         "walls are parallel there and the floor is round; a ball, or walls along the radius, reach it", {}, stands);
}

// So many passes on either side of the middle that the ridges between flat ends on a round floor stay below 0.005 mm.
int Miller::floorPasses(double half, double round, double height) const {
    const double radius = std::max(0.05, m_sheet.radius + height), ridge = m_spec.scallop > 0.0 ? m_spec.scallop : 0.004;
    const double step = m_tool.cutter.shape == CutterShape::Flat ? std::min(m_spec.stepover, m_sheet.radius * roundStep(radius, ridge) / round) : m_spec.stepover;
    return std::clamp(static_cast<int>(std::ceil(half / std::max(1e-3, step) - 1e-9)), 1, 10000);
}

void Miller::aside(FlatPass& pass, const Vec2& at, const Vec2& tangent, double by, double height, bool shifted) {
    const Vec2 off = by * leftOf(tangent);
    if (shifted)
        add(pass, at, height, Motion::Cut, off);
    else
        add(pass, at + off, height, Motion::Cut);
}

std::optional<Vec2> Miller::tooTight(const Line& line, const std::vector<Vec2>& t, const std::vector<double>& half) {
    for (std::size_t i = 1; i < line.size(); ++i) {
        const Vec2 d = line[i] - line[i - 1];
        for (const double side : {1.0, -1.0}) {
            const Vec2 moved = line[i] + side * half[i] * leftOf(t[i]) - line[i - 1] - side * half[i - 1] * leftOf(t[i - 1]);
            if (moved.dot(d) < 0.0) return line[i];
        }
    }
    return std::nullopt;
}

} // namespace gyre
