// Construction on a part: faces freed of their trim, true curves of edges and grids, how a surface bends; and all of it beside the body.
#include "base/Index.h"
#include "base/Units.h"
#include "part/Kernel.h"
#include <BRepBuilderAPI_MakeFace.hxx>
#include <GeomConvert.hxx>
#include <GeomLib.hxx>
#include <Geom_BSplineSurface.hxx>
#include <Geom_BoundedSurface.hxx>
#include <Geom_RectangularTrimmedSurface.hxx>
#include <Standard_Failure.hxx>
#include <TopExp.hxx>
#include <TopoDS_Face.hxx>
#include <fmt/format.h>

namespace gyre {
namespace {

constexpr double kEndless = 1e50;

/// One direction of a surface's grid.
struct Span {
    double low, high;               ///< wanted
    double naturalLow, naturalHigh; ///< what the surface has
    bool periodic;
    double beyondLow = 0.0, beyondHigh = 0.0; ///< mm still missing when the surface ends
};

// Walks `grow` mm outward along a grid line through the middle of the side, as far as the surface goes.
void widen(Span& s, double grow, const auto& speedAt) {
    for (const bool up : {false, true}) {
        double& end = up ? s.high : s.low;
        const double limit = s.periodic ? (up ? kEndless : -kEndless) : up ? s.naturalHigh : s.naturalLow;
        double left = grow;
        constexpr int kSteps = 64;
        for (int i = 0; i < kSteps && left > 0.0; ++i) {
            const double step = grow / kSteps, speed = speedAt(end);
            if (!(speed > 1e-9)) break; // a pole: nothing lies beyond it
            // Midpoint rule: exact for constant speed, close to it else.
            const double half = (up ? 0.5 : -0.5) * step / speed, at = speedAt(std::clamp(end + half, std::min(limit, end), std::max(limit, end)));
            const double move = step / std::max(at, 1e-9);
            const double room = std::abs(limit - end);
            if (room <= move) {
                end = limit;
                left -= room * at;
                break;
            }
            end += up ? move : -move;
            left -= step;
        }
        (up ? s.beyondHigh : s.beyondLow) = left > 1e-9 * std::max(1.0, grow) ? left : 0.0;
    }
    // A closed direction is full with one turn.
    const double turn = s.naturalHigh - s.naturalLow;
    if (s.periodic && s.high - s.low > turn) {
        const double middle = 0.5 * (s.low + s.high);
        s.low = middle - 0.5 * turn;
        s.high = middle + 0.5 * turn;
    }
}

} // namespace

namespace {

/// Beyond the apex a cone turns inside out.
bool overApex(const Geom_Surface& cone, const Span& u, const Span& v) {
    gp_Pnt p;
    gp_Vec a, b;
    cone.D1(u.low, v.low, p, a, b);
    const Vec3 first = vec(a);
    cone.D1(u.low, v.high, p, a, b);
    return first.dot(vec(a)) < 0.0 || first.norm() < 1e-9 || a.Magnitude() < 1e-9;
}

} // namespace

Result<std::shared_ptr<const Part>> Part::freedFace(int face, bool whole, double grow) const {
    if (face < 0 || index(face) >= faces().size()) return fail(fmt::format("face {} is not in the part", face));
    if (isMesh()) return fail("a face of a mesh has no surface beyond its triangles", {}, "Use a guide surface or pick more of the mesh");
    if (!(grow >= 0.0) || grow > 1e4) return fail(fmt::format("a face cannot grow by {} mm", grow));
    const auto& s = m_kernel->surfaces[index(face)];
    const auto [low, high] = parameterBounds(face);
    Span u{low.x(), high.x(), s.u0, s.u1, s.uPeriodic}, v{low.y(), high.y(), s.v0, s.v1, s.vPeriodic};
    for (Span* span : {&u, &v}) {
        const bool bounded = std::abs(span->naturalLow) < kEndless && std::abs(span->naturalHigh) < kEndless;
        if (whole && bounded) {
            span->low = span->naturalLow;
            span->high = span->naturalHigh;
        }
        // Triangles stop a rounding short of the surface's own end.
        if (bounded && !span->periodic) {
            const double slack = 1e-9 * (span->naturalHigh - span->naturalLow);
            span->low = std::max(span->naturalLow, span->low - slack);
            span->high = std::min(span->naturalHigh, span->high + slack);
        }
    }
    try {
        const auto speed = [&](bool alongU, double along, double across) {
            gp_Pnt p;
            gp_Vec du, dv;
            s.geometry->D1(alongU ? along : across, alongU ? across : along, p, du, dv);
            return (alongU ? du : dv).Magnitude();
        };
        if (grow > 0.0) {
            const double midU = 0.5 * (u.low + u.high), midV = 0.5 * (v.low + v.high);
            widen(u, grow, [&](double x) { return speed(true, x, midV); });
            widen(v, grow, [&](double x) { return speed(false, x, midU); });
        }
        if (faces()[index(face)].kind == SurfaceKind::Cone && grow > 0.0 && overApex(*s.geometry, u, v))
            return fail("the cone would grow beyond its apex", fmt::format("face {}", face), "Grow it less");
        opencascade::handle<Geom_Surface> surface = s.geometry;
        if (u.beyondLow + u.beyondHigh + v.beyondLow + v.beyondHigh > 0.0) {
            opencascade::handle<Geom_BoundedSurface> patch =
                GeomConvert::SurfaceToBSplineSurface(new Geom_RectangularTrimmedSurface(s.geometry, u.low, u.high, v.low, v.high, true, true));
            for (const auto& [by, inU, after] : {std::tuple{u.beyondLow, true, false}, std::tuple{u.beyondHigh, true, true}, std::tuple{v.beyondLow, false, false},
                                                 std::tuple{v.beyondHigh, false, true}})
                if (by > 0.0) GeomLib::ExtendSurfByLength(patch, by, 1, inU, after);
            surface = patch;
            surface->Bounds(u.low, u.high, v.low, v.high);
        }
        BRepBuilderAPI_MakeFace maker(surface, u.low, u.high, v.low, v.high, 1e-6);
        if (!maker.IsDone()) return fail("the surface cannot be freed of its trim", fmt::format("face {}", face), "Grow it less");
        TopoDS_Face made = maker.Face();
        if (s.reversed) made.Reverse();
        std::shared_ptr<Part> part(new Part);
        part->m_kernel->name = name();
        part->m_kernel->deflection = deflection();
        Progress silent;
        if (auto ok = part->m_kernel->fill(*part, made, fmt::format("face {}", face), silent); !ok) return tl::unexpected(ok.error());
        return std::shared_ptr<const Part>(part);
    } catch (const Standard_Failure& failure) {
        const char* why = failure.GetMessageString();
        return fail(fmt::format("the surface cannot be freed of its trim ({})", why && *why ? why : failure.DynamicType()->Name()), fmt::format("face {}", face));
    }
}

Result<Curve> Part::edgeCurve(int edge) const {
    if (edge < 0 || index(edge) >= edges().size()) return fail(fmt::format("edge {} is not in the part", edge));
    if (const Curve* line = m_kernel->lineOf(edge)) return *line;
    if (isMesh()) return straightLines(edgeLine(edge), edges()[index(edge)].closed);
    if (edges()[index(edge)].degenerate) return fail(fmt::format("edge {} is a single point", edge));
    const auto& c = m_kernel->curves[index(edge)];
    return sampled([&](double t) -> Result<Vec3> { return vec(c.curve->Value(c.first + t * (c.last - c.first))); });
}

Result<Curve> Part::gridLine(int face, bool alongV, double fraction) const {
    if (face < 0 || index(face) >= faces().size()) return fail(fmt::format("face {} is not in the part", face));
    if (isMesh()) return fail("a face of a mesh has no grid");
    if (!(fraction >= 0.0 && fraction <= 1.0)) return fail("a grid line lies between 0 and 100 % of the face");
    const auto [low, high] = parameterBounds(face);
    return sampled([&, low = low, high = high](double t) -> Result<Vec3> {
        const double fu = alongV ? fraction : t, fv = alongV ? t : fraction;
        return evaluate(face, low.x() + fu * (high.x() - low.x()), low.y() + fv * (high.y() - low.y())).point;
    });
}

Vec3 Part::bend(int face, const SurfacePoint& at, const Vec3& along) const {
    if (isMesh()) return Vec3::Zero();
    gp_Pnt p;
    gp_Vec gu, gv, guu, gvv, guv;
    m_kernel->surfaces[index(face)].geometry->D2(at.u, at.v, p, gu, gv, guu, gvv, guv);
    const Vec3 du = vec(gu), dv = vec(gv), n = du.cross(dv).normalized();
    // along = a·du + b·dv
    const double e = du.dot(du), f = du.dot(dv), g = dv.dot(dv), det = e * g - f * f;
    if (!(det > 1e-18 * e * g)) return Vec3::Zero();
    const double x = along.dot(du), y = along.dot(dv), a = (g * x - f * y) / det, b = (e * y - f * x) / det;
    return (a * a * vec(guu) + 2.0 * a * b * vec(guv) + b * b * vec(gvv)).dot(n) * n;
}

std::shared_ptr<const Part> Part::withConstruction(std::shared_ptr<const Part> body, const std::vector<std::shared_ptr<const Part>>& faces,
                                                   const std::vector<Curve>& lines) {
    std::shared_ptr<Part> part(new Part);
    Kernel& k = *part->m_kernel;
    k = *body->m_kernel;
    k.bodyFaces = static_cast<int>(k.faces.size());
    k.bodyEdges = static_cast<int>(k.edges.size());
    for (const auto& more : faces) {
        const Kernel& m = *more->m_kernel;
        const int firstFace = static_cast<int>(k.faces.size()), firstEdge = static_cast<int>(k.edges.size());
        for (FaceInfo f : m.faces) {
            for (auto& loop : f.loops)
                for (int& e : loop) e += firstEdge;
            k.faces.push_back(std::move(f));
        }
        for (EdgeInfo e : m.edges) {
            for (int& f : e.faces)
                if (f >= 0) f += firstFace;
            k.edges.push_back(e);
        }
        for (Kernel::Surface s : m.surfaces) {
            for (int& f : s.local.faces) f += firstFace;
            k.surfaces.push_back(std::move(s));
        }
        for (Kernel::Edge e : m.curves) {
            for (auto& side : e.sides) side.face += firstFace;
            k.curves.push_back(std::move(e));
        }
        k.edgeLines.insert(k.edgeLines.end(), m.edgeLines.begin(), m.edgeLines.end());
        k.mesh.append(m.mesh, Frame::Identity(), firstFace);
        k.drawing.append(m.drawing, Frame::Identity(), firstFace);
    }
    if (!faces.empty()) k.tree = MeshTree(k.mesh);
    for (const Curve& c : lines) {
        EdgeInfo e;
        e.length = c.length();
        e.start = c.start();
        e.middle = c.at(c.atLength(0.5 * e.length));
        e.end = c.end();
        e.closed = c.closed();
        k.edges.push_back(e);
        k.curves.emplace_back();
        k.edgeLines.push_back(c.polyline(0.25 * k.deflection));
        k.edgePoints.resize(k.scan ? k.edges.size() : 0);
        k.edgeLengths.resize(k.scan ? k.edges.size() : 0);
        if (k.scan) k.edgeLengths.back() = arcLengths(k.edgeLines.back());
    }
    k.lines = lines;
    k.body = std::move(body);
    return part;
}

} // namespace gyre
