#include "base/Index.h"
#include "base/Parallel.h"
#include "base/Units.h"
#include "geom/MeshFile.h"
#include "part/Kernel.h"
#include "part/KernelProgress.h"
#include "part/MeshPart.h"
#include "part/ReadShape.h"
#include <ElSLib.hxx>
#include <Geom_ConicalSurface.hxx>
#include <Geom_RectangularTrimmedSurface.hxx>
#include <Geom_SphericalSurface.hxx>
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <BRepAdaptor_Curve.hxx>
#include <BRepAdaptor_Surface.hxx>
#include <BRepBuilderAPI_Copy.hxx>
#include <BRepBuilderAPI_NurbsConvert.hxx>
#include <BRepGProp.hxx>
#include <BRepMesh_IncrementalMesh.hxx>
#include <BRepTools.hxx>
#include <BRepTools_ReShape.hxx>
#include <BRepTools_WireExplorer.hxx>
#include <BRep_Tool.hxx>
#include <GCPnts_AbscissaPoint.hxx>
#include <GProp_GProps.hxx>
#include <ShapeFix_Face.hxx>
#include <Standard_Failure.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedDataMapOfShapeListOfShape.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Edge.hxx>
#include <TopoDS_Face.hxx>
#include <TopoDS_Wire.hxx>

namespace gyre {
namespace {

SurfaceKind kindOf(GeomAbs_SurfaceType t) {
    switch (t) {
    case GeomAbs_Plane:
        return SurfaceKind::Plane;
    case GeomAbs_Cylinder:
        return SurfaceKind::Cylinder;
    case GeomAbs_Cone:
        return SurfaceKind::Cone;
    case GeomAbs_Sphere:
        return SurfaceKind::Sphere;
    case GeomAbs_Torus:
        return SurfaceKind::Torus;
    default:
        return SurfaceKind::FreeForm;
    }
}

CurveKind kindOf(GeomAbs_CurveType t) {
    switch (t) {
    case GeomAbs_Line:
        return CurveKind::Line;
    case GeomAbs_Circle:
        return CurveKind::Circle;
    case GeomAbs_Ellipse:
        return CurveKind::Ellipse;
    default:
        return CurveKind::FreeForm;
    }
}

TriangleMesh trianglesOf(const Poly_Triangulation& from, const TopLoc_Location& place, bool reversed) {
    const gp_Trsf& t = place.Transformation();
    TriangleMesh m;
    for (int i = 1; i <= from.NbNodes(); ++i) m.points.push_back(vec(from.Node(i).Transformed(t)));
    for (int i = 1; i <= from.NbTriangles(); ++i) {
        int a = 0, b = 0, c = 0;
        from.Triangle(i).Get(a, b, c);
        if (reversed) std::swap(b, c);
        m.triangles.push_back({static_cast<std::uint32_t>(a - 1), static_cast<std::uint32_t>(b - 1), static_cast<std::uint32_t>(c - 1)});
    }
    return m;
}

void collectFace(Part::Kernel& k, int f) {
    const TopoDS_Face face = TopoDS::Face(k.faceMap(f + 1));
    FaceInfo& info = k.faces[index(f)];
    auto& s = k.surfaces[index(f)];
    TopLoc_Location location;
    s.geometry = BRep_Tool::Surface(face);
    s.reversed = face.Orientation() == TopAbs_REVERSED;
    s.geometry->Bounds(s.u0, s.u1, s.v0, s.v1);
    s.uPeriodic = s.geometry->IsUPeriodic();
    s.vPeriodic = s.geometry->IsVPeriodic();
    const BRepAdaptor_Surface adaptor(face);
    info.kind = kindOf(adaptor.GetType());
    Handle(Geom_Surface) basis = s.geometry;
    if (const auto trimmed = Handle(Geom_RectangularTrimmedSurface)::DownCast(basis); !trimmed.IsNull()) basis = trimmed->BasisSurface();
    if (const auto sphere = Handle(Geom_SphericalSurface)::DownCast(basis); !sphere.IsNull()) s.sphere = sphere->Sphere();
    if (const auto cone = Handle(Geom_ConicalSurface)::DownCast(basis); !cone.IsNull()) {
        double u0 = 0.0, u1 = 0.0, v0 = 0.0, v1 = 0.0;
        BRepTools::UVBounds(face, u0, u1, v0, v1);
        s.cone = cone->Cone();
        s.nappe = s.cone->RefRadius() + 0.5 * (v0 + v1) * std::sin(s.cone->SemiAngle()) < 0.0 ? -1.0 : 1.0;
    }
    const auto turnedAbout = [&](const gp_Ax1& axis) {
        info.axisPoint = vec(axis.Location());
        info.axis = vec(gp_Vec(axis.Direction()));
    };
    if (info.kind == SurfaceKind::Cylinder) {
        info.radius = adaptor.Cylinder().Radius();
        turnedAbout(adaptor.Cylinder().Axis());
    } else if (info.kind == SurfaceKind::Cone) {
        turnedAbout(adaptor.Cone().Axis());
    } else if (info.kind == SurfaceKind::Sphere) {
        info.radius = adaptor.Sphere().Radius();
        info.axisPoint = vec(adaptor.Sphere().Location());
    } else if (info.kind == SurfaceKind::Torus) {
        info.radius = adaptor.Torus().MinorRadius();
        turnedAbout(adaptor.Torus().Axis());
    }
    GProp_GProps area;
    BRepGProp::SurfaceProperties(face, area, 1e-4);
    info.area = area.Mass();

    s.triangles = BRep_Tool::Triangulation(face, location);
    if (!s.triangles.IsNull()) {
        s.local = trianglesOf(*s.triangles, location, s.reversed);
        info.bounds = s.local.bounds();
        s.tree = MeshTree(s.local);
    }
    const TopoDS_Wire outer = BRepTools::OuterWire(face);
    for (TopExp_Explorer w(face, TopAbs_WIRE); w.More(); w.Next()) {
        std::vector<int> loop;
        for (BRepTools_WireExplorer e(TopoDS::Wire(w.Current()), face); e.More(); e.Next()) loop.push_back(k.edgeMap.FindIndex(e.Current()) - 1);
        if (w.Current().IsSame(outer))
            info.loops.insert(info.loops.begin(), loop);
        else
            info.loops.push_back(loop);
    }
}

void collectEdge(Part::Kernel& k, int e) {
    const TopoDS_Edge edge = TopoDS::Edge(k.edgeMap(e + 1));
    EdgeInfo& info = k.edges[index(e)];
    auto& c = k.curves[index(e)];
    info.degenerate = BRep_Tool::Degenerated(edge);
    c.curve = BRep_Tool::Curve(edge, c.first, c.last);
    if (info.degenerate || c.curve.IsNull()) {
        info.degenerate = true;
        return;
    }
    const BRepAdaptor_Curve adaptor(edge);
    info.kind = kindOf(adaptor.GetType());
    info.length = GCPnts_AbscissaPoint::Length(adaptor, 1e-7);
    info.start = vec(c.curve->Value(c.first));
    info.middle = vec(c.curve->Value(0.5 * (c.first + c.last)));
    info.end = vec(c.curve->Value(c.last));
    info.closed = (info.start - info.end).norm() < 1e-7 && info.length > 1e-6;
}

/// Calls with every edge, its use on a face, the face, and the triangles' points along it. A seam is used twice.
template <class Call> void forEachSide(const TopoDS_Shape& shape, const TopTools_IndexedMapOfShape& faces, const TopTools_IndexedMapOfShape& edges, const Call& call) {
    TopTools_IndexedDataMapOfShapeListOfShape owners;
    TopExp::MapShapesAndAncestors(shape, TopAbs_EDGE, TopAbs_FACE, owners);
    for (int e = 0; e < edges.Extent(); ++e) {
        const TopoDS_Edge edge = TopoDS::Edge(edges(e + 1));
        if (!owners.Contains(edge)) continue;
        std::vector<int> seen;
        for (const TopoDS_Shape& owner : owners.FindFromKey(edge)) {
            const TopoDS_Face face = TopoDS::Face(owner);
            const int f = faces.FindIndex(face) - 1;
            if (std::find(seen.begin(), seen.end(), f) != seen.end()) continue; // a seam is listed twice
            seen.push_back(f);
            const bool seam = BRep_Tool::IsClosed(edge, face);
            for (int pass = 0; pass < (seam ? 2 : 1); ++pass) {
                const TopoDS_Edge use = TopoDS::Edge(edge.Oriented(pass == 0 ? TopAbs_FORWARD : TopAbs_REVERSED));
                TopLoc_Location location;
                const auto triangles = BRep_Tool::Triangulation(face, location);
                call(e, use, face, f,
                     triangles.IsNull() ? opencascade::handle<Poly_PolygonOnTriangulation>() : BRep_Tool::PolygonOnTriangulation(use, triangles, location));
            }
        }
    }
}

void collectSides(Part::Kernel& k) {
    forEachSide(k.shape, k.faceMap, k.edgeMap,
                [&](int e, const TopoDS_Edge& use, const TopoDS_Face& face, int f, const opencascade::handle<Poly_PolygonOnTriangulation>& nodes) {
                    auto& sides = k.curves[index(e)].sides;
                    double a = 0.0, b = 0.0;
                    if (sides.size() < 2) k.edges[index(e)].faces[sides.size()] = f;
                    sides.push_back({f, BRep_Tool::CurveOnSurface(use, face, a, b), nodes, index(e), sides.size()});
                });
}

// Convex or concave: does the second face fall away behind the first, seen from inside the first?
void collectAngles(Part::Kernel& k, const Part& part) {
    for (std::size_t e = 0; e < k.edges.size(); ++e) {
        EdgeInfo& info = k.edges[e];
        if (info.degenerate || k.curves[e].sides.size() < 2) continue;
        const auto& c = k.curves[e];
        const SurfacePoint a = part.onEdge(static_cast<int>(e), 0.5, info.faces[0]);
        double t = 0.5 * (c.first + c.last);
        const gp_Pnt2d uvB = c.sides[1].curve->Value(t);
        const SurfacePoint b = evaluateSurface(k.surfaces[index(info.faces[1])], uvB.X(), uvB.Y());
        const double angle = angleBetween(a.normal, b.normal);
        // Step a little into the first face: of the two directions square to the edge take the one that stays on it.
        gp_Pnt p;
        gp_Vec d;
        c.curve->D1(t, p, d);
        const Vec3 tangent = vec(d).normalized();
        const Vec3 across = a.normal.cross(tangent);
        const double step = 1e-2 * std::sqrt(std::max(1e-6, k.faces[index(info.faces[0])].area));
        const auto& tree = k.surfaces[index(info.faces[0])].tree;
        const double plus = tree.closest(a.point + step * across).distance, minus = tree.closest(a.point - step * across).distance;
        const Vec3 inward = plus < minus ? across : Vec3(-across);
        info.angle = b.normal.dot(inward) < 0.0 ? angle : -angle;
    }
}

} // namespace

Part::~Part() = default;

void layTriangles(const TopoDS_Shape& shape, double deflection, double angle, const Message_ProgressRange& range) {
    IMeshTools_Parameters p;
    p.Deflection = deflection;
    p.Angle = angle;
    p.InParallel = true;
    const BRepMesh_IncrementalMesh mesher(shape, p, range);
}

void layAll(TopoDS_Shape& shape, double deflection, std::vector<std::string>& remarks, const Message_ProgressRange& range) {
    BRepTools::Clean(shape);
    layTriangles(shape, deflection, kTriangleAngle, range);
    const auto bare = [](const TopoDS_Face& face) {
        TopLoc_Location location;
        const auto t = BRep_Tool::Triangulation(face, location);
        return t.IsNull() || t->NbTriangles() == 0;
    };
    TopTools_IndexedMapOfShape all;
    TopExp::MapShapes(shape, TopAbs_FACE, all);
    const opencascade::handle<BRepTools_ReShape> changes = new BRepTools_ReShape;
    std::vector<std::string> healed, lost;
    for (int f = 1; f <= all.Extent(); ++f) {
        if (range.UserBreak()) return; // called off: its faces are bare for that reason
        const TopoDS_Face face = TopoDS::Face(all(f));
        if (!bare(face)) continue;
        TopoDS_Face fixed;
        // Its trimming mended; else its surface written as a free-form one, which helps where a cone is trimmed at its very apex.
        for (const bool freeForm : {false, true}) {
            if (!fixed.IsNull()) break;
            try {
                TopoDS_Shape mended;
                if (freeForm) {
                    mended = BRepBuilderAPI_NurbsConvert(face, true).Shape();
                } else {
                    ShapeFix_Face fix(face);
                    fix.SetPrecision(1e-5);
                    fix.Perform();
                    mended = fix.Result();
                }
                TopTools_IndexedMapOfShape made;
                TopExp::MapShapes(mended, TopAbs_FACE, made);
                for (int i = 1; i <= made.Extent() && fixed.IsNull(); ++i) {
                    layTriangles(made(i), deflection, kTriangleAngle);
                    if (!bare(TopoDS::Face(made(i)))) fixed = TopoDS::Face(made(i));
                }
            } catch (const Standard_Failure&) { // then it is one that stays bare
            }
        }
        if (fixed.IsNull())
            changes->Remove(face);
        else
            changes->Replace(face, fixed);
        (fixed.IsNull() ? lost : healed).push_back(std::to_string(f - 1));
    }
    if (healed.empty() && lost.empty()) return;
    shape = changes->Apply(shape);
    BRepTools::Clean(shape);
    layTriangles(shape, deflection, kTriangleAngle);
    const auto tell = [&](const std::vector<std::string>& which, const char* one, const char* many) {
        if (which.size() == 1) remarks.push_back(fmt::format("face {} {}", which.front(), one));
        if (which.size() > 1) remarks.push_back(fmt::format("{} faces {}: {}", which.size(), many, fmt::join(which, ", ")));
    };
    tell(healed, "was healed: its trimming could not be laid out as it was", "were healed, their trimming could not be laid out as it was");
    tell(lost, "is left out: its trimming is damaged (numbers count as in the file)", "are left out, their trimming is damaged (numbers count as in the file)");
}

// On a copy, which shares the surfaces but not the triangles: the shape itself may be at work elsewhere.
void Part::Kernel::Few::make() {
    std::call_once(made, [this] {
        const TopoDS_Shape copy = BRepBuilderAPI_Copy(shape, false, false).Shape();
        TopTools_IndexedMapOfShape faceMap, edgeMap;
        TopExp::MapShapes(copy, TopAbs_FACE, faceMap);
        TopExp::MapShapes(copy, TopAbs_EDGE, edgeMap);
        layTriangles(copy, deflection, 0.5);
        faces.resize(index(faceMap.Extent()));
        for (std::size_t f = 0; f < faces.size(); ++f) faces[f].triangles = BRep_Tool::Triangulation(TopoDS::Face(faceMap(static_cast<int>(f) + 1)), faces[f].place);
        sides.resize(index(edgeMap.Extent()));
        forEachSide(copy, faceMap, edgeMap, [&](int e, const TopoDS_Edge&, const TopoDS_Face&, int, const opencascade::handle<Poly_PolygonOnTriangulation>& nodes) {
            sides[index(e)].push_back(nodes);
        });
        shape.Nullify();
    });
}

/// Few triangles can be drawn as they are; of many, coarser ones are made for that.
std::vector<Part::Kernel::Laid> Part::Kernel::coarser() {
    constexpr std::size_t kDrawnAsTheyAre = 60'000;
    std::size_t fine = 0;
    for (const auto& s : surfaces) fine += s.local.triangles.size();
    std::vector<Laid> shown(faces.size());
    if (fine <= kDrawnAsTheyAre) return shown;
    BRepTools::Clean(shape);
    layTriangles(shape, 5.0 * deflection, kTriangleAngle);
    for (std::size_t f = 0; f < faces.size(); ++f) shown[f].first = BRep_Tool::Triangulation(TopoDS::Face(faceMap(static_cast<int>(f) + 1)), shown[f].second);
    return shown;
}

void Part::Kernel::measureFaces(const Part& part, const std::vector<Laid>& shown) {
    std::vector<TriangleMesh> drawn(faces.size());
    parallelFor(faces.size(), 4, [&](std::size_t f) {
        auto& s = surfaces[f];
        const auto finish = [&](TriangleMesh& m, const Poly_Triangulation& from) {
            m.normals.resize(m.points.size());
            for (std::size_t i = 0; i < m.points.size(); ++i) {
                const gp_Pnt2d uv = from.UVNode(static_cast<int>(i) + 1);
                m.normals[i] = evaluateSurface(s, uv.X(), uv.Y()).normal;
            }
            m.faces.assign(m.triangles.size(), static_cast<int>(f));
        };
        finish(s.local, *s.triangles);
        if (!shown[f].first.IsNull()) {
            drawn[f] = trianglesOf(*shown[f].first, shown[f].second, s.reversed);
            finish(drawn[f], *shown[f].first);
        } else
            drawn[f] = s.local;
        const ClosestPoint middle = s.tree.closest(faces[f].bounds.centre());
        const SurfacePoint foot = part.project(static_cast<int>(f), middle.point);
        faces[f].centre = foot.point;
        faces[f].normal = foot.normal;
    });
    for (const auto& s : surfaces) mesh.append(s.local);
    for (const auto& m : drawn) drawing.append(m);
}

Status Part::Kernel::fill(const Part& part, TopoDS_Shape from, const std::string& place, Progress& progress, bool laid) {
    Kernel& k = *this;
    const opencascade::handle<KernelWatch> watch = new KernelWatch(progress, "Laying triangles over " + place, 0.3, 0.8);
    if (!laid) {
        progress.report(0.3, "Laying triangles over " + place);
        layAll(from, deflection, k.remarks, watch->Start());
        if (progress.cancelled()) return cancelledError();
    }
    k.shape = from;
    TopExp::MapShapes(k.shape, TopAbs_FACE, k.faceMap);
    TopExp::MapShapes(k.shape, TopAbs_EDGE, k.edgeMap);
    if (k.faceMap.IsEmpty()) return fail("the file holds curves only, no face", place, "Export a solid or surface body");
    k.faces.resize(index(k.faceMap.Extent()));
    k.surfaces.resize(k.faces.size());
    k.edges.resize(index(k.edgeMap.Extent()));
    k.curves.resize(k.edges.size());
    const auto few = std::make_shared<Few>();
    few->shape = k.shape;
    few->deflection = 20.0 * deflection;
    for (std::size_t f = 0; f < k.faces.size(); ++f) {
        k.surfaces[f].few = few;
        k.surfaces[f].inFew = f;
    }
    if (!parallelFor(
            k.faces.size(), 1, [&](std::size_t f) { collectFace(k, static_cast<int>(f)); }, &progress))
        return cancelledError();
    for (std::size_t f = 0; f < k.faces.size(); ++f)
        if (k.surfaces[f].local.triangles.empty())
            return fail(fmt::format("face {} cannot be laid out in triangles: its trimming is damaged", f), place, "Heal or export the part again");
    if (!parallelFor(
            k.edges.size(), 4, [&](std::size_t e) { collectEdge(k, static_cast<int>(e)); }, &progress))
        return cancelledError();
    collectSides(k);
    progress.report(0.8, "Measuring faces");
    k.measureFaces(part, k.coarser());
    k.tree = MeshTree(k.mesh);
    k.edgeLines.resize(k.edges.size());
    for (std::size_t e = 0; e < k.edges.size(); ++e) {
        const auto& c = k.curves[e];
        if (k.edges[e].degenerate || c.sides.empty() || c.sides[0].nodes.IsNull()) continue;
        const auto& nodes = c.sides[0].nodes;
        for (int i = 1; i <= nodes->NbNodes(); ++i) k.edgeLines[e].push_back(k.surfaces[index(c.sides[0].face)].local.points[index(nodes->Node(i) - 1)]);
    }
    collectAngles(k, part);
    return {};
}

Result<std::shared_ptr<const Part>> Part::open(const std::filesystem::path& file, double deflection, Progress& progress, const MeshTaken& taken,
                                               const std::string& only) {
    const std::string place = file.filename().string();
    try {
        progress.report(0.0, "Reading " + place);
        if (isMeshFile(file)) {
            auto read = readMesh(file, progress);
            if (!read) return tl::unexpected(read.error());
            std::shared_ptr<Part> part(new Part);
            part->m_kernel->name = file.stem().string();
            part->m_kernel->deflection = deflection;
            progress.report(0.5, "Finding faces of " + place);
            if (auto ok = fillFromFile(*part->m_kernel, std::move(*read), taken, place, progress); !ok) return tl::unexpected(ok.error());
            progress.report(1.0, "Part is open");
            return std::shared_ptr<const Part>(part);
        }
        const auto read = only.empty() ? readShape(file, progress) : readBody(file, only, progress);
        if (!read) return tl::unexpected(read.error());
        if (progress.cancelled()) return cancelledError();
        if (auto ok = sizeIsSane(read->shape, place); !ok) return tl::unexpected(ok.error());
        std::shared_ptr<Part> part(new Part);
        part->m_kernel->name = only.empty() ? file.stem().string() : only;
        part->m_kernel->colour = read->colour;
        part->m_kernel->remarks = read->remarks;
        part->m_kernel->deflection = deflection;
        if (auto ok = part->m_kernel->fill(*part, read->shape, place, progress); !ok) return tl::unexpected(ok.error());
        progress.report(1.0, "Part is open");
        return std::shared_ptr<const Part>(part);
    } catch (const Standard_Failure& failure) {
        const char* why = failure.GetMessageString();
        return fail(fmt::format("the CAD kernel refuses the file ({})", why && *why ? why : failure.DynamicType()->Name()), place, "Export the part again");
    } catch (const std::exception& failure) {
        return fail(fmt::format("the file cannot be read ({})", failure.what()), place);
    }
}

Result<std::shared_ptr<const Part>> Part::fromMesh(TriangleMesh mesh, const std::string& name, double deflection) {
    std::shared_ptr<Part> part(new Part);
    part->m_kernel->name = name;
    part->m_kernel->deflection = deflection;
    if (auto ok = fillFromMesh(*part->m_kernel, std::move(mesh), name, Progress()); !ok) return tl::unexpected(ok.error());
    return std::shared_ptr<const Part>(part);
}

Result<std::shared_ptr<const Part>> Part::moved(const Part& from, const Frame& to, const std::string& place, Progress& progress) {
    const Kernel& old = *from.m_kernel;
    std::shared_ptr<Part> part(new Part);
    Kernel& k = *part->m_kernel;
    k.name = old.name;
    k.colour = old.colour;
    k.remarks = old.remarks;
    k.sheets = old.sheets;
    k.deflection = old.deflection;
    if (old.scan) {
        TriangleMesh mesh = old.source;
        for (Vec3& p : mesh.points) p = to * p;
        if (auto ok = fillFromMesh(k, std::move(mesh), place, progress); !ok) return tl::unexpected(ok.error());
        return std::shared_ptr<const Part>(part);
    }
    gp_Trsf t;
    const auto& m = to.matrix();
    t.SetValues(m(0, 0), m(0, 1), m(0, 2), m(0, 3), m(1, 0), m(1, 1), m(1, 2), m(1, 3), m(2, 0), m(2, 1), m(2, 2), m(2, 3));
    try {
        // A copy: triangles for drawing are laid on the shape itself, and the one it comes from is in use.
        if (auto ok = k.fill(*part, BRepBuilderAPI_Copy(old.shape.Moved(TopLoc_Location(t)), false, false).Shape(), place, progress); !ok)
            return tl::unexpected(ok.error());
    } catch (const Standard_Failure& failure) {
        return fail(fmt::format("the CAD kernel cannot move it ({})", failure.DynamicType()->Name()), place);
    }
    return std::shared_ptr<const Part>(part);
}

const std::string& Part::name() const { return m_kernel->name; }
const std::optional<std::array<double, 3>>& Part::colour() const { return m_kernel->colour; }
double Part::deflection() const { return m_kernel->deflection; }
const std::vector<std::string>& Part::remarks() const { return m_kernel->remarks; }
const std::vector<FaceInfo>& Part::faces() const { return m_kernel->faces; }
const std::vector<EdgeInfo>& Part::edges() const { return m_kernel->edges; }
const TriangleMesh& Part::mesh() const { return m_kernel->mesh; }
const TriangleMesh& Part::drawing() const { return m_kernel->drawing; }
const MeshTree& Part::tree() const { return m_kernel->tree; }
const Polyline& Part::edgeLine(int edge) const { return m_kernel->edgeLines[index(edge)]; }
const TriangleMesh& Part::faceMesh(int face) const { return m_kernel->surfaces[index(face)].local; }
bool Part::isMesh() const { return m_kernel->scan; }
bool Part::hasSheets() const { return m_kernel->sheets; }
double Part::volume() const { return signedVolume(body() ? body()->mesh() : m_kernel->mesh); }
int Part::bodyFaces() const { return m_kernel->bodyFaces >= 0 ? m_kernel->bodyFaces : static_cast<int>(faces().size()); }
int Part::bodyEdges() const { return m_kernel->bodyEdges >= 0 ? m_kernel->bodyEdges : static_cast<int>(edges().size()); }
std::shared_ptr<const Part> Part::body() const { return m_kernel->body; }

SurfacePoint Part::evaluate(int face, double u, double v) const {
    if (m_kernel->scan) return {faces()[index(face)].centre, faces()[index(face)].normal, 0.0, 0.0};
    return evaluateSurface(m_kernel->surfaces[index(face)], u, v);
}

std::pair<Vec2, Vec2> Part::parameterBounds(int face) const {
    const auto& s = m_kernel->surfaces[index(face)];
    if (m_kernel->scan) return {Vec2::Zero(), Vec2::Zero()};
    Vec2 low = Vec2::Constant(1e300), high = Vec2::Constant(-1e300);
    for (int i = 1; i <= s.triangles->NbNodes(); ++i) {
        const gp_Pnt2d q = s.triangles->UVNode(i);
        low = low.cwiseMin(Vec2(q.X(), q.Y()));
        high = high.cwiseMax(Vec2(q.X(), q.Y()));
    }
    return {low, high};
}

SurfacePoint Part::onEdge(int edge, double fraction, int face) const {
    if (m_kernel->lineOf(edge)) return {m_kernel->edgePoint(edge, fraction), Vec3::UnitZ(), 0.0, 0.0};
    if (m_kernel->scan) {
        const Vec3 p = m_kernel->edgePoint(edge, fraction);
        return {p, footOnMesh(m_kernel->surfaces[index(face)], p).normal, 0.0, 0.0};
    }
    const auto& c = m_kernel->curves[index(edge)];
    const double t = c.first + fraction * (c.last - c.first);
    for (const auto& side : c.sides)
        if (side.face == face && !side.curve.IsNull()) {
            const gp_Pnt2d uv = side.curve->Value(t);
            SurfacePoint s = evaluateSurface(m_kernel->surfaces[index(face)], uv.X(), uv.Y());
            return s;
        }
    return {vec(c.curve->Value(t)), Vec3::UnitZ(), 0.0, 0.0};
}

} // namespace gyre
