// Private to part/: the CAD kernel's side of a part.
#pragma once
#include "part/Part.h"
#include <Geom2d_Curve.hxx>
#include <Geom_Curve.hxx>
#include <Geom_Surface.hxx>
#include <Message_ProgressRange.hxx>
#include <Poly_PolygonOnTriangulation.hxx>
#include <Poly_Triangulation.hxx>
#include <TopLoc_Location.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopoDS_Shape.hxx>
#include <gp_Cone.hxx>
#include <gp_Pnt.hxx>
#include <gp_Sphere.hxx>
#include <gp_Vec.hxx>
#include <mutex>

namespace gyre {

struct Part::Kernel {
    std::string name;
    std::optional<std::array<double, 3>> colour;
    std::vector<std::string> remarks;
    double deflection = 0.02;
    TopoDS_Shape shape;
    TopTools_IndexedMapOfShape faceMap, edgeMap; // 1-based
    std::vector<FaceInfo> faces;
    std::vector<EdgeInfo> edges;
    std::vector<Polyline> edgeLines;
    TriangleMesh mesh, drawing;
    MeshTree tree;

    /// Few, well-shaped triangles, where fields start from: made when the first field asks, since most parts are never asked.
    struct Few {
        TopoDS_Shape shape;
        double deflection = 0.4;
        std::once_flag made;
        struct FaceTriangles {
            opencascade::handle<Poly_Triangulation> triangles;
            TopLoc_Location place;
        };
        std::vector<FaceTriangles> faces;
        std::vector<std::vector<opencascade::handle<Poly_PolygonOnTriangulation>>> sides; ///< by edge and side
        void make();
    };

    /// Field meshes asked for lately: an edit of a pattern asks for the same once more. May be asked from several threads.
    class LaidMeshes {
    public:
        LaidMeshes() = default;
        LaidMeshes(const LaidMeshes&) {} // another part has other faces by the same numbers
        LaidMeshes& operator=(const LaidMeshes&) {
            m_laid.clear();
            return *this;
        }
        [[nodiscard]] std::shared_ptr<const FieldMesh> find(const std::vector<int>& faces, double longest);
        void keep(const std::vector<int>& faces, double longest, std::shared_ptr<const FieldMesh> mesh);

    private:
        struct Laid {
            std::vector<int> faces;
            double longest;
            std::shared_ptr<const FieldMesh> mesh;
        };
        std::mutex m_guard;
        std::vector<Laid> m_laid; ///< the one asked for last stands first
    };
    LaidMeshes laid;

    struct Surface {
        opencascade::handle<Geom_Surface> geometry;
        bool reversed = false;
        double u0, u1, v0, v1; // natural bounds
        bool uPeriodic = false, vPeriodic = false;
        std::optional<gp_Sphere> sphere; ///< feet on it have a closed form, poles and all
        std::optional<gp_Cone> cone;     ///< as well, and end at its apex
        double nappe = 1.0;              ///< of a cone the sign of the radius where the face lies
        opencascade::handle<Poly_Triangulation> triangles;
        std::shared_ptr<Few> few;
        std::size_t inFew = 0; ///< this face there
        TriangleMesh local;    // triangles of this face alone
        MeshTree tree;
    };
    std::vector<Surface> surfaces;

    struct EdgeOnFace {
        int face = -1;
        opencascade::handle<Geom2d_Curve> curve; // surface parameters along the edge's own parameter
        opencascade::handle<Poly_PolygonOnTriangulation> nodes;
        std::size_t edgeInFew = 0, sideInFew = 0;
    };
    struct Edge {
        opencascade::handle<Geom_Curve> curve;
        double first = 0.0, last = 0.0;
        std::vector<EdgeOnFace> sides; // a seam has two sides on the same face
    };
    std::vector<Edge> curves;

    int bodyFaces = -1, bodyEdges = -1; ///< −1: all
    std::vector<Curve> lines;           ///< construction lines; they are the last edges
    std::shared_ptr<const Part> body;   ///< the part that construction was added to
    [[nodiscard]] const Curve* lineOf(int edge) const {
        const auto first = edges.size() - lines.size(), e = static_cast<std::size_t>(edge);
        return e >= first ? &lines[e - first] : nullptr;
    }

    /// Faces, edges and triangles of a shape.
    /// @param laid  they are laid already, as this program does it: they stay as they are
    using Laid = std::pair<opencascade::handle<Poly_Triangulation>, TopLoc_Location>;
    [[nodiscard]] std::vector<Laid> coarser();
    void measureFaces(const Part& part, const std::vector<Laid>& shown);
    [[nodiscard]] Status fill(const Part& part, TopoDS_Shape from, const std::string& place, Progress& progress, bool laid = false);

    // Parts from mesh files have no exact geometry; this stands in its place.
    bool scan = false, sheets = false;
    TriangleMesh source;                                ///< points shared by all faces
    std::vector<std::vector<std::uint32_t>> edgePoints; ///< of source, along every edge
    std::vector<std::vector<double>> edgeLengths;       ///< arc length at each of them

    /// A point of an edge: at a fraction of a mesh edge's length.
    [[nodiscard]] Vec3 edgePoint(int edge, double fraction) const {
        if (const Curve* line = lineOf(edge)) return line->at(line->atLength(fraction * line->length()));
        const auto& lengths = edgeLengths[static_cast<std::size_t>(edge)];
        return pointAtLength(edgeLines[static_cast<std::size_t>(edge)], lengths, fraction * lengths.back());
    }
};

/// Triangles no further than `deflection` from the faces, with normals no more than `angle` apart, on the shape itself.
void layTriangles(const TopoDS_Shape& shape, double deflection, double angle, const Message_ProgressRange& range = {});
inline constexpr double kTriangleAngle = 0.2;
/// The same for all faces of a shape, afresh; those that get none are healed, and left out where that does not help. Both are told.
void layAll(TopoDS_Shape& shape, double deflection, std::vector<std::string>& remarks, const Message_ProgressRange& range = {});

[[nodiscard]] inline Vec3 vec(const gp_Pnt& p) { return {p.X(), p.Y(), p.Z()}; }
[[nodiscard]] inline Vec3 vec(const gp_Vec& p) { return {p.X(), p.Y(), p.Z()}; }

/// Point and outward normal of a surface, beyond its trimmed face as well. At a pole the normal a little inside stands for it.
[[nodiscard]] SurfacePoint evaluateSurface(const Part::Kernel::Surface& s, double u, double v);

} // namespace gyre
