// Rows of other operations, which a pattern begins at: its first row lies a step from their last one.
#pragma once
#include "geom/Box.h"
#include "geom/Polyline.h"
#include "part/Part.h"
#include "path/Toolpath.h"
#include "pattern/RawRows.h"
#include <string>
#include <vector>

namespace gyre {

/// Of one operation, on the faces, with the tool's axis at every point.
struct NeighbourRows {
    std::string operation; ///< as it is called
    std::vector<Row> rows;
    std::vector<std::vector<Vec3>> axes;
    double spacing = 0.0; ///< mm between them, as asked
};

/// To be asked for the nearest of them all.
class RowsBeside {
public:
    explicit RowsBeside(std::vector<NeighbourRows> all);
    struct Foot {
        double distance = 1e300;
        Vec3 at, along, axis; ///< along: unit, as the row runs
        bool end = false;     ///< nothing of the row lies nearer than its end
    };
    /// @param within  mm; what is further is not found
    [[nodiscard]] Foot nearest(const Vec3& p, double within) const;
    /// Is it between two rows, or on one with others to both sides?
    [[nodiscard]] bool between(const Vec3& p) const;
    /// The widest spacing among them.
    [[nodiscard]] double spacing() const;
    [[nodiscard]] const std::vector<NeighbourRows>& all() const { return m_all; }
    [[nodiscard]] std::string names() const;

private:
    struct Line {
        const Row* row;
        const std::vector<Vec3>* axes;
        Box box;
        PolylineDistance distance;
    };
    std::vector<NeighbourRows> m_all;
    std::vector<Line> m_lines;
};

/// Theirs on the rows beside, its own at `over` mm from them, and smoothly from one to the other.
[[nodiscard]] Vec3 passedOver(const RowsBeside& beside, double over, const Vec3& contact, const Vec3& own);

/// What the first rows have in common with those that they begin at.
struct SeamMeasure {
    double gap = 0.0;       ///< mm, the widest
    double apart = 0.0;     ///< rad, the largest angle between rows on both sides
    double turn = 0.0;      ///< rad, the largest between the tool's axes
    Vec3 at = Vec3::Zero(); ///< where it is widest
    std::size_t places = 0; ///< that were compared
};
/// @param axes  as the rows and their points
[[nodiscard]] SeamMeasure measureSeam(const RowsBeside& beside, const std::vector<Row>& rows, const std::vector<std::vector<Vec3>>& axes, double spacing);

/// Where a mesh was grown over its border to the rows beside it.
struct SeamOfMesh {
    std::vector<std::vector<std::uint32_t>> lines; ///< sides of the mesh that lie on the rows beside
    RawRow row;                                    ///< these rows, as far as they lie beside the faces
};

/// Grows the mesh by a strip of triangles of face −1, from its border to the rows that run along it no further than `reach` away; where they run on the
/// border itself it stays as it is. Border places whose nearest row runs off at more than 45°, or ends there, have none beside them.
/// @return an error when no row runs along the border
[[nodiscard]] Result<SeamOfMesh> growToRows(FieldMesh& mesh, const RowsBeside& beside, double reach);

/// Do rows lie on the faces themselves, off their border?
[[nodiscard]] bool rowsLieOn(const FieldMesh& mesh, const RowsBeside& beside);
/// Makes rows of others on the faces themselves sides of the mesh. What lies between them is theirs; see RowsBeside::between().
[[nodiscard]] Result<SeamOfMesh> beginOnRows(FieldMesh& mesh, const Part& part, const RowsBeside& beside);

} // namespace gyre
