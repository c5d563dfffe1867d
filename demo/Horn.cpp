// The horn guide: a round-bottomed channel along a space curve, between two tall cheeks.
#include "Solids.h"
#include "Workshop.h"
#include <cmath>

#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepOffsetAPI_MakePipe.hxx>
#include <GeomAPI_PointsToBSpline.hxx>
#include <Geom_BSplineCurve.hxx>
#include <TColgp_Array1OfPnt.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Wire.hxx>
#include <gp_Circ.hxx>

namespace gyre::demo {
namespace {

constexpr double kRadius = 9.0;

/// The middle line of the channel: rises, swings to the side and comes back.
Vec3 hornLine(double t) { return {-70.0 + 140.0 * t, 14.0 * std::sin(2.0 * M_PI * t * 0.85), 30.0 + 10.0 * t * t + 4.0 * std::sin(M_PI * t)}; }

/// A wall along the line: from `in` to `out` beside it, from below the line's height up.
TopoDS_Shape along(double in, double out, double low, double high) {
    std::vector<std::vector<Vec3>> sections;
    for (int i = -1; i <= 21; ++i) {
        const double t = i / 20.0;
        const Vec3 p = hornLine(t), d = (hornLine(t + 1e-4) - p).normalized(), side = Vec3::UnitZ().cross(d).normalized();
        const auto at = [&](double across, double up) { return Vec3(p + across * side + up * Vec3::UnitZ()); };
        sections.push_back({at(in, low), at(out, low), at(out, high), at(in, high)});
    }
    return loft(sections);
}

} // namespace

TopoDS_Shape hornGuide() {
    const TopoDS_Shape base = block(Vec3(-70, -42, 0), Vec3(70, 42, 24));
    TopoDS_Shape body = fuse(base, {along(-20.0, 20.0, -24.0, 3.0), along(10.5, 16.0, -4.0, 30.0), along(-16.0, -10.5, -4.0, 30.0)});
    // The channel: a round sweep, and what lies open above it.
    TColgp_Array1OfPnt points(1, 41);
    for (int i = 0; i <= 40; ++i) {
        const Vec3 p = hornLine(-0.05 + 1.1 * i / 40.0);
        points.SetValue(i + 1, gp_Pnt(p.x(), p.y(), p.z()));
    }
    const Handle(Geom_BSplineCurve) spine = GeomAPI_PointsToBSpline(points, 3, 8, GeomAbs_C2, 1e-4).Curve();
    gp_Pnt start;
    gp_Vec way;
    spine->D1(spine->FirstParameter(), start, way);
    const TopoDS_Wire circle = BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(start, gp_Dir(way)), kRadius)).Edge()).Wire();
    const TopoDS_Shape pipe =
        BRepOffsetAPI_MakePipe(BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(spine).Edge()).Wire(), TopoDS_Shape(BRepBuilderAPI_MakeFace(circle, true).Face())).Shape();
    body = cut(body, {pipe});
    body = cut(body, {along(-kRadius, kRadius, 0.0, 40.0)});
    // Cheeks end where the base ends.
    body = cut(body, {block(Vec3(70, -60, -10), Vec3(90, 60, 120)), block(Vec3(-90, -60, -10), Vec3(-70, 60, 120))});
    return cut(body, {rod(Vec3(-55, 37.5, -1), Vec3::UnitZ(), 3.3, 30), rod(Vec3(55, 37.5, -1), Vec3::UnitZ(), 3.3, 30),
                      rod(Vec3(-55, -37.5, -1), Vec3::UnitZ(), 3.3, 30), rod(Vec3(55, -37.5, -1), Vec3::UnitZ(), 3.3, 30)});
}

// Two jaws and the vice's bed.
TopoDS_Shape hornVice() {
    return fuse(block(Vec3(-60, -75, -60), Vec3(60, 75, -8)),
                {block(Vec3(-55, 42, -10), Vec3(55, 66, 14)), block(Vec3(-55, -66, -10), Vec3(55, -42, 14)), block(Vec3(-50, -42, -10), Vec3(50, 42, 0))});
}

} // namespace gyre::demo
