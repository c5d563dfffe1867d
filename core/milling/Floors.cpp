#include "milling/Floors.h"
#include "milling/MillSpec.h"
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

namespace {

// Curves alone: flat ones lie on their own plane, looking away from the datum's bottom.
Result<Sheet> sheetOfCurves(const std::vector<Curve>& curves) {
    Vec3 middle = Vec3::Zero(), normal = Vec3::Zero();
    std::vector<Vec3> all;
    for (const Curve& c : curves)
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
}

double meanRadius(const std::vector<Curve>& curves, const Sheet& probe) {
    double sum = 0.0;
    std::size_t n = 0;
    for (const Curve& c : curves)
        for (const Vec3& p : c.polyline(0.01)) {
            sum += probe.flat(p).z();
            ++n;
        }
    return 1.0 + sum / static_cast<double>(std::max<std::size_t>(1, n));
}

} // namespace

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
                if (spec.shape != MillShape::Body && first && first->kind == SurfaceKind::Plane && std::abs(first->normal.dot(p.normal)) > 1.0 - 1e-9)
                    s.frame.translation() += (first->centre - p.origin).dot(p.normal) * p.normal;
                return s;
            }
        return fail(fmt::format("there is no work plane '{}'", spec.on), {}, "Choose another plane");
    } else if (spec.shape == MillShape::Body) { // from above, unless a plane says otherwise
        return planeSheet({"", Vec3::Zero(), Vec3::UnitZ(), Vec3::UnitX()});
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
        return sheetOfCurves(input.curves);
    } else {
        return fail("nothing is picked that says on which plane, or round which axis, this is milled", {}, "Pick a flat or a round floor, or choose a plane");
    }
    // The faces picked for a whole round are bosses to keep off: they say where the axis is at most, not how large the body is.
    if (radius <= 0.0 && first && first->kind == SurfaceKind::Cylinder && spec.shape != MillShape::Round) radius = first->radius;
    const Sheet probe = wrappedSheet(about, 1.0);
    if (radius <= 0.0 && !input.curves.empty()) // the curves' own mean radius
        radius = meanRadius(input.curves, probe);
    if (radius <= 0.0 && spec.shape == MillShape::Round)
        for (const Vec3& p : input.part->mesh().points) radius = std::max(radius, 1.0 + probe.flat(p).z());
    if (radius < 0.05) return fail("at radius 0 nothing can be unrolled", {}, "Type the radius that the drawing is wrapped at");
    return wrappedSheet(about, radius);
}

namespace {

/// The floor of picked faces, face by face and loop by loop, in the flat of the sheet.
class FloorMaker {
public:
    FloorMaker(const MillInput& input, const Sheet& sheet, double tolerance) : m_in(input), m_part(*input.part), m_sheet(sheet), m_tolerance(tolerance) {
        m_picked.assign(m_part.faces().size(), 0);
        for (int f : input.faces) m_picked[static_cast<std::size_t>(f)] = 1;
    }

    Result<Floor> make() {
        for (int f : m_in.faces)
            if (auto ok = face(f); !ok) return tl::unexpected(ok.error());
        m_out.level = m_level.value_or(0.0);
        withoutHoles();
        m_out.top = std::max(m_out.top, m_out.level);
        return std::move(m_out);
    }

private:
    Status face(int f) {
        if (auto ok = level(f); !ok) return ok;
        const FaceInfo& info = m_part.faces()[static_cast<std::size_t>(f)];
        std::vector<Loop> loops;
        m_rims.clear();
        for (const auto& edges : info.loops) {
            const std::vector<Vec3> run = loop(f, edges, m_sheet.flat(info.centre).y());
            if (m_sheet.wrapped && (run.front() - run.back()).norm() > 0.5 * m_sheet.turn()) {
                m_rims.push_back(run);
                continue;
            }
            Loop flat;
            for (const Vec3& p : run) flat.push_back(p.head<2>());
            if (flat.size() >= 3) loops.push_back(std::move(flat));
        }
        Region area = regionOf(loops);
        if (m_rims.size() == 2)
            area = band(m_rims[0], m_rims[1]);
        else if (!m_rims.empty())
            return fail(fmt::format("face {} goes all around, but has not two rims", f), {}, "Split the face, or draw its border on the sheet");
        m_out.area = m_out.area.empty() ? area : united(m_out.area, area);
        return {};
    }

    /// All faces lie on the sheet, at one level.
    Status level(int f) {
        const FaceInfo& info = m_part.faces()[static_cast<std::size_t>(f)];
        const Heights h = heightsOf(m_sheet, m_part, f);
        const bool fits = m_sheet.wrapped ? info.kind == SurfaceKind::Cylinder || h.high - h.low < kLevelTolerance : info.kind == SurfaceKind::Plane;
        if (!fits || h.high - h.low > std::max(kLevelTolerance, 3.0 * m_part.deflection()))
            return fail(fmt::format("face {} does not lie on the {}", f, m_sheet.wrapped ? "unrolled cylinder" : "plane"), {},
                        "Pick floors of one depth, or make two operations");
        m_here = m_sheet.wrapped ? info.radius - m_sheet.radius : h.low;
        const double first = m_level.value_or(m_here);
        if (std::abs(m_here - first) > kLevelTolerance)
            return fail(fmt::format("face {} lies {:.3f} mm {} the others", f, std::abs(m_here - first), m_here > first ? "above" : "below"), {},
                        "Pick floors of one depth, or make two operations");
        m_level = first;
        return {};
    }

    /// One loop, edge by edge; what stands beside each of its edges is a wall, or open.
    std::vector<Vec3> loop(int f, const std::vector<int>& edges, double near) {
        std::vector<Vec3> run;
        const std::size_t firstOpen = m_out.open.size(), n = edges.size();
        // Which way the first edge is run tells the next one.
        Vec3 at = m_part.edges()[static_cast<std::size_t>(edges.front())].start;
        if (n > 1) {
            const EdgeInfo &a = m_part.edges()[static_cast<std::size_t>(edges[0])], &b = m_part.edges()[static_cast<std::size_t>(edges[1])];
            if (std::min((a.start - b.start).norm(), (a.start - b.end).norm()) < std::min((a.end - b.start).norm(), (a.end - b.end).norm())) at = a.end;
        }
        for (const int edge : edges) {
            const EdgeInfo& e = m_part.edges()[static_cast<std::size_t>(edge)];
            if (e.degenerate) continue;
            Polyline line;
            if (const auto curve = m_part.edgeCurve(edge)) line = curve->polyline(m_tolerance);
            if (line.size() < 2) line = m_part.edgeLine(edge);
            if (e.closed && (line.front() - line.back()).norm() > 1e-9) line.push_back(line.front());
            if (!e.closed && (line.back() - at).norm() < (line.front() - at).norm()) std::reverse(line.begin(), line.end());
            at = line.back();
            const std::vector<Vec3> flat = flatPolyline(m_sheet, line, run.empty() ? near : run.back().y());
            run.insert(run.end(), flat.begin(), flat.end());
            beside(f, e, flat, firstOpen);
        }
        auto& open = m_out.open;
        if (open.size() > firstOpen + 1 && (open.back().back() - open[firstOpen].front()).norm() < 1e-6) {
            open.back().insert(open.back().end(), open[firstOpen].begin() + 1, open[firstOpen].end());
            open.erase(open.begin() + static_cast<std::ptrdiff_t>(firstOpen));
        }
        return run;
    }

    // A wall makes an inner corner with the floor, or runs into it smoothly; beyond an outer corner there is nothing, however high the face beside
    // it rises elsewhere.
    void beside(int f, const EdgeInfo& e, const std::vector<Vec3>& flat, std::size_t firstOpen) {
        constexpr double kSmooth = 0.02; // rad
        const int other = e.faces[0] == f ? e.faces[1] : e.faces[0];
        const bool seam = e.faces[0] == e.faces[1];
        if (seam || (other >= 0 && m_picked[static_cast<std::size_t>(other)])) return;
        const double rises = other >= 0 ? heightsOf(m_sheet, m_part, other).high : m_here;
        Line line = without3(flat);
        if (e.angle < kSmooth && rises > m_here + kLevelTolerance) {
            m_out.walls.push_back(std::move(line));
            m_out.top = std::max(m_out.top, rises);
            return;
        }
        // Edge after edge of one loop is one line: its corners are open as well.
        auto& open = m_out.open;
        if (open.size() > firstOpen && (open.back().back() - line.front()).norm() < 1e-6)
            open.back().insert(open.back().end(), line.begin() + 1, line.end());
        else
            open.push_back(std::move(line));
    }

    /// All around: one turn and a little more, so that the ends overlap; its ends are open.
    Region band(std::vector<Vec3> a, std::vector<Vec3> b) {
        const auto rising = [](std::vector<Vec3>& l) {
            if (l.front().y() > l.back().y()) std::reverse(l.begin(), l.end());
        };
        rising(a);
        rising(b);
        const double shift = a.front().y() - b.front().y();
        for (Vec3& p : b) p.y() += shift;
        Loop around = without3(a);
        const Line back = without3(b);
        around.insert(around.end(), back.rbegin(), back.rend());
        m_out.open.push_back({a.front().head<2>(), b.front().head<2>()});
        m_out.open.push_back({a.back().head<2>(), b.back().head<2>()});
        return regionOf({around});
    }

    /// Holes in the floor are open below: they are no islands.
    void withoutHoles() {
        const auto hasWall = [&](const Loop& l) {
            for (const Line& w : m_out.walls)
                for (const Vec2& p : w)
                    for (const Vec2& q : l)
                        if ((p - q).norm() < 1e-3) return true;
            return false;
        };
        std::erase_if(m_out.area.loops, [&](const Loop& l) { return !(signedArea(l) > 0.0) && !hasWall(l); });
    }

    const MillInput& m_in;
    const Part& m_part;
    const Sheet& m_sheet;
    const double m_tolerance;
    std::vector<char> m_picked;
    std::optional<double> m_level;         ///< of the first face
    double m_here = 0.0;                   ///< of the present one
    std::vector<std::vector<Vec3>> m_rims; ///< loops of the present face that go all around
    Floor m_out;
};

/// What closed curves enclose.
Result<Floor> floorOfCurves(const MillInput& input, const Sheet& sheet, double tolerance) {
    Floor out;
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

} // namespace

Result<Floor> floorOf(const MillInput& input, const Sheet& sheet, double tolerance) {
    return input.faces.empty() ? floorOfCurves(input, sheet, tolerance) : FloorMaker(input, sheet, tolerance).make();
}

} // namespace gyre
