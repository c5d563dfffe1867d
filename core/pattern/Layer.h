// The field of a pattern over its faces, and what is traced on it.
#pragma once
#include "geom/MeshTree.h"
#include "pattern/CornerRows.h"
#include "pattern/PatternKinds.h"
#include "pattern/RawRows.h"
#include "target/Target.h"
#include <memory>
#include <optional>

namespace gyre {

class Layer {
public:
    Layer(const Part& part, const PatternSpec& spec, double contactRadius, const RowHelp& help)
        : m_part(part), m_spec(spec), m_kind(kindOf(spec.kind)), m_radius(contactRadius), m_help(help) {}

    Status prepare(const std::vector<int>& faces, double spacing, Progress& progress);
    [[nodiscard]] std::vector<double> levels(std::size_t steps) const;
    void calibrate();
    /// Rough rows lie on the triangles and are good for measuring gaps; exact ones lie on the surfaces.
    enum class Grade { Rough, Exact };
    bool trace(const std::vector<double>& levels, Grade grade, std::vector<RawRow>& rows, const Progress* progress) const;
    void rescale(const std::vector<double>& levels, const std::vector<RowGap>& gaps);
    [[nodiscard]] RowSource source() const;
    [[nodiscard]] double deviation(const RowSample& a, const RowSample& m, const RowSample& b) const;
    [[nodiscard]] std::vector<RowSample> dense(const RawLine& line, double level) const;
    /// The fewest of these samples within the tolerance.
    [[nodiscard]] Row thinned(const RawLine& dense, double level, int number) const;
    /// Leaves out points that lie next to each other, where an edge was met: the direction from one to the other says nothing of the row's.
    void apart(std::vector<RowSample>& dense) const;
    /// A point of a row between two of its samples, and the point of the faces nearest to any other; where space has the field, on the level.
    [[nodiscard]] RowSample between(const RowSample& a, const RowSample& b, double share) const;
    [[nodiscard]] RowSample onto(const Vec3& point, double level, const RowSample& beside) const;
    /// As they are drawn.
    [[nodiscard]] const std::vector<Polyline>& rails() const { return m_railLines; }
    /// Are both its first and its last row picked?
    [[nodiscard]] bool betweenRails() const { return m_kind.rails == 2; }
    [[nodiscard]] bool hasRails() const { return m_kind.rails > 0; }
    [[nodiscard]] bool drawn() const { return m_kind.drawn; }
    [[nodiscard]] const std::vector<Finding>& findings() const { return m_findings; }
    /// The curves that were given, each a row, as far as they meet the faces.
    [[nodiscard]] std::vector<RawRow> drawnRows() const;
    [[nodiscard]] Result<CornerRows> rowsInCorners(const std::vector<int>& faces, double spacing, Progress& progress) const;
    /// Does it begin at rows of other operations? Those are level 0, and none of its own.
    [[nodiscard]] bool besideOthers() const { return m_spec.kind == PatternBy::Seam; }
    /// Is the last level the first again?
    [[nodiscard]] bool round() const { return m_space && m_space->round; }
    /// Are levels as far apart everywhere as their difference says?
    [[nodiscard]] bool even() const { return m_even > 0.0; }
    /// More rows are not laid, however near the faces come to lying at one level: what stays wide is told.
    [[nodiscard]] std::size_t mostSteps(double spacing) const {
        constexpr double kShallow = 12.0; // faces that rise less than five degrees towards the next level
        return m_extent > 0.0 ? static_cast<std::size_t>(kShallow * m_extent / spacing) + 2 : static_cast<std::size_t>(-1);
    }
    [[nodiscard]] const FieldMesh& mesh() const { return m_mesh; }
    /// Places of the faces that lie further from all rows than rows so far apart leave them get a row of their own, as far as it is needed; where that
    /// does not help they are told. Places are spread evenly over the faces, in thousands: what is smaller than the room of one may be missed.
    struct Bare {
        double widest = 0.0; ///< twice the way to the nearest row, or once where the border is nearer; 0: nothing is wide
        Vec3 at = Vec3::Zero();
    };
    Bare cover(std::vector<RawRow>& rows, double spacing, const Progress* progress) const;
    [[nodiscard]] double fromBorder(const Vec3& p) const;
    /// How wide the widest of some steps is where the rows will be cut, and where that is. In thousands of them the widest are looked at.
    [[nodiscard]] std::pair<double, Vec3> widestCut(const std::vector<RawRow>& rows, std::vector<std::pair<Vec3, Vec3>> steps) const;
    /// From what rows come to when their points are placed; no more than `within`.
    [[nodiscard]] double distanceToCut(const Vec3& p, const std::vector<RawRow>& rows, double within) const;
    /// Rows through the middles of steps that are too wide, as far as they are needed.
    void coverBetween(std::vector<RawRow>& rows, const std::vector<std::pair<Vec3, Vec3>>& wide, double spacing) const;
    /// Asked of two places on neighbouring rows: how wide the gap between them truly is. No wider than what lies bare in its middle; 0 where no faces lie.
    [[nodiscard]] std::function<double(const Vec3&, const Vec3&)> bareBetween(const std::vector<RawRow>& rows) const;
    [[nodiscard]] double width() const { return m_knots.back().width; }

private:
    Status findRails(const std::vector<int>& faces);
    Status endAcross();
    Status prolongRails();
    /// A rail's points in the mesh, in its direction.
    [[nodiscard]] std::vector<std::uint32_t> pointsAlong(std::size_t which) const;
    Status holdGuides();
    Status beginBeside(double spacing);
    Status curvesAsRails();
    Status beginAtRails();
    [[nodiscard]] bool curvesAreRails() const { return !m_railCurves[0].empty() || !m_railCurves[1].empty(); }
    void keepBetween();
    [[nodiscard]] RawLine railLine(int which) const;
    void turnWithLevels(RawLine& line, int which) const;
    [[nodiscard]] double levelOfRail(int which) const { return which == 0 ? 0.0 : m_kind.secondLevel; }
    [[nodiscard]] bool hasRail(int which) const { return !m_railRow[static_cast<std::size_t>(which)].lines.empty(); }
    [[nodiscard]] static bool stays(const RawLine& line, std::size_t i);
    void smooth(RawLine& line) const;
    void settle(RawLine& line, double level) const;
    /// Sides of triangles at the end of the faces, and between two faces; both in order.
    struct Rims {
        std::vector<std::uint64_t> border, edges;
    };
    [[nodiscard]] Rims rimsOf() const;
    [[nodiscard]] std::optional<RowSample> footOf(const Vec3& p, const Rims& rims) const;
    [[nodiscard]] RowSample onLevel(RowSample s, double level) const;
    /// Has what moved away from a place left the faces, onto surfaces that go on beyond their border?
    [[nodiscard]] bool offFaces(const Vec3& p, const Vec3& from) const;
    [[nodiscard]] RowSample onEdge(const RowSample& s, const RowSample& before, double level) const;
    [[nodiscard]] RowSample exact(int face, const Vec3& p, const Vec2& uv) const {
        const SurfacePoint s = m_part.project(face, p, uv.x(), uv.y());
        return {s.point, s.normal, {s.u, s.v}, face, false};
    }
    [[nodiscard]] std::vector<RowSample> samplesOf(const LevelLine& line, Grade grade) const;

    const Part& m_part;
    const PatternSpec& m_spec;
    const PatternKind& m_kind;
    double m_radius;
    const RowHelp& m_help;
    double m_side = 1.0; ///< longest mesh side
    FieldMesh m_mesh;
    Field m_field;
    std::optional<SpaceField> m_space;
    double m_extent = 0.0;
    std::vector<Finding> m_findings;
    double m_even = 0.0; ///< mm from level 0 to 1 where that is the same everywhere
    std::optional<LevelTracer> m_tracer;
    std::shared_ptr<const MeshTree> m_tree; ///< of the mesh
    std::vector<std::uint64_t> m_border;    ///< its sides where the faces end, sorted
    std::vector<Vec3> m_triangleNormal;
    std::array<EdgeChain, 2> m_rails;
    std::array<std::vector<std::size_t>, 2> m_railCurves; ///< numbers of those that stand for rails, or beside their edges
    std::array<std::vector<int>, 2> m_railFace;
    std::array<std::vector<std::vector<std::uint32_t>>, 2> m_railPoints; ///< edge by edge
    std::vector<std::pair<std::uint32_t, double>> m_held;                ///< where rows end across: points with their levels
    std::vector<Polyline> m_railLines;
    std::array<RawRow, 2> m_railRow;
    RawRow m_besideRow; ///< of other operations
    /// How far rows have moved at most from the first rail up to a level; straight between two knots.
    struct Knot {
        double level, width;
    };
    std::vector<Knot> m_knots;
    std::vector<double> m_stops; ///< levels of corners between the rails, rising
    [[nodiscard]] double levelAtWidth(double w) const;
    [[nodiscard]] double widthAtLevel(double level) const;
};

} // namespace gyre
