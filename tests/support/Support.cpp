#include "Support.h"
#include "base/File.h"
#include "base/Units.h"
#include <BRepAdaptor_Curve.hxx>
#include <BRepAlgoAPI_Cut.hxx>
#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepBuilderAPI_MakeEdge.hxx>
#include <BRepBuilderAPI_MakeFace.hxx>
#include <BRepBuilderAPI_MakePolygon.hxx>
#include <BRepBuilderAPI_MakeWire.hxx>
#include <BRepBuilderAPI_NurbsConvert.hxx>
#include <BRepFill.hxx>
#include <BRepFilletAPI_MakeFillet.hxx>
#include <BRepOffsetAPI_ThruSections.hxx>
#include <BRepPrimAPI_MakeBox.hxx>
#include <BRepPrimAPI_MakeCone.hxx>
#include <BRepPrimAPI_MakeCylinder.hxx>
#include <BRepPrimAPI_MakeRevol.hxx>
#include <BRepPrimAPI_MakeWedge.hxx>
#include <BRepTools.hxx>
#include <IGESControl_Writer.hxx>
#include <Message.hxx>
#include <Message_Messenger.hxx>
#include <Quantity_Color.hxx>
#include <STEPCAFControl_Writer.hxx>
#include <STEPControl_Writer.hxx>
#include <TDF_Label.hxx>
#include <TDataStd_Name.hxx>
#include <TDocStd_Document.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <XCAFDoc_ColorTool.hxx>
#include <XCAFDoc_DocumentTool.hxx>
#include <XCAFDoc_ShapeTool.hxx>
#include <gp_Ax2.hxx>
#include <gp_Hypr.hxx>

namespace gyre::test {

Random::Random(unsigned salt) {
    const unsigned seed = qEnvironmentVariableIsSet("GYRE_SEED") ? qEnvironmentVariableIntValue("GYRE_SEED") : 20261123u + salt;
    qInfo("seed %u (repeat with GYRE_SEED=%u)", seed, seed);
    m_engine.seed(seed);
}

Vec3 Random::direction() {
    while (true) {
        const Vec3 v = point(1.0);
        if (v.norm() > 0.05 && v.norm() <= 1.0) return v.normalized();
    }
}

std::filesystem::path demoFile(const std::string& name) { return std::filesystem::path(GYRE_DEMO_DIR) / name; }

Machine demoMachine(const std::string& file) {
    const auto m = machineFromJson(readFile(demoFile(file), 1 << 24).value(), file, GYRE_DEMO_DIR);
    if (!m) qFatal("%s", m.error().text().c_str());
    return *m;
}

std::shared_ptr<const Part> openPart(const std::filesystem::path& file) {
    Progress progress;
    auto part = Part::open(file, 0.02, progress);
    if (!part) qFatal("%s", part.error().text().c_str());
    return *part;
}

int faceOf(const Part& part, SurfaceKind kind) {
    for (std::size_t f = 0; f < part.faces().size(); ++f)
        if (part.faces()[f].kind == kind) return static_cast<int>(f);
    return -1;
}

int faceTowards(const Part& part, const Vec3& normal) {
    int found = -1;
    for (std::size_t f = 0; f < part.faces().size(); ++f)
        if (part.faces()[f].kind == SurfaceKind::Plane && part.faces()[f].normal.dot(normal) > 0.999 &&
            (found < 0 || part.faces()[f].area > part.faces()[static_cast<std::size_t>(found)].area))
            found = static_cast<int>(f);
    return found;
}

namespace {
std::filesystem::path write(const TopoDS_Shape& shape, const std::filesystem::path& file) {
    Message::DefaultMessenger()->ChangePrinters().Clear();
    STEPControl_Writer writer;
    writer.Transfer(shape, STEPControl_AsIs);
    writer.Write(file.c_str());
    return file;
}
} // namespace

std::filesystem::path cylinderStep(const std::filesystem::path& folder, double radius, double height) {
    return write(BRepPrimAPI_MakeCylinder(radius, height).Shape(), folder / "cylinder.step");
}
std::filesystem::path boxStep(const std::filesystem::path& folder, double x, double y, double z) {
    return write(BRepPrimAPI_MakeBox(x, y, z).Shape(), folder / "box.step");
}
std::filesystem::path coneStep(const std::filesystem::path& folder, double lower, double upper, double height) {
    return write(BRepPrimAPI_MakeCone(lower, upper, height).Shape(), folder / "cone.step");
}

namespace {
gp_Ax2 at(double x, double y, double z, double i, double j, double k) { return {gp_Pnt(x, y, z), gp_Dir(i, j, k)}; }
TopoDS_Shape round(const gp_Ax2& where, double radius, double length) { return BRepPrimAPI_MakeCylinder(where, radius, length).Shape(); }
} // namespace

std::filesystem::path drilledPlate(const std::filesystem::path& folder) {
    TopoDS_Shape s = BRepPrimAPI_MakeBox(120, 80, 20).Shape();
    const auto cut = [&](const TopoDS_Shape& tool) { s = BRepAlgoAPI_Cut(s, tool).Shape(); };
    for (const double x : {10.0, 110.0})
        for (const double y : {10.0, 70.0}) cut(round(at(x, y, -1, 0, 0, 1), 4, 22)); // four through holes
    cut(round(at(30, 20, -1, 0, 0, 1), 4.5, 22));                                     // a counterbored one
    cut(round(at(30, 20, 14, 0, 0, 1), 8, 7));
    cut(round(at(50, 20, 8, 0, 0, 1), 5, 13));  // blind, flat, 12 deep
    cut(round(at(70, 20, 10, 0, 0, 1), 3, 11)); // blind with a drill's tip, 10 deep before it
    cut(BRepPrimAPI_MakeCone(at(70, 20, 10, 0, 0, -1), 3, 0, 3.0 / std::tan(59.0 * kPi / 180)).Shape());
    cut(round(at(90, 20, -1, 0, 0, 1), 6, 22)); // through, chamfered by 1 mm
    cut(BRepPrimAPI_MakeCone(at(90, 20, 19, 0, 0, 1), 6, 7, 1).Shape());
    cut(round(at(0, 50, 10, 1, 0, 0), 2.5, 15)); // from the side, 15 deep
    // Traps: a slot with round ends, a bore that breaks out of the side, a groove around a boss, a boss on top.
    cut(BRepPrimAPI_MakeBox(gp_Pnt(40, 56, -1), gp_Pnt(60, 64, 21)).Shape());
    cut(round(at(40, 60, -1, 0, 0, 1), 4, 22));
    cut(round(at(60, 60, -1, 0, 0, 1), 4, 22));
    cut(round(at(75, 78, -1, 0, 0, 1), 4, 22));
    cut(BRepAlgoAPI_Cut(round(at(90, 50, 15, 0, 0, 1), 9, 6), round(at(90, 50, 15, 0, 0, 1), 6, 6)).Shape());
    s = BRepAlgoAPI_Fuse(s, round(at(20, 45, 20, 0, 0, 1), 7, 6)).Shape();
    return write(s, folder / "plate.step");
}

std::filesystem::path plateWithCone(const std::filesystem::path& folder, double wide, double narrow, double depth) {
    const TopoDS_Shape plate = BRepPrimAPI_MakeBox(gp_Pnt(-30, -30, -10), gp_Pnt(30, 30, 0)).Shape();
    return write(BRepAlgoAPI_Cut(plate, BRepPrimAPI_MakeCone(at(0, 0, 0, 0, 0, -1), wide, narrow, depth).Shape()).Shape(), folder / "cone-plate.step");
}

std::filesystem::path drilledTube(const std::filesystem::path& folder) {
    TopoDS_Shape s = BRepAlgoAPI_Cut(round(at(0, 0, 0, 1, 0, 0), 40, 100), round(at(-1, 0, 0, 1, 0, 0), 30, 102)).Shape();
    const auto cut = [&](const TopoDS_Shape& tool) { s = BRepAlgoAPI_Cut(s, tool).Shape(); };
    cut(round(at(20, 0, -50, 0, 0, 1), 4, 100));              // through both walls
    cut(round(at(50, 0, 0, 0.5, 0, std::sqrt(0.75)), 3, 60)); // leaning by 30°
    gp_Ax2 half(gp_Pnt(75, 0, 0), gp_Dir(0, 1, 0), gp_Dir(1, 0, 0));
    cut(BRepPrimAPI_MakeCylinder(half, 5, 60, kPi).Shape());
    half.Rotate(gp_Ax1(gp_Pnt(75, 0, 0), gp_Dir(0, 1, 0)), kPi);
    cut(BRepPrimAPI_MakeCylinder(half, 5, 60, kPi).Shape());
    return write(s, folder / "tube.step");
}

std::filesystem::path boxIges(const std::filesystem::path& folder, double x, double y, double z) {
    IGESControl_Writer writer("MM", 0);
    writer.AddShape(BRepPrimAPI_MakeBox(x, y, z).Shape());
    writer.ComputeModel();
    writer.Write((folder / "box.igs").c_str());
    return folder / "box.igs";
}
std::filesystem::path boxBrep(const std::filesystem::path& folder, double x, double y, double z) {
    BRepTools::Write(BRepPrimAPI_MakeBox(x, y, z).Shape(), (folder / "box.brep").c_str());
    return folder / "box.brep";
}

std::filesystem::path ruledWall(const std::filesystem::path& folder, double height, double twist) {
    const TopoDS_Edge low = BRepBuilderAPI_MakeEdge(gp_Pnt(-50, 0, 0), gp_Pnt(50, 0, 0));
    const double c = 50 * std::cos(twist), s = 50 * std::sin(twist);
    const TopoDS_Edge high = BRepBuilderAPI_MakeEdge(gp_Pnt(-c, -s, height), gp_Pnt(c, s, height));
    return write(BRepFill::Face(low, high), folder / "wall.step");
}

std::filesystem::path bossOnPlate(const std::filesystem::path& folder, double draftDegrees) {
    const double in = 16.0 * std::tan(radians(draftDegrees));
    BRepOffsetAPI_ThruSections sections(true, true);
    for (const double z : {12.0, 28.0}) {
        const double by = z > 20 ? in : 0.0;
        BRepBuilderAPI_MakePolygon polygon;
        for (const auto& [x, y] : {std::pair{27.0 + by, 26.0 + by}, {63.0 - by, 26.0 + by}, {63.0 - by, 54.0 - by}, {27.0 + by, 54.0 - by}}) polygon.Add(gp_Pnt(x, y, z));
        polygon.Close();
        sections.AddWire(polygon.Wire());
    }
    return write(BRepAlgoAPI_Fuse(BRepPrimAPI_MakeBox(90, 80, 12).Shape(), sections.Shape()).Shape(), folder / "boss-on-plate.step");
}

std::filesystem::path passageOnPlate(const std::filesystem::path& folder, double leanDegrees, double from) {
    const double back = 15.0 * std::tan(radians(leanDegrees));
    const auto wall = [&](double side) {
        BRepOffsetAPI_ThruSections sections(true, true);
        for (const double z : {10.0, 25.0}) {
            const double by = z > 20.0 ? back : 0.0;
            BRepBuilderAPI_MakePolygon polygon;
            for (const auto& [x, y] : {std::pair{from, 10.0 + by}, {80.0 - from, 10.0 + by}, {80.0 - from, 20.0}, {from, 20.0}}) polygon.Add(gp_Pnt(x, side * y, z));
            polygon.Close();
            sections.AddWire(polygon.Wire());
        }
        return sections.Shape();
    };
    TopoDS_Shape all = BRepPrimAPI_MakeBox(gp_Pnt(0, -30, 0), gp_Pnt(80, 30, 10)).Shape();
    for (const TopoDS_Shape& more : {wall(1.0), wall(-1.0), BRepPrimAPI_MakeBox(gp_Pnt(35, -1, 10), gp_Pnt(60, 1, 18)).Shape()})
        all = BRepAlgoAPI_Fuse(all, more).Shape();
    return write(all, folder / "passage.step");
}

std::filesystem::path ruledPrism(const std::filesystem::path& folder, const std::vector<Vec2>& lower, const std::vector<Vec2>& upper, double height) {
    const auto wire = [](const std::vector<Vec2>& points, double z) {
        BRepBuilderAPI_MakePolygon polygon;
        for (const Vec2& p : points) polygon.Add(gp_Pnt(p.x(), p.y(), z));
        polygon.Close();
        return polygon.Wire();
    };
    BRepOffsetAPI_ThruSections sections(true, true);
    sections.CheckCompatibility(false);
    sections.AddWire(wire(lower, 0.0));
    sections.AddWire(wire(upper, height));
    return write(sections.Shape(), folder / "prism.step");
}

std::filesystem::path hyperboloid(const std::filesystem::path& folder, double waist, double slope, double half) {
    const gp_Hypr curve(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(0, -1, 0), gp_Dir(1, 0, 0)), waist, slope);
    const double u = std::asinh(half / slope), r = waist * std::cosh(u);
    BRepBuilderAPI_MakeWire wire(BRepBuilderAPI_MakeEdge(curve, -u, u));
    wire.Add(BRepBuilderAPI_MakeEdge(gp_Pnt(r, 0, half), gp_Pnt(0, 0, half)));
    wire.Add(BRepBuilderAPI_MakeEdge(gp_Pnt(0, 0, half), gp_Pnt(0, 0, -half)));
    wire.Add(BRepBuilderAPI_MakeEdge(gp_Pnt(0, 0, -half), gp_Pnt(r, 0, -half)));
    return write(BRepBuilderAPI_NurbsConvert(BRepPrimAPI_MakeRevol(BRepBuilderAPI_MakeFace(wire.Wire()).Shape(), gp::OZ()).Shape()).Shape(), folder / "hyperboloid.step");
}

std::filesystem::path wedge(const std::filesystem::path& folder) { return write(BRepPrimAPI_MakeWedge(60, 20, 50, 10, 5, 45, 42).Shape(), folder / "wedge.step"); }

std::filesystem::path pinnedPlate(const std::filesystem::path& folder, bool filesApart) {
    opencascade::handle<TDocStd_Document> document = new TDocStd_Document("XmlXCAF");
    XCAFDoc_DocumentTool::Set(document->Main(), false);
    const auto shapes = XCAFDoc_DocumentTool::ShapeTool(document->Main());
    const auto colours = XCAFDoc_DocumentTool::ColorTool(document->Main());
    const TopoDS_Shape plate = BRepPrimAPI_MakeBox(40, 30, 5).Shape(), pin = BRepPrimAPI_MakeCylinder(3, 8).Shape();
    const TDF_Label whole = shapes->NewShape(), plateLabel = shapes->AddShape(plate, false), pinLabel = shapes->AddShape(pin, false);
    TDataStd_Name::Set(whole, "pinned plate");
    TDataStd_Name::Set(plateLabel, "plate");
    TDataStd_Name::Set(pinLabel, "pin");
    colours->SetColor(plateLabel, Quantity_Color(1, 0, 0, Quantity_TOC_RGB), XCAFDoc_ColorSurf);
    colours->SetColor(pinLabel, Quantity_Color(0, 1, 0, Quantity_TOC_RGB), XCAFDoc_ColorSurf);
    shapes->AddComponent(whole, plateLabel, TopLoc_Location());
    for (const double x : {10.0, 30.0}) {
        gp_Trsf t;
        t.SetTranslation(gp_Vec(x, 15, 5));
        shapes->AddComponent(whole, pinLabel, TopLoc_Location(t));
    }
    shapes->UpdateAssemblies();
    Message::DefaultMessenger()->ChangePrinters().Clear();
    STEPCAFControl_Writer writer;
    writer.SetNameMode(true);
    writer.SetColorMode(true);
    const std::filesystem::path file = folder / (filesApart ? "apart.step" : "pinned.step");
    if (filesApart)
        writer.Transfer(document, STEPControl_AsIs, "of_");
    else
        writer.Transfer(document);
    writer.Write(file.c_str());
    return file;
}

std::filesystem::path filletedPocket(const std::filesystem::path& folder) {
    TopoDS_Shape s = BRepPrimAPI_MakeBox(60, 40, 20).Shape();
    const auto cut = [&](const TopoDS_Shape& tool) { s = BRepAlgoAPI_Cut(s, tool).Shape(); };
    cut(BRepPrimAPI_MakeBox(gp_Pnt(10, 10, 8), gp_Pnt(50, 30, 21)).Shape());
    BRepFilletAPI_MakeFillet fillet(s);
    for (TopExp_Explorer e(s, TopAbs_EDGE); e.More(); e.Next()) {
        const BRepAdaptor_Curve c(TopoDS::Edge(e.Current()));
        const gp_Pnt p = c.Value(0.5 * (c.FirstParameter() + c.LastParameter()));
        const bool floor = std::abs(p.Z() - 8) < 1e-6 && p.X() > 9 && p.X() < 51 && p.Y() > 9 && p.Y() < 31;
        const bool upright =
            std::abs(p.Z() - 14) < 1e-6 && (std::abs(p.X() - 10) < 1e-6 || std::abs(p.X() - 50) < 1e-6) && (std::abs(p.Y() - 10) < 1e-6 || std::abs(p.Y() - 30) < 1e-6);
        if (floor || upright) fillet.Add(3.0, TopoDS::Edge(e.Current()));
    }
    s = fillet.Shape();
    cut(BRepPrimAPI_MakeBox(gp_Pnt(-1, -1, 15), gp_Pnt(6, 41, 21)).Shape());
    cut(BRepPrimAPI_MakeBox(gp_Pnt(54, -1, 15), gp_Pnt(61, 41, 21)).Shape());
    return write(s, folder / "pocket.step");
}

std::filesystem::path familyPart(const std::filesystem::path& file, const Family& f) {
    TopoDS_Shape s = BRepPrimAPI_MakeBox(f.length, f.width, f.height).Shape();
    const auto cut = [&](const TopoDS_Shape& tool) { s = BRepAlgoAPI_Cut(s, tool).Shape(); };
    const TopoDS_Shape pocket =
        BRepPrimAPI_MakeBox(gp_Pnt(f.pocketX, f.pocketY, f.height - f.pocketDepth), gp_Pnt(f.pocketX + f.pocketLength, f.pocketY + f.pocketWidth, f.height + 1)).Shape();
    BRepFilletAPI_MakeFillet fillet(pocket);
    for (TopExp_Explorer e(pocket, TopAbs_EDGE); e.More(); e.Next()) {
        const BRepAdaptor_Curve c(TopoDS::Edge(e.Current()));
        if (std::abs(c.Value(c.FirstParameter()).Z() - c.Value(c.LastParameter()).Z()) > 1e-6) fillet.Add(f.corner, TopoDS::Edge(e.Current()));
    }
    cut(fillet.Shape());
    for (int i = 0; i < f.holes; ++i)
        cut(BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(f.length * (i + 1) / (f.holes + 1), f.width - 8, -1), gp_Dir(0, 0, 1)), 0.5 * f.hole, f.height + 2).Shape());
    if (f.slot) cut(BRepPrimAPI_MakeBox(gp_Pnt(f.length - 12, f.pocketY, f.height - 6), gp_Pnt(f.length + 1, f.pocketY + 7, f.height + 1)).Shape());
    return write(s, file);
}

std::filesystem::path bossAndPocket(const std::filesystem::path& file, double boss, double pocket, double wide) {
    const auto square = [wide](double at, double low, double high) {
        return BRepPrimAPI_MakeBox(gp_Pnt(at - 0.5 * wide, 25 - 0.5 * wide, low), gp_Pnt(at + 0.5 * wide, 25 + 0.5 * wide, high)).Shape();
    };
    const TopoDS_Shape plate = BRepPrimAPI_MakeBox(100, 50, 20).Shape();
    return write(BRepAlgoAPI_Cut(BRepAlgoAPI_Fuse(plate, square(boss, 10, 28)).Shape(), square(pocket, 12, 21)).Shape(), file);
}

std::filesystem::path milledBlock(const std::filesystem::path& folder) {
    TopoDS_Shape s = BRepPrimAPI_MakeBox(100, 70, 30).Shape();
    const auto cut = [&](const TopoDS_Shape& tool) { s = BRepAlgoAPI_Cut(s, tool).Shape(); };
    const TopoDS_Shape island = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(30, 27, 19), gp_Dir(0, 0, 1)), 6, 20).Shape();
    cut(BRepAlgoAPI_Cut(BRepPrimAPI_MakeBox(gp_Pnt(10, 10, 20), gp_Pnt(50, 45, 31)).Shape(), island).Shape());
    cut(BRepPrimAPI_MakeBox(gp_Pnt(60, -1, 22), gp_Pnt(75, 40, 31)).Shape());
    cut(BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(85, 55, 15), gp_Dir(0, 0, 1)), 10, 20).Shape());
    return write(s, folder / "milled.step");
}

std::filesystem::path bossedBar(const std::filesystem::path& folder) {
    const TopoDS_Shape bar = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0)), 15, 60).Shape();
    const TopoDS_Shape boss = BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(30, 0, 0), gp_Dir(0, 0, 1)), 4, 26).Shape();
    return write(BRepAlgoAPI_Fuse(bar, boss).Shape(), folder / "bossed.step");
}

std::filesystem::path ribbedPlate(const std::filesystem::path& folder, double shift) {
    const TopoDS_Shape plate = BRepPrimAPI_MakeBox(gp_Pnt(0, 0, 0), gp_Pnt(100, 60, 10)).Shape();
    const TopoDS_Shape first = BRepPrimAPI_MakeBox(gp_Pnt(20, 18, 8), gp_Pnt(60, 22, 22)).Shape();
    const TopoDS_Shape second = BRepPrimAPI_MakeBox(gp_Pnt(20 + shift, 40, 8), gp_Pnt(60 + shift, 44, 22)).Shape();
    return write(BRepAlgoAPI_Fuse(BRepAlgoAPI_Fuse(plate, first).Shape(), second).Shape(), folder / "ribbed.step");
}

Assembly ballTool(double diameter, double stickOut) {
    Assembly a;
    a.id = a.name = "ball";
    a.cutter = {CutterShape::Ball, diameter, 0, 0, 2 * diameter, 3 * diameter, diameter, diameter, 200, 2};
    a.stickOut = stickOut;
    a.holder = {{20, 20, 30}, {40, 40, 30}};
    return a;
}

Assembly flatTool(double diameter, double flutes) {
    Assembly a = ballTool(diameter, 60);
    a.id = a.name = "flat";
    a.cutter.shape = CutterShape::Flat;
    a.cutter.fluteLength = flutes;
    a.cutter.shoulderLength = flutes + 5;
    return a;
}

DemoResults& demoResults() {
    static DemoResults* demo = [] {
        auto* d = new DemoResults;
        d->job = openJob(demoFile("lantern-collar.gyre.json")).value();
        Workshop workshop(GYRE_DEMO_DIR);
        Progress progress;
        auto r = computeJob(d->job, workshop, d->cache, progress);
        if (!r) qFatal("%s", r.error().text().c_str());
        d->results = std::move(*r);
        return d;
    }();
    return *demo;
}

} // namespace gyre::test
