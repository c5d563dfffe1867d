#include "part/Measure.h"
#include "base/Units.h"
#include "part/Kernel.h"
#include <algorithm>
#include <cmath>
#include <optional>

#include <BRepExtrema_DistShapeShape.hxx>
#include <GeomAdaptor_Curve.hxx>
#include <GeomAdaptor_Surface.hxx>
#include <GeomLProp_SLProps.hxx>
#include <Standard_Failure.hxx>
#include <TopoDS.hxx>
#include <gp_Ax1.hxx>
#include <gp_Circ.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Lin.hxx>
#include <gp_Pln.hxx>
#include <gp_Torus.hxx>

namespace gyre {
namespace {

constexpr double kParallel = 1e-6; // rad
constexpr double kFlat = 1e5;      // mm: a radius beyond it is none

Vec3 vecOf(const gp_XYZ& p) { return {p.X(), p.Y(), p.Z()}; }

/// What gives a thing a direction: the normal of a plane, a line, the axis of a round.
struct Direction {
    enum class Of { Plane, Line, Axis } of;
    Vec3 at, along;
};

} // namespace

/// Asks the kernel's own surfaces and curves; reaches into the part, as rooms beside it may not.
class Measuring {
public:
    explicit Measuring(const Part& part) : m_part(part), m_kernel(*part.m_kernel) {}

    std::vector<Measured> of(const MeasuredThing& thing) const {
        std::vector<Measured> out;
        const auto length = [&](const char* what, double mm) { out.push_back({what, mm, Measured::Unit::Length, thing.at, thing.at}); };
        if (thing.edge >= 0) {
            length("length", m_part.edges()[static_cast<std::size_t>(thing.edge)].length);
            if (const auto r = radiusOfEdge(thing.edge)) length("radius", *r);
            return out;
        }
        if (thing.face < 0) return out;
        const FaceInfo& info = m_part.faces()[static_cast<std::size_t>(thing.face)];
        if (const auto thick = thickness(thing)) out.push_back({"wall thickness", (*thick - thing.at).norm(), Measured::Unit::Length, thing.at, *thick});
        if (info.radius > 0.0) length("radius", info.radius);
        const SurfacePoint foot = m_part.project(thing.face, thing.at);
        out.push_back({"draft against Z", 0.5 * kPi - angleBetween(foot.normal, Vec3::UnitZ()), Measured::Unit::Angle, thing.at, thing.at});
        for (const double r : curvatureRadii(thing.face, foot)) length(r > 0.0 ? "round outward" : "hollow", std::abs(r));
        out.push_back({"area", info.area, Measured::Unit::Area, thing.at, thing.at});
        return out;
    }

    std::vector<Measured> between(const MeasuredThing& a, const MeasuredThing& b) const {
        std::vector<Measured> out;
        if (const auto feet = nearest(a, b))
            out.push_back({"least distance", (feet->second - feet->first).norm(), Measured::Unit::Length, feet->first, feet->second});
        else if (a.face >= 0 && b.face >= 0)
            out.push_back(nearestTriangles(a.face, b.face));
        out.push_back({"from place to place", (b.at - a.at).norm(), Measured::Unit::Length, a.at, b.at});
        const auto one = directionOf(a), other = directionOf(b);
        if (!one || !other) return out;
        double angle = angleBetween(one->along, other->along);
        // A plane's direction is square to it: against a line the other angle counts.
        if ((one->of == Direction::Of::Plane) != (other->of == Direction::Of::Plane)) angle = std::abs(0.5 * kPi - angle);
        angle = std::min(angle, kPi - angle);
        out.push_back({"angle", angle, Measured::Unit::Angle, a.at, b.at});
        if (angle > kParallel) return out;
        const bool planes = one->of == Direction::Of::Plane || other->of == Direction::Of::Plane;
        const Vec3 normal = one->of == Direction::Of::Plane ? one->along : other->along, off = other->at - one->at;
        const Vec3 apart = planes ? Vec3(off.dot(normal) * normal) : rejected(off, one->along);
        out.push_back({planes ? "planes apart" : "axes apart", apart.norm(), Measured::Unit::Length, one->at, one->at + apart});
        return out;
    }

private:
    std::optional<Direction> directionOf(const MeasuredThing& thing) const {
        if (thing.edge >= 0) {
            if (m_kernel.lineOf(thing.edge) || static_cast<std::size_t>(thing.edge) >= m_kernel.curves.size() ||
                m_kernel.curves[static_cast<std::size_t>(thing.edge)].curve.IsNull())
                return std::nullopt;
            const GeomAdaptor_Curve curve(m_kernel.curves[static_cast<std::size_t>(thing.edge)].curve);
            if (curve.GetType() == GeomAbs_Line) return Direction{Direction::Of::Line, vecOf(curve.Line().Location().XYZ()), vecOf(curve.Line().Direction().XYZ())};
            if (curve.GetType() == GeomAbs_Circle)
                return Direction{Direction::Of::Axis, vecOf(curve.Circle().Location().XYZ()), vecOf(curve.Circle().Axis().Direction().XYZ())};
            return std::nullopt;
        }
        if (thing.face < 0) return std::nullopt;
        const FaceInfo& info = m_part.faces()[static_cast<std::size_t>(thing.face)];
        if (info.kind == SurfaceKind::Plane) return Direction{Direction::Of::Plane, info.centre, info.normal};
        if (!exact(thing.face)) return std::nullopt;
        const GeomAdaptor_Surface surface(m_kernel.surfaces[static_cast<std::size_t>(thing.face)].geometry);
        const auto axis = [](const gp_Ax1& a) { return Direction{Direction::Of::Axis, vecOf(a.Location().XYZ()), vecOf(a.Direction().XYZ())}; };
        if (surface.GetType() == GeomAbs_Cylinder) return axis(surface.Cylinder().Axis());
        if (surface.GetType() == GeomAbs_Cone) return axis(surface.Cone().Axis());
        if (surface.GetType() == GeomAbs_Torus) return axis(surface.Torus().Axis());
        return std::nullopt;
    }
    [[nodiscard]] bool exact(int face) const {
        return static_cast<std::size_t>(face) < m_kernel.surfaces.size() && !m_kernel.surfaces[static_cast<std::size_t>(face)].geometry.IsNull();
    }
    std::optional<double> radiusOfEdge(int edge) const {
        const auto d = directionOf({-1, edge, Vec3::Zero()});
        if (!d || d->of != Direction::Of::Axis) return std::nullopt;
        return GeomAdaptor_Curve(m_kernel.curves[static_cast<std::size_t>(edge)].curve).Circle().Radius();
    }
    // Both of them, the rounder first; outward positive.
    std::vector<double> curvatureRadii(int face, const SurfacePoint& foot) const {
        std::vector<double> out;
        if (!exact(face) || m_part.faces()[static_cast<std::size_t>(face)].kind == SurfaceKind::Plane) return out;
        GeomLProp_SLProps props(m_kernel.surfaces[static_cast<std::size_t>(face)].geometry, foot.u, foot.v, 2, 1e-9);
        if (!props.IsCurvatureDefined()) return out;
        // The kernel's curvature is positive where the surface bends towards its own normal.
        const double side = vecOf(props.Normal().XYZ()).dot(foot.normal) > 0.0 ? -1.0 : 1.0;
        for (const double k : {props.MaxCurvature(), props.MinCurvature()})
            if (std::abs(k) > 1.0 / kFlat) out.push_back(side / k);
        std::sort(out.begin(), out.end(), [](double a, double b) { return std::abs(a) < std::abs(b); });
        return out;
    }
    // Straight in, square to the face; the triangle that is met tells the face, whose surface is then met exactly.
    std::optional<Vec3> thickness(const MeasuredThing& thing) const {
        const SurfacePoint foot = m_part.project(thing.face, thing.at);
        const Vec3 in = -foot.normal, start = foot.point + 2.0 * m_part.deflection() * in;
        // What mends made stands in the part as well, and is no matter.
        const Part& solid = m_part.body() ? *m_part.body() : m_part;
        const RayHit hit = solid.tree().ray(start, in);
        if (!(hit.distance < 1e9)) return std::nullopt;
        const int face = nearestFace(start + hit.distance * in);
        Vec3 at = start + hit.distance * in;
        if (face < 0 || m_part.isMesh()) return at;
        for (int round = 0; round < 8; ++round) {
            const SurfacePoint s = m_part.project(face, at);
            const double along = in.dot(s.normal);
            if (std::abs(along) < 1e-3) break;
            const double step = (s.point - at).dot(s.normal) / along;
            at += step * in;
            if (std::abs(step) < 1e-10) break;
        }
        return at;
    }
    [[nodiscard]] int nearestFace(const Vec3& p) const {
        int best = -1;
        double least = 1e300;
        const auto count = std::min(m_kernel.surfaces.size(), static_cast<std::size_t>(m_part.bodyFaces()));
        for (std::size_t f = 0; f < count; ++f) {
            if (m_part.faces()[f].bounds.distance(p) > 0.5) continue;
            if (const double d = m_kernel.surfaces[f].tree.closest(p, least).distance; d < least) {
                least = d;
                best = static_cast<int>(f);
            }
        }
        return best;
    }
    [[nodiscard]] TopoDS_Shape shapeOf(const MeasuredThing& thing) const {
        const int n = thing.face >= 0 ? thing.face : thing.edge;
        const TopTools_IndexedMapOfShape& map = thing.face >= 0 ? m_kernel.faceMap : m_kernel.edgeMap;
        return n >= 0 && n < map.Extent() ? map.FindKey(n + 1) : TopoDS_Shape();
    }
    std::optional<std::pair<Vec3, Vec3>> nearest(const MeasuredThing& a, const MeasuredThing& b) const {
        const TopoDS_Shape one = shapeOf(a), other = shapeOf(b);
        if (one.IsNull() || other.IsNull() || m_part.isMesh()) return std::nullopt;
        try {
            const BRepExtrema_DistShapeShape distance(one, other);
            if (!distance.IsDone() || distance.NbSolution() < 1) return std::nullopt;
            return std::pair{vecOf(distance.PointOnShape1(1).XYZ()), vecOf(distance.PointOnShape2(1).XYZ())};
        } catch (const Standard_Failure&) {
            return std::nullopt;
        }
    }

    // Of scans and of faces that mends made: exactly between their triangles. The line is drawn between the nearest of their points.
    [[nodiscard]] Measured nearestTriangles(int a, int b) const {
        const auto alone = [&](int face) {
            TriangleMesh mesh = m_part.faceMesh(face);
            mesh.faces.clear();
            return mesh;
        };
        const TriangleMesh one = alone(a), other = alone(b);
        const MeshTree treeOne(one), treeOther(other);
        Measured out{"least distance", 1e300, Measured::Unit::Length, Vec3::Zero(), Vec3::Zero()};
        const auto look = [&](const TriangleMesh& from, const MeshTree& to, bool turned) {
            for (const Vec3& p : from.points) {
                const ClosestPoint foot = to.closest(p, out.value);
                if (!(foot.distance < out.value)) continue;
                out.value = foot.distance;
                out.from = turned ? foot.point : p;
                out.to = turned ? p : foot.point;
            }
        };
        look(one, treeOther, false);
        look(other, treeOne, true);
        // Two sides may come nearer to each other than any of their points.
        double low = 0.0, high = out.value;
        constexpr double kFine = 1e-7; // mm
        while (high - low > kFine) (treeOne.anyWithin(treeOther, Frame::Identity(), 0.5 * (low + high)) ? high : low) = 0.5 * (low + high);
        out.value = high < kFine ? 0.0 : high;
        return out;
    }

    const Part& m_part;
    const Part::Kernel& m_kernel;
};

std::vector<Measured> measured(const Part& part, const MeasuredThing& thing) { return Measuring(part).of(thing); }
std::vector<Measured> measuredBetween(const Part& part, const MeasuredThing& one, const MeasuredThing& other) { return Measuring(part).between(one, other); }

} // namespace gyre
