// Where rows are kept: by the slope of the faces, by height, inside or outside of curves, by what stands of the stock. All that is switched on must hold.
#pragma once
#include "geom/Polyline.h"
#include "geom/TriangleMesh.h"
#include "part/Part.h"
#include <array>
#include <functional>
#include <string>
#include <utility>
#include <vector>

namespace gyre {

enum class WhereCurves { Anywhere, Inside, Outside };
enum class WhereSide { Both, Over, Under };

/// Everything is seen along one axis of the datum.
struct WhereSpec {
    int axis = 2;
    bool bySlope = false;
    double flattest = 0.0, steepest = 45.0; ///< degrees between the axis and the normal: 0 a floor, 90 a wall, more an undercut
    bool byHeight = false;
    double low = 0.0, high = 10.0; ///< mm of the datum along the axis
    WhereCurves by = WhereCurves::Anywhere;
    std::vector<ShapeRef> edges; ///< of the part, closed loops
    std::string curve;           ///< or a drawing or a curve of a mend, by name
    std::vector<ShapeRef> faces; ///< or the outline of faces as they are seen along the axis
    WhereSide side = WhereSide::Both;
    std::string plane; ///< a work plane by name; over it is where its normal points
    bool byStock = false;
    double stock = 0.2; ///< mm that must stand on the faces at least
    [[nodiscard]] bool any() const { return bySlope || byHeight || byStock || by != WhereCurves::Anywhere || side != WhereSide::Both; }
};

/// Does stock stand on a point of a face?
using StockStands = std::function<bool(const Vec3& point, const Vec3& normal)>;

/// What a region goes by besides its words; each is only needed where it counts.
struct WhereHelp {
    std::vector<Polyline> loops;            ///< closed
    std::vector<const TriangleMesh*> faces; ///< whatever lies over or under these lies inside
    StockStands stands;
    Vec3 planeAt = Vec3::Zero(), planeNormal = Vec3::UnitZ();
};

/// Answers for one point of a face after the other.
class WhereKept {
public:
    WhereKept(const WhereSpec& spec, WhereHelp help);
    [[nodiscard]] bool holds(const Vec3& point, const Vec3& normal) const;

private:
    [[nodiscard]] bool onRightSide(const Vec3& point) const;
    [[nodiscard]] bool hidden(const Vec2& p) const;
    struct Side {
        Vec2 from, to;
    };
    using Seen = std::array<Vec2, 3>; ///< a triangle, counter-clockwise
    WhereSpec m_spec;
    StockStands m_stands;
    Vec3 m_planeAt, m_planeNormal;
    Vec3 m_axis, m_u, m_v;
    /// By strips of v: what reaches into each.
    template <class T> struct Strips {
        double least = 0.0, wide = 1.0;
        std::vector<std::vector<T>> of;
        void fill(const std::vector<T>& all, const std::function<std::pair<double, double>(const T&)>& reach);
        [[nodiscard]] const std::vector<T>* at(double v) const; ///< null beyond them all
    };
    Strips<Side> m_sides;
    Strips<Seen> m_seen;
};

} // namespace gyre
