#include "mill/Picks.h"
#include <Eigen/Eigenvalues>
#include <algorithm>
#include <fmt/format.h>

namespace gyre {
namespace {

constexpr double kLevelTolerance = 0.01; // mm: faces this close to the sheet lie on it

Line without3(const std::vector<Vec3>& line) {
    Line out;
    for (const Vec3& p : line)
        if (out.empty() || (out.back() - p.head<2>()).norm() > 1e-7) out.push_back(p.head<2>());
    return out;
}

std::vector<Vec3> flatPolyline(const Sheet& sheet, const Polyline& line, double near) {
    std::vector<Vec3> out;
    for (const Vec3& p : line) {
        out.push_back(sheet.flat(p, near));
        near = out.back().y();
    }
    return out;
}

struct Heights {
    double low = 1e300, high = -1e300;
};
Heights heightsOf(const Sheet& sheet, const Part& part, int face) {
    Heights h;
    for (const Vec3& p : part.faceMesh(face).points) {
        const double z = sheet.flat(p).z();
        h.low = std::min(h.low, z);
        h.high = std::max(h.high, z);
    }
    return h;
}

} // namespace

std::vector<Vec3> flatLine(const Sheet& sheet, const Curve& curve, double tolerance) {
    std::vector<Vec3> out = flatPolyline(sheet, curve.polyline(tolerance), 0.0);
    return out;
}

std::vector<std::vector<Vec3>> flatCurves(const MillInput& input, const Sheet& sheet, double tolerance) {
    std::vector<std::vector<Vec3>> out;
    for (const Curve& c : input.curves) out.push_back(flatLine(sheet, c, tolerance));
    for (const Curve& c : input.drawn) {
        std::vector<Vec3>& line = out.emplace_back();
        for (const Vec3& p : c.polyline(tolerance)) line.push_back({p.x(), p.y(), 0.0});
    }
    return out;
}

Result<Sheet> sheetOf(const MillInput& input, const MillSpec& spec) {
    double radius = spec.radius;
    AxisLine about{Vec3::Zero(), Vec3::Zero()};
    const FaceInfo* first = input.faces.empty() ? nullptr : &input.part->faces()[static_cast<std::size_t>(input.faces.front())];
    const bool round = spec.on.rfind("round ", 0) == 0;
    if (round) {
        const std::size_t axis = spec.on.size() == 7 ? std::string("XYZ").find(spec.on[6]) : std::string::npos;
        if (axis == std::string::npos) return fail(fmt::format("'{}' is no axis", spec.on), {}, "Choose round X, round Y or round Z");
        about.direction = Vec3::Unit(static_cast<Eigen::Index>(axis));
    } else if (!spec.on.empty()) {
        for (const WorkPlane& p : input.planes)
            if (p.name == spec.on) {
                Sheet s = planeSheet(p);
                // Floors below or above the plane's own origin carry the sheet with them.
                if (first && first->kind == SurfaceKind::Plane && std::abs(first->normal.dot(p.normal)) > 1.0 - 1e-9)
                    s.frame.translation() += (first->centre - p.origin).dot(p.normal) * p.normal;
                return s;
            }
        return fail(fmt::format("there is no work plane '{}'", spec.on), {}, "Choose another plane");
    } else if (first && first->kind == SurfaceKind::Plane) {
        auto plane = planeByFace(*input.part, input.faces.front());
        if (!plane) return tl::unexpected(plane.error());
        for (const WorkPlane& p : input.planes) // a plane of that direction has the X that the user knows
            if (p.normal.dot(plane->normal) > 1.0 - 1e-9) plane->x = p.x;
        return planeSheet(*plane);
    } else if (spec.shape == MillShape::Round && input.rotary.size() == 1) {
        about = input.rotary.front();
    } else if (first && first->kind == SurfaceKind::Cylinder) {
        about = {first->axisPoint, first->axis};
    } else if (!input.curves.empty()) {
        // Curves alone: flat ones lie on their own plane, looking away from the datum's bottom.
        Vec3 middle = Vec3::Zero(), normal = Vec3::Zero();
        std::vector<Vec3> all;
        for (const Curve& c : input.curves)
            for (const Vec3& p : c.polyline(0.01)) all.push_back(p);
        for (const Vec3& p : all) middle += p / static_cast<double>(all.size());
        Mat3 spread = Mat3::Zero();
        for (const Vec3& p : all) spread += (p - middle) * (p - middle).transpose();
        const Eigen::SelfAdjointEigenSolver<Mat3> solver(spread);
        normal = solver.eigenvectors().col(0);
        double off = 0.0;
        for (const Vec3& p : all) off = std::max(off, std::abs((p - middle).dot(normal)));
        if (off > kLevelTolerance || solver.eigenvalues()[1] < 1e-9 * solver.eigenvalues()[2])
            return fail("the curves do not say on which plane, or round which axis, this is milled", {}, "Choose a plane or an axis");
        if (normal.z() < -1e-9 || (std::abs(normal.z()) < 1e-9 && normal.sum() < 0.0)) normal = -normal;
        WorkPlane plane{"", middle, normal, anyPerpendicular(normal)};
        return planeSheet(plane);
    } else {
        return fail("nothing is picked that says on which plane, or round which axis, this is milled", {}, "Pick a flat or a round floor, or choose a plane");
    }
    // The faces picked for a whole round are bosses to keep off: they say where the axis is at most, not how large the body is.
    if (radius <= 0.0 && first && first->kind == SurfaceKind::Cylinder && spec.shape != MillShape::Round) radius = first->radius;
    const Sheet probe = wrappedSheet(about, 1.0);
    if (radius <= 0.0 && !input.curves.empty()) // the curves' own mean radius
        radius = 1.0 + [&] {
            double sum = 0.0;
            std::size_t n = 0;
            for (const Curve& c : input.curves)
                for (const Vec3& p : c.polyline(0.01)) {
                    sum += probe.flat(p).z();
                    ++n;
                }
            return sum / static_cast<double>(std::max<std::size_t>(1, n));
        }();
    if (radius <= 0.0 && spec.shape == MillShape::Round)
        for (const Vec3& p : input.part->mesh().points) radius = std::max(radius, 1.0 + probe.flat(p).z());
    if (radius < 0.05) return fail("at radius 0 nothing can be unrolled", {}, "Type the radius that the drawing is wrapped at");
    return wrappedSheet(about, radius);
}

Result<Floor> floorOf(const MillInput& input, const Sheet& sheet, double tolerance) {
    Floor out;
    if (input.faces.empty()) {
        std::vector<Loop> loops;
        for (const auto& line : flatCurves(input, sheet, tolerance)) {
            Line l = without3(line);
            if (l.size() < 4 || (l.front() - l.back()).norm() > 0.02)
                return fail("a curve is not closed", {}, "A pocket needs closed curves: pick whole loops, or join the pieces in Set up");
            l.back() = l.front();
            out.walls.push_back(l);
            l.pop_back();
            loops.push_back(std::move(l));
        }
        if (loops.empty()) return fail("no floor and no closed curve is picked", {}, "Click the floor of the pocket");
        out.area = regionOf(loops);
        return out;
    }
    const Part& part = *input.part;
    std::vector<char> picked(part.faces().size(), 0);
    for (int f : input.faces) picked[static_cast<std::size_t>(f)] = 1;
    bool started = false;
    double firstLevel = 0.0;
    for (int f : input.faces) {
        const FaceInfo& info = part.faces()[static_cast<std::size_t>(f)];
        const Heights h = heightsOf(sheet, part, f);
        const bool fits = sheet.wrapped ? info.kind == SurfaceKind::Cylinder || h.high - h.low < kLevelTolerance : info.kind == SurfaceKind::Plane;
        if (!fits || h.high - h.low > std::max(kLevelTolerance, 3.0 * part.deflection()))
            return fail(fmt::format("face {} does not lie on the {}", f, sheet.wrapped ? "unrolled cylinder" : "plane"), {},
                        "Pick floors of one depth, or make two operations");
        const double level = sheet.wrapped ? info.radius - sheet.radius : h.low;
        if (started && std::abs(level - firstLevel) > kLevelTolerance)
            return fail(fmt::format("face {} lies {:.3f} mm {} the others", f, std::abs(level - firstLevel), level > firstLevel ? "above" : "below"), {},
                        "Pick floors of one depth, or make two operations");
        if (!started) firstLevel = level;
        started = true;
        // Every loop, edge by edge, in the flat.
        std::vector<Loop> loops;
        double near = sheet.flat(info.centre).y();
        std::vector<std::vector<Vec3>> rims; // of loops that go all around
        for (const auto& loop : info.loops) {
            Loop flat;
            std::vector<Vec3> run;
            const std::size_t firstOpen = out.open.size();
            const std::size_t n = loop.size();
            // Which way the first edge is run tells the next one.
            Vec3 at = part.edges()[static_cast<std::size_t>(loop.front())].start;
            if (n > 1) {
                const EdgeInfo &a = part.edges()[static_cast<std::size_t>(loop[0])], &b = part.edges()[static_cast<std::size_t>(loop[1])];
                if (std::min((a.start - b.start).norm(), (a.start - b.end).norm()) < std::min((a.end - b.start).norm(), (a.end - b.end).norm())) at = a.end;
            }
            for (std::size_t i = 0; i < n; ++i) {
                const EdgeInfo& e = part.edges()[static_cast<std::size_t>(loop[i])];
                if (e.degenerate) continue;
                Polyline line;
                if (const auto curve = part.edgeCurve(loop[i])) line = curve->polyline(tolerance);
                if (line.size() < 2) line = part.edgeLine(loop[i]);
                if (e.closed && (line.front() - line.back()).norm() > 1e-9) line.push_back(line.front());
                if (!e.closed && (line.back() - at).norm() < (line.front() - at).norm()) std::reverse(line.begin(), line.end());
                at = line.back();
                const std::vector<Vec3> flatEdge = flatPolyline(sheet, line, run.empty() ? near : run.back().y());
                run.insert(run.end(), flatEdge.begin(), flatEdge.end());
                const int beside = e.faces[0] == f ? e.faces[1] : e.faces[0];
                const bool seam = e.faces[0] == e.faces[1];
                if (seam || (beside >= 0 && picked[static_cast<std::size_t>(beside)])) continue;
                // A wall makes an inner corner with the floor, or runs into it smoothly; beyond an outer corner there is nothing, however
                // high the face beside it rises elsewhere.
                constexpr double kSmooth = 0.02; // rad
                const double rises = beside >= 0 ? heightsOf(sheet, part, beside).high : level;
                if (e.angle < kSmooth && rises > level + kLevelTolerance) {
                    out.walls.push_back(without3(flatEdge));
                    out.top = std::max(out.top, rises);
                } else {
                    // Edge after edge of one loop is one line: its corners are open as well.
                    Line line = without3(flatEdge);
                    if (out.open.size() > firstOpen && (out.open.back().back() - line.front()).norm() < 1e-6)
                        out.open.back().insert(out.open.back().end(), line.begin() + 1, line.end());
                    else
                        out.open.push_back(std::move(line));
                }
            }
            if (out.open.size() > firstOpen + 1 && (out.open.back().back() - out.open[firstOpen].front()).norm() < 1e-6) {
                out.open.back().insert(out.open.back().end(), out.open[firstOpen].begin() + 1, out.open[firstOpen].end());
                out.open.erase(out.open.begin() + static_cast<std::ptrdiff_t>(firstOpen));
            }
            for (const Vec3& p : run) flat.push_back(p.head<2>());
            if (sheet.wrapped && (run.front() - run.back()).norm() > 0.5 * sheet.turn()) {
                rims.push_back(run);
                continue;
            }
            if (flat.size() >= 3) loops.push_back(std::move(flat));
        }
        Region area = regionOf(loops);
        if (rims.size() == 2) {
            // All around: one turn and a little more, so that the ends overlap; its ends are open.
            std::vector<Vec3> a = rims[0], b = rims[1];
            const auto rising = [](std::vector<Vec3>& l) {
                if (l.front().y() > l.back().y()) std::reverse(l.begin(), l.end());
            };
            rising(a);
            rising(b);
            const double shift = a.front().y() - b.front().y();
            for (Vec3& p : b) p.y() += shift;
            Loop band = without3(a);
            const Line back = without3(b);
            band.insert(band.end(), back.rbegin(), back.rend());
            area = regionOf({band});
            out.open.push_back({a.front().head<2>(), b.front().head<2>()});
            out.open.push_back({a.back().head<2>(), b.back().head<2>()});
        } else if (!rims.empty()) {
            return fail(fmt::format("face {} goes all around, but has not two rims", f), {}, "Split the face, or draw its border on the sheet");
        }
        out.area = out.area.empty() ? area : united(out.area, area);
    }
    out.level = firstLevel;
    // Holes in the floor are open below: they are no islands.
    std::vector<Loop> kept;
    for (const Loop& l : out.area.loops) {
        if (signedArea(l) > 0.0) {
            kept.push_back(l);
            continue;
        }
        bool wall = false;
        for (const Line& w : out.walls)
            for (const Vec2& p : w)
                for (const Vec2& q : l) wall = wall || (p - q).norm() < 1e-3;
        if (wall) kept.push_back(l);
    }
    out.area.loops = kept;
    out.top = std::max(out.top, out.level);
    return out;
}

} // namespace gyre
