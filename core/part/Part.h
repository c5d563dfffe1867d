// A part: exact faces and edges with references that survive a re-export, and triangles for speed.
// This room alone knows the CAD kernel; no kernel type appears in its headers.
#pragma once
#include "base/Progress.h"
#include "base/Result.h"
#include "geom/Curve.h"
#include "geom/MeshTree.h"
#include "geom/Polyline.h"
#include "geom/TriangleMesh.h"
#include <array>
#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace gyre {

enum class SurfaceKind { Plane, Cylinder, Cone, Sphere, Torus, FreeForm };
enum class CurveKind { Line, Circle, Ellipse, FreeForm };
[[nodiscard]] const char* surfaceKindName(SurfaceKind k);
[[nodiscard]] const char* curveKindName(CurveKind k);

struct FaceInfo {
    SurfaceKind kind = SurfaceKind::FreeForm;
    double area = 0.0;                                  ///< mm²
    Vec3 centre;                                        ///< a point on the face near its middle
    Vec3 normal;                                        ///< outward unit normal there
    double radius = 0.0;                                ///< of cylinders, spheres and the small circle of a torus
    Vec3 axisPoint = Vec3::Zero(), axis = Vec3::Zero(); ///< of cylinders, cones and tori; the axis is unit, 0 otherwise
    Box bounds;
    std::vector<std::vector<int>> loops; ///< edge indices in order, the outer loop first
};

struct EdgeInfo {
    CurveKind kind = CurveKind::FreeForm;
    double length = 0.0;
    Vec3 start, middle, end;
    std::array<int, 2> faces{-1, -1}; ///< a seam has the same face twice; −1: no second face
    double angle = 0.0;               ///< between the outward normals at the middle, rad; + convex, − concave
    bool closed = false;
    bool degenerate = false; ///< shrunk to a point (the apex of a cone)
};

/// What finds a face or edge again: the index, and if that now means something else, its shape.
struct ShapeRef {
    int index = -1;
    std::string kind;
    double size = 0.0; ///< area or length
    Vec3 centre = Vec3::Zero();
};

struct SurfacePoint {
    Vec3 point, normal;
    double u = 0.0, v = 0.0;
};

/// Conforming triangles of some faces with exact surface parameters, for fields. Points are shared across faces.
struct FieldMesh {
    std::vector<Vec3> points;
    std::vector<std::array<std::uint32_t, 3>> triangles;
    std::vector<int> faces;                           ///< part face of every triangle
    std::vector<std::array<Vec2, 3>> uv;              ///< surface parameters of every corner
    std::vector<std::vector<std::uint32_t>> edgeLine; ///< for every part edge: its points in order; empty if not on the faces
};

/// Files that a STEP file refers to for parts of its assembly, several levels deep: those that are there, and those that are missing.
struct OtherFiles {
    std::vector<std::filesystem::path> there, missing;
};
[[nodiscard]] Result<OtherFiles> otherFilesOf(const std::filesystem::path& file);

/// One body of a STEP file.
struct BodyInFile {
    std::string name;                            ///< unique in the file
    std::optional<std::array<double, 3>> colour; ///< red, green, blue: 0 … 1
    double volume = 0.0;                         ///< mm³; 0: a surface
    Box bounds;
};
/// The bodies of a STEP file, each where the assembly puts it, the largest first; empty when the file is no assembly and holds one body.
[[nodiscard]] Result<std::vector<BodyInFile>> bodiesIn(const std::filesystem::path& file, Progress& progress);

/// How a mesh file is taken, which knows neither its unit nor, where it is an open sheet, which of its sides is outside.
struct MeshTaken {
    double unit = 1.0;       ///< mm to one of the file's
    bool sheetsOver = false; ///< open sheets look to the other side
    auto operator<=>(const MeshTaken&) const = default;
};

class Part {
public:
    /// Reads STEP, IGES, BREP, or a mesh (STL, OBJ, PLY), whose regions between sharp bends become faces. The reasons for failing
    /// are told in words; the kernel's own exceptions never leave.
    /// @param deflection largest distance of triangles from the surface, mm
    /// @param only the name of one body of a STEP assembly, as from bodiesIn(); empty: all there is
    [[nodiscard]] static Result<std::shared_ptr<const Part>> open(const std::filesystem::path& file, double deflection, Progress& progress, const MeshTaken& taken = {},
                                                                  const std::string& only = {});
    /// A part that another process has read, from the file it wrote: see Aside.h.
    [[nodiscard]] static Result<std::shared_ptr<const Part>> takeOver(const std::filesystem::path& answer, const std::string& name, const std::string& place,
                                                                      double deflection, Progress& progress);
    /// A part of triangles that are no file, e.g. stock with numbers.
    [[nodiscard]] static Result<std::shared_ptr<const Part>> fromMesh(TriangleMesh mesh, const std::string& name, double deflection);
    /// The part elsewhere: turned and moved, never scaled.
    [[nodiscard]] static Result<std::shared_ptr<const Part>> moved(const Part& part, const Frame& to, const std::string& place, Progress& progress);
    /// The part with more faces and lines beside its body, to be picked like its own; nothing of them is material.
    [[nodiscard]] static std::shared_ptr<const Part> withConstruction(std::shared_ptr<const Part> body, const std::vector<std::shared_ptr<const Part>>& faces,
                                                                      const std::vector<Curve>& lines);
    ~Part();
    Part(const Part&) = delete;
    Part& operator=(const Part&) = delete;

    [[nodiscard]] const std::string& name() const;
    [[nodiscard]] const std::optional<std::array<double, 3>>& colour() const; ///< what an assembly's file gives the body
    [[nodiscard]] double deflection() const;
    /// What a user should know of how the file was read: healed or left out, files that were missing.
    [[nodiscard]] const std::vector<std::string>& remarks() const;
    [[nodiscard]] const std::vector<FaceInfo>& faces() const;
    [[nodiscard]] const std::vector<EdgeInfo>& edges() const;
    [[nodiscard]] const TriangleMesh& mesh() const; ///< with normals and face indices
    [[nodiscard]] const MeshTree& tree() const;     ///< over mesh()
    /// Far fewer triangles with exact normals, good for looking at; with normals and face indices.
    [[nodiscard]] const TriangleMesh& drawing() const;
    [[nodiscard]] const Polyline& edgeLine(int edge) const;
    [[nodiscard]] const TriangleMesh& faceMesh(int face) const; ///< one face's own triangles, with normals
    /// From a mesh file: its triangles are the exact surface, and faces have no parameters (u = v = 0 everywhere).
    [[nodiscard]] bool isMesh() const;
    /// Of a mesh: has it open sheets, of which it does not tell what lies behind them?
    [[nodiscard]] bool hasSheets() const;
    [[nodiscard]] double volume() const;
    [[nodiscard]] int bodyFaces() const;                    ///< faces from this number on are construction
    [[nodiscard]] int bodyEdges() const;                    ///< edges from this number on are those of construction faces, then lines
    [[nodiscard]] std::shared_ptr<const Part> body() const; ///< without construction; null when there is none

    /// The surface of a face freed of its trim, as a part of one face: what the trim spans in the surface's own grid, or all there is
    /// of it (`whole`), and `grow` mm further on every side. Beyond its end a surface goes on with the same tangents.
    [[nodiscard]] Result<std::shared_ptr<const Part>> freedFace(int face, bool whole, double grow) const;
    /// The true curve of an edge.
    [[nodiscard]] Result<Curve> edgeCurve(int edge) const;
    /// A line of a face's own grid: with one parameter at a fraction of the trim's span, the other running.
    [[nodiscard]] Result<Curve> gridLine(int face, bool alongV, double fraction) const;
    /// How a straight line on the surface bends through `at` in the unit direction `along`: its second derivative by length.
    [[nodiscard]] Vec3 bend(int face, const SurfacePoint& at, const Vec3& along) const;

    /// Exact point and outward normal of a face at surface parameters.
    [[nodiscard]] SurfacePoint evaluate(int face, double u, double v) const;
    /// Least and greatest surface parameters over a face's triangles.
    [[nodiscard]] std::pair<Vec2, Vec2> parameterBounds(int face) const;
    /// Foot of `p` on the surface of a face, from a start near it; Newton to 1e-10. The trim is not looked at.
    [[nodiscard]] SurfacePoint project(int face, const Vec3& p, double u, double v) const;
    /// Foot of `p` without a start: nearest triangle of the face first.
    [[nodiscard]] SurfacePoint project(int face, const Vec3& p) const;
    /// Point at the fraction 0 … 1 of an edge's parameter range, with the normal of one of its faces there.
    [[nodiscard]] SurfacePoint onEdge(int edge, double fraction, int face) const;

    [[nodiscard]] ShapeRef faceRef(int face) const;
    [[nodiscard]] ShapeRef edgeRef(int edge) const;
    /// Finds the face again: same index if its shape agrees, else the one face whose shape does.
    [[nodiscard]] Result<int> findFace(const ShapeRef& ref) const;
    [[nodiscard]] Result<int> findEdge(const ShapeRef& ref) const;

    /// Triangles of `faces` with no edge longer than `longest`, all points on the exact surfaces.
    [[nodiscard]] Result<FieldMesh> fieldMesh(const std::vector<int>& faces, double longest, const Progress* progress) const;

    struct Kernel;

private:
    friend class Measuring;
    Part();
    std::unique_ptr<Kernel> m_kernel;
};

} // namespace gyre
