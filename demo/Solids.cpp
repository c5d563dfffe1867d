#include "Solids.h"
#include <BRepAdaptor_Curve.hxx>
#include <BRepAlgoAPI_Cut.hxx>
#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepBuilderAPI_Transform.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepOffsetAPI_ThruSections.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCone.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_ListOfShape.hxx>
#include <TopoDS.hxx>
#include <gp_Ax2.hxx>
#include <gp_Trsf.hxx>

namespace gyre::demo {
namespace {

gp_Pnt point(const Vec3& p) { return {p.x(), p.y(), p.z()}; }
gp_Ax2 axes(const Vec3& at, const Vec3& z) { return {point(at), gp_Dir(z.x(), z.y(), z.z())}; }

template <class Operation> TopoDS_Shape combine(const TopoDS_Shape& body, const std::vector<TopoDS_Shape>& others) {
    TopTools_ListOfShape arguments, tools;
    arguments.Append(body);
    for (const auto& t : others) tools.Append(t);
    Operation operation;
    operation.SetArguments(arguments);
    operation.SetTools(tools);
    operation.Build();
    return operation.Shape();
}

} // namespace

TopoDS_Shape cut(const TopoDS_Shape& body, const std::vector<TopoDS_Shape>& tools) { return combine<BRepAlgoAPI_Cut>(body, tools); }
TopoDS_Shape fuse(const TopoDS_Shape& body, const std::vector<TopoDS_Shape>& more) { return combine<BRepAlgoAPI_Fuse>(body, more); }

TopoDS_Shape rod(const Vec3& foot, const Vec3& direction, double radius, double length) {
    return BRepPrimAPI_MakeCylinder(axes(foot, direction), radius, length).Shape();
}

TopoDS_Shape coneRod(const Vec3& foot, const Vec3& direction, double lower, double upper, double length) {
    return BRepPrimAPI_MakeCone(axes(foot, direction), lower, upper, length).Shape();
}

TopoDS_Shape block(const Vec3& low, const Vec3& high) { return BRepPrimAPI_MakeBox(point(low), point(high)).Shape(); }

TopoDS_Shape pad(const Frame& frame, double width, double depth, double low, double high, double corner) {
    TopoDS_Shape box = BRepPrimAPI_MakeBox(gp_Pnt(-0.5 * width, -0.5 * depth, low), gp_Pnt(0.5 * width, 0.5 * depth, high)).Shape();
    if (corner > 0.0) {
        BRepFilletAPI_MakeFillet fillet(box);
        for (TopExp_Explorer e(box, TopAbs_EDGE); e.More(); e.Next()) {
            const BRepAdaptor_Curve curve(TopoDS::Edge(e.Current()));
            const gp_Pnt a = curve.Value(curve.FirstParameter()), b = curve.Value(curve.LastParameter());
            if (std::abs(a.Z() - b.Z()) > 0.5 * (high - low)) fillet.Add(corner, TopoDS::Edge(e.Current()));
        }
        box = fillet.Shape();
    }
    gp_Trsf t;
    const auto& m = frame.matrix();
    t.SetValues(m(0, 0), m(0, 1), m(0, 2), m(0, 3), m(1, 0), m(1, 1), m(1, 2), m(1, 3), m(2, 0), m(2, 1), m(2, 2), m(2, 3));
    return BRepBuilderAPI_Transform(box, t, true).Shape();
}

TopoDS_Shape loft(const std::vector<std::vector<Vec3>>& sections, bool straight) {
    BRepOffsetAPI_ThruSections through(true, straight, 1e-5);
    for (const auto& s : sections) {
        BRepBuilderAPI_MakePolygon polygon;
        for (const Vec3& p : s) polygon.Add(point(p));
        polygon.Close();
        through.AddWire(polygon.Wire());
    }
    through.CheckCompatibility(false);
    through.Build();
    return through.Shape();
}

Frame lookingAlong(const Vec3& origin, const Vec3& normal) {
    Frame f = Frame::Identity();
    const Vec3 z = normal.normalized(), level = Vec3::UnitZ().cross(z);
    const Vec3 x = level.norm() > 1e-6 ? Vec3(level.normalized()) : Vec3(Vec3::UnitX());
    f.linear().col(0) = x;
    f.linear().col(1) = z.cross(x);
    f.linear().col(2) = z;
    f.translation() = origin;
    return f;
}

} // namespace gyre::demo
