#include "RandomFaces.h"
#include "base/Units.h"
#include <BRepAdaptor_Surface.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakeVertex.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepExtrema_DistShapeShape.hxx>
#include <BRepLib.hxx>
#include <BRepTools.hxx>
#include <BRep_Tool.hxx>
#include <GCE2d_MakeSegment.hxx>
#include <GeomAPI_ProjectPointOnSurf.hxx>
#include <Geom_BSplineCurve.hxx>
#include <Geom_BSplineSurface.hxx>
#include <Geom_BezierSurface.hxx>
#include <Geom_ConicalSurface.hxx>
#include <Geom_CylindricalSurface.hxx>
#include <Geom_Plane.hxx>
#include <Geom_SphericalSurface.hxx>
#include <Geom_SurfaceOfRevolution.hxx>
#include <Geom_ToroidalSurface.hxx>
#include <ShapeFix_Face.hxx>
#include <TColStd_Array1OfInteger.hxx>
#include <TColStd_Array1OfReal.hxx>
#include <TColgp_Array1OfPnt.hxx>
#include <TColgp_Array2OfPnt.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Wire.hxx>
#include <gp_Ax3.hxx>

namespace gyre::test {

struct RandomFace::Shape {
    TopoDS_Face face;
};

namespace {

using Surface = Handle(Geom_Surface);

// Cubic, over 36 × 24 mm or so; one side may be a point.
Surface wavy(Random& random, double high, bool pointed) {
    const int nu = 7, nv = 6;
    TColgp_Array2OfPnt poles(1, nu, 1, nv);
    for (int i = 1; i <= nu; ++i)
        for (int j = 1; j <= nv; ++j)
            poles.SetValue(i, j,
                           gp_Pnt(6.0 * (i - 1) + random.number(-1.5, 1.5), pointed ? 4.8 * (j - 3.5) * (i - 1) / (nu - 1) : 4.8 * (j - 1) + random.number(-1.2, 1.2),
                                  pointed && i == 1 ? 0.0 : random.number(-high, high)));
    if (pointed)
        for (int j = 1; j <= nv; ++j) poles.SetValue(1, j, gp_Pnt(0, 0, 0));
    const auto knots = [](int n) {
        TColStd_Array1OfReal at(1, n - 2);
        for (int k = 1; k <= n - 2; ++k) at.SetValue(k, k - 1.0);
        return at;
    };
    const auto times = [](int n) {
        TColStd_Array1OfInteger m(1, n - 2);
        for (int k = 1; k <= n - 2; ++k) m.SetValue(k, k == 1 || k == n - 2 ? 4 : 1);
        return m;
    };
    return new Geom_BSplineSurface(poles, knots(nu), knots(nv), times(nu), times(nv), 3, 3);
}

// A meridian that begins on the axis, at any angle to it.
Surface turned(Random& random) {
    TColgp_Array1OfPnt poles(1, 5);
    for (int i = 1; i <= 5; ++i)
        poles.SetValue(i, gp_Pnt(i == 1 ? 0.0 : 4.0 * (i - 1) + random.number(-1, 1), 0.0, i == 1 ? 6.0 : 6.0 - 1.5 * (i - 1) + random.number(-2, 2)));
    TColStd_Array1OfReal knots(1, 3);
    TColStd_Array1OfInteger times(1, 3);
    for (int k = 1; k <= 3; ++k) {
        knots.SetValue(k, k - 1.0);
        times.SetValue(k, k == 2 ? 1 : 4);
    }
    return new Geom_SurfaceOfRevolution(new Geom_BSplineCurve(poles, knots, times, 3), gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1)));
}

struct Range {
    double u0, u1, v0, v1;
    [[nodiscard]] gp_Pnt2d at(double a, double b) const { return {u0 + a * (u1 - u0), v0 + b * (v1 - v0)}; }
};

TopoDS_Wire wireOf(const Surface& surface, const std::vector<gp_Pnt2d>& corners) {
    BRepBuilderAPI_MakeWire wire;
    for (std::size_t i = 0; i < corners.size(); ++i)
        wire.Add(BRepBuilderAPI_MakeEdge(Handle(Geom2d_Curve)(GCE2d_MakeSegment(corners[i], corners[(i + 1) % corners.size()]).Value()), surface));
    BRepLib::BuildCurves3d(wire.Wire());
    return wire.Wire();
}

// A star of random rays, and holes of five to nine corners around its middle, none of which meet.
TopoDS_Face ragged(Random& random, const Surface& surface, const Range& range) {
    const int n = random.integer(7, 14);
    std::vector<gp_Pnt2d> border;
    for (int i = 0; i < n; ++i) {
        const double a = 2.0 * kPi * (i + random.number(-0.3, 0.3)) / n, r = random.number(0.24, 0.49);
        border.push_back(range.at(0.5 + r * std::cos(a), 0.5 + r * std::sin(a)));
    }
    BRepBuilderAPI_MakeFace made(surface, wireOf(surface, border));
    const int holes = random.integer(0, 3);
    for (int h = 0; h < holes; ++h) {
        const double away = 2.0 * kPi * h / holes, x = 0.5 + (holes > 1 ? 0.1 * std::cos(away) : 0.0), y = 0.5 + (holes > 1 ? 0.1 * std::sin(away) : 0.0);
        const int corners = random.integer(5, 9);
        std::vector<gp_Pnt2d> rim;
        for (int i = 0; i < corners; ++i) {
            const double a = -2.0 * kPi * i / corners, r = random.number(0.03, 0.055);
            rim.push_back(range.at(x + r * std::cos(a), y + r * std::sin(a)));
        }
        made.Add(wireOf(surface, rim));
    }
    ShapeFix_Face fix(made.Face());
    fix.Perform();
    return fix.Face();
}

TopoDS_Face whole(const Surface& surface, const Range& r) { return BRepBuilderAPI_MakeFace(surface, r.u0, r.u1, r.v0, r.v1, 1e-6).Face(); }

std::pair<TopoDS_Face, std::string> faceOf(Random& random, int kind) {
    const gp_Ax3 place(gp_Pnt(0, 0, 0), gp_Dir(random.number(-0.5, 0.5), random.number(-0.5, 0.5), 1));
    const auto patch = [&](double high, bool pointed) { return wavy(random, high, pointed); };
    switch (kind) {
    case 0:
        return {whole(patch(random.number(1, 6), false), {0, 4, 0, 3}), "wavy"};
    case 1:
        return {ragged(random, patch(random.number(1, 6), false), {0, 4, 0, 3}), "ragged and wavy"};
    case 2:
        return {ragged(random, new Geom_CylindricalSurface(place, random.number(8, 20)), {0.3, 0.3 + random.number(1.2, 4.5), 0, 30}), "ragged cylinder"};
    case 3: {
        const double half = random.number(0.3, 1.2), long_ = random.number(12, 24);
        const bool all = random.integer(0, 1) == 1;
        return {whole(new Geom_ConicalSurface(gp_Ax3(gp_Pnt(0, 0, 0), gp_Dir(0, 0, -1)), half, 0.0), {0, all ? 2 * kPi : random.number(1, 5), 0, long_}),
                "cone to its tip"};
    }
    case 4: {
        const bool all = random.integer(0, 1) == 1;
        return {whole(new Geom_SphericalSurface(place, random.number(8, 16)), {0, all ? 2 * kPi : random.number(1, 5), random.number(-0.3, 0.8), 0.5 * kPi}),
                "ball to its pole"};
    }
    case 5:
        return {whole(patch(random.number(0.5, 3), true), {0, 4, 0, 3}), "patch with a side that is a point"};
    case 6: {
        const double at = random.number(0.2, 0.7), wide = random.number(0.01, 0.04);
        const Surface s = patch(random.number(0.5, 3), false);
        return {whole(s, {0.2, 3.8, 3 * at, 3 * (at + wide)}), "sliver"};
    }
    case 7: // the judge does not look beyond where its parameters begin again
        return {ragged(random, new Geom_ToroidalSurface(place, random.number(16, 24), random.number(5, 9)),
                       {0.2, 0.2 + random.number(0.9, 1.8), random.number(0.3, 1.5), random.number(2.4, 4.5)}),
                "ragged ring"};
    case 8:
        return {ragged(random, new Geom_Plane(place), {-18, 18, -14, 14}), "ragged plane"};
    default: {
        const bool all = random.integer(0, 1) == 1;
        return {whole(turned(random), {0, all ? 2 * kPi : random.number(1, 5), 0, 2}), "turned to its axis"};
    }
    }
}

} // namespace

RandomFace::RandomFace(const std::filesystem::path& folder, Random& random, int kind) : m_shape(std::make_unique<Shape>()) {
    std::tie(m_shape->face, m_what) = faceOf(random, kind);
    static int count = 0;
    m_file = folder / ("face" + std::to_string(++count) + ".brep");
    BRepTools::Write(m_shape->face, m_file.c_str());
}

RandomFace::~RandomFace() = default;

double RandomFace::distance(const Vec3& p) const {
    BRepExtrema_DistShapeShape d(BRepBuilderAPI_MakeVertex(gp_Pnt(p.x(), p.y(), p.z())).Vertex(), m_shape->face);
    return d.IsDone() ? d.Value() : 1e300;
}

double RandomFace::surfaceDistance(const Vec3& p) const {
    const GeomAPI_ProjectPointOnSurf foot(gp_Pnt(p.x(), p.y(), p.z()), BRep_Tool::Surface(m_shape->face));
    return foot.NbPoints() > 0 ? foot.LowerDistance() : distance(p);
}

} // namespace gyre::test
