// The whisper runner: a small radial fan wheel, seven full and seven half vanes on a curved hub.
#include "Solids.h"
#include "Workshop.h"
#include <cmath>

#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepPrimAPI_MakeRevol.hxx>
#include <GeomAPI_PointsToBSpline.hxx>
#include <Geom_BSplineCurve.hxx>
#include <TColgp_Array1OfPnt.hxx>
#include <gp_Ax1.hxx>

namespace gyre::demo {
namespace {

/// Hub and shroud in the half plane (radius, height), from the eye (0) to the rim (1).
Vec2 hub(double t) {
    const double a = 0.5 * M_PI * t;
    return {12.0 + 32.0 * (1.0 - std::cos(a)), 34.0 - 27.0 * std::sin(a)};
}
Vec2 shroud(double t) {
    const double a = 0.5 * M_PI * t;
    return {26.0 + 18.0 * (1.0 - std::cos(a)), 36.0 - 22.0 * std::sin(a)};
}

/// Where a vane's middle stands: it winds by 48°, at the eye more at the shroud than at the hub.
double winding(double t, double span) { return (48.0 * t * t + 14.0 * t - 10.0 * span * (1.0 - t)) * M_PI / 180.0; }

Vec3 vanePoint(double t, double span, double turn) {
    const Vec2 p = (1.0 - span) * hub(t) + span * shroud(t);
    const double a = winding(t, span) + turn;
    return {p.x() * std::cos(a), p.x() * std::sin(a), p.y()};
}

TopoDS_Shape vane(double from, double turn) {
    std::vector<std::vector<Vec3>> sections;
    constexpr int kSections = 12;
    for (int i = 0; i <= kSections; ++i) {
        const double t = from + (0.985 - from) * i / kSections;
        const auto side = [&](double span) {
            const Vec3 along = vanePoint(t + 1e-4, span, turn) - vanePoint(t - 1e-4, span, turn), up = vanePoint(t, span + 1e-4, turn) - vanePoint(t, span - 1e-4, turn);
            return along.cross(up).normalized();
        };
        // Thin at both ends, thicker at the foot than at the tip; the foot reaches into the hub.
        const double thick = 0.55 + 0.5 * std::sin(M_PI * (i + 0.6) / (kSections + 1.2));
        const Vec3 foot = vanePoint(t, -0.14, turn), tip = vanePoint(t, 1.0, turn), n = (side(0.0) + side(1.0)).normalized();
        sections.push_back({foot - 1.15 * thick * n, foot + 1.15 * thick * n, tip + 0.75 * thick * n, tip - 0.75 * thick * n});
    }
    return loft(sections);
}

} // namespace

TopoDS_Shape whisperRunner() {
    TColgp_Array1OfPnt points(1, 21);
    for (int i = 0; i <= 20; ++i) {
        const Vec2 p = hub(i / 20.0);
        points.SetValue(i + 1, gp_Pnt(p.x(), 0, p.y()));
    }
    const Handle(Geom_BSplineCurve) line = GeomAPI_PointsToBSpline(points, 3, 8, GeomAbs_C2, 1e-5).Curve();
    const gp_Pnt eye = points.Value(1), rim = points.Value(21);
    const std::vector<gp_Pnt> rest{rim, gp_Pnt(rim.X(), 0, 3), gp_Pnt(30, 0, 3), gp_Pnt(26, 0, 0), gp_Pnt(5, 0, 0), gp_Pnt(5, 0, 38), gp_Pnt(10, 0, 38), eye};
    BRepBuilderAPI_MakeWire wire;
    wire.Add(BRepBuilderAPI_MakeEdge(line).Edge());
    for (std::size_t i = 1; i < rest.size(); ++i) wire.Add(BRepBuilderAPI_MakeEdge(rest[i - 1], rest[i]).Edge());
    const TopoDS_Shape wheel = BRepPrimAPI_MakeRevol(BRepBuilderAPI_MakeFace(wire.Wire(), true).Face(), gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1))).Shape();
    std::vector<TopoDS_Shape> vanes;
    for (int i = 0; i < 7; ++i) {
        vanes.push_back(vane(0.03, 2.0 * M_PI * i / 7));
        vanes.push_back(vane(0.42, 2.0 * M_PI * (i + 0.5) / 7));
    }
    return fuse(wheel, vanes);
}

// A stub the wheel sits on, and the nut that holds it.
TopoDS_Shape runnerArbor() {
    return fuse(rod(Vec3(0, 0, -45), Vec3::UnitZ(), 24, 45),
                {rod(Vec3(0, 0, -1), Vec3::UnitZ(), 4.95, 47), rod(Vec3(0, 0, 38), Vec3::UnitZ(), 9, 6), rod(Vec3(0, 0, -57), Vec3::UnitZ(), 34, 12)});
}

} // namespace gyre::demo
