// The lantern collar and its fixture.
#include "Workshop.h"
#include <cmath>

#include <BRepAlgoAPI_Cut.hxx>
#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeSolid.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepBuilderAPI_Sewing.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepLib.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <Geom_BSplineSurface.hxx>
#include <Geom_Curve.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_Plane.hxx>
#include <TColStd_Array1OfInteger.hxx>
#include <TColStd_Array1OfReal.hxx>
#include <TColgp_Array2OfPnt.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Shell.hxx>
#include <TopoDS_Solid.hxx>
#include <gp_Circ.hxx>
#include <gp_Pln.hxx>
#include <vector>

namespace gyre::demo {
namespace {

constexpr int kLobes = 9;
constexpr int kPolesPerLobe = 10;
constexpr int kPoles = kLobes * kPolesPerLobe;

/// A closed lobed line: radius `base + swing·cos 9θ` at height z.
struct Lobed {
    double z, base, swing;
};

Lobed between(const Lobed& a, const Lobed& b, double t) { return {a.z + t * (b.z - a.z), a.base + t * (b.base - a.base), a.swing + t * (b.swing - a.swing)}; }

// All skins share one periodic cubic basis around the axis, so neighbouring skins have the same border curve exactly.
Handle(Geom_BSplineSurface) skin(const std::vector<Lobed>& rows) {
    const int nv = static_cast<int>(rows.size());
    TColgp_Array2OfPnt poles(1, kPoles, 1, nv);
    for (int i = 0; i < kPoles; ++i)
        for (int j = 0; j < nv; ++j) {
            const double a = 2.0 * M_PI * (i + 1) / kPoles;
            const Lobed& row = rows[static_cast<std::size_t>(j)];
            const double r = row.base + row.swing * std::cos(kLobes * a);
            poles.SetValue(i + 1, j + 1, gp_Pnt(r * std::cos(a), r * std::sin(a), row.z));
        }
    TColStd_Array1OfReal uKnots(1, kPoles + 1), vKnots(1, 2);
    TColStd_Array1OfInteger uTimes(1, kPoles + 1), vTimes(1, 2);
    for (int i = 1; i <= kPoles + 1; ++i) {
        uKnots.SetValue(i, i - 1.0);
        uTimes.SetValue(i, 1);
    }
    vKnots.SetValue(1, 0.0);
    vKnots.SetValue(2, 1.0);
    vTimes.Init(nv);
    return new Geom_BSplineSurface(poles, uKnots, vKnots, uTimes, vTimes, 3, nv - 1, true, false);
}

void addLobeFaces(BRepBuilderAPI_Sewing& sewing, const Handle(Geom_BSplineSurface) & surface) {
    for (int k = 0; k < kLobes; ++k) sewing.Add(BRepBuilderAPI_MakeFace(surface, k * kPolesPerLobe, (k + 1.0) * kPolesPerLobe, 0.0, 1.0, 1e-7).Face());
}

TopoDS_Wire lobedWire(const Handle(Geom_BSplineSurface) & surface, double v) {
    const Handle(Geom_Curve) curve = surface->VIso(v);
    BRepBuilderAPI_MakeWire wire;
    for (int k = 0; k < kLobes; ++k) wire.Add(BRepBuilderAPI_MakeEdge(curve, k * kPolesPerLobe, (k + 1.0) * kPolesPerLobe).Edge());
    return wire.Wire();
}

TopoDS_Wire circleWire(double radius, double z) {
    return BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(gp_Circ(gp_Ax2(gp_Pnt(0, 0, z), gp_Dir(0, 0, 1)), radius)).Edge()).Wire();
}

TopoDS_Face ringFace(double z, const TopoDS_Wire& outer, const TopoDS_Wire& inner) {
    BRepBuilderAPI_MakeFace face(gp_Pln(gp_Pnt(0, 0, z), gp_Dir(0, 0, 1)), outer);
    face.Add(TopoDS::Wire(inner.Reversed()));
    return face.Face();
}

TopoDS_Face cylinderFace(double radius, double low, double high) {
    const Handle(Geom_CylindricalSurface) c = new Geom_CylindricalSurface(gp_Ax3(gp_Pnt(0, 0, low), gp_Dir(0, 0, 1)), radius);
    return BRepBuilderAPI_MakeFace(c, 0.0, 2.0 * M_PI, 0.0, high - low, 1e-7).Face();
}

} // namespace

TopoDS_Shape lanternCollar() {
    const double flangeTop = 8.0, flangeRadius = 46.0, bore = 15.0, floor = 6.0;
    const Lobed footOuter{flangeTop, 37.5, 0.3}, footInner{flangeTop, 33.0, 0.6};
    const Lobed wallLow{14.0, 30.7, 0.8}, wallHigh{40.0, 32.5, 2.4}, rim{52.0, 37.0, 3.4};
    const auto foot = skin({footOuter, footInner, between(wallLow, wallHigh, -0.1), wallLow});
    const auto wall = skin({wallLow, wallHigh});
    const auto lip = skin({wallHigh, between(wallLow, wallHigh, 1.15), {49.0, 35.0, 3.1}, rim});
    const auto inside = skin({{floor, 23.5, 0.6}, {rim.z, 32.0, 3.2}});
    BRepBuilderAPI_Sewing sewing(1e-6);
    addLobeFaces(sewing, foot);
    addLobeFaces(sewing, wall);
    addLobeFaces(sewing, lip);
    addLobeFaces(sewing, inside);
    sewing.Add(ringFace(rim.z, lobedWire(lip, 1.0), lobedWire(inside, 1.0)));
    sewing.Add(ringFace(flangeTop, circleWire(flangeRadius, flangeTop), lobedWire(foot, 0.0)));
    sewing.Add(ringFace(floor, lobedWire(inside, 0.0), circleWire(bore, floor)));
    sewing.Add(ringFace(0.0, circleWire(flangeRadius, 0.0), circleWire(bore, 0.0)));
    sewing.Add(cylinderFace(flangeRadius, 0.0, flangeTop));
    sewing.Add(cylinderFace(bore, 0.0, floor));
    sewing.Perform();
    TopoDS_Solid solid = BRepBuilderAPI_MakeSolid(TopoDS::Shell(sewing.SewedShape())).Solid();
    BRepLib::OrientClosedSolid(solid);
    return solid;
}

TopoDS_Shape collarSeat() {
    const TopoDS_Shape body = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(0, 0, -40), gp_Dir(0, 0, 1)), 52.0, 40.0).Shape();
    const TopoDS_Shape hole = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(0, 0, -41), gp_Dir(0, 0, 1)), 20.0, 42.0).Shape();
    return BRepAlgoAPI_Cut(body, hole).Shape();
}

TopoDS_Shape collarClamp(int number) {
    // An upright block beside the flange with a toe that reaches over it.
    const TopoDS_Shape block = BRepPrimAPI_MakeBox(gp_Pnt(42.5, -7, -22), gp_Pnt(number == 2 ? 73 : 60, 7, 14)).Shape();
    const TopoDS_Shape room = BRepPrimAPI_MakeBox(gp_Pnt(40, -9, -23), gp_Pnt(52.2, 9, 8.0)).Shape();
    const TopoDS_Shape clamp = BRepAlgoAPI_Cut(block, room).Shape();
    // The second clamp is held by a tall stud: the holder will mind.
    const TopoDS_Shape stud = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(67, 0, 8), gp_Dir(0, 0, 1)), 4.0, 21.0).Shape();
    const TopoDS_Shape whole = number == 2 ? BRepAlgoAPI_Fuse(clamp, stud).Shape() : clamp;
    gp_Trsf turn;
    turn.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)), (20.0 + 120.0 * (number - 1)) * M_PI / 180.0);
    return BRepBuilderAPI_Transform(whole, turn, true).Shape();
}

} // namespace gyre::demo
