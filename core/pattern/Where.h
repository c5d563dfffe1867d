// Where rows are kept: by the slope of the faces, by height, inside or outside of curves. All that is switched on must hold.
#pragma once
#include "geom/Polyline.h"
#include "part/Part.h"
#include <string>
#include <vector>

namespace gyre {

enum class WhereCurves { Anywhere, Inside, Outside };

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
    [[nodiscard]] bool any() const { return bySlope || byHeight || by != WhereCurves::Anywhere; }
};

/// Answers for one point of a face after the other.
class WhereKept {
public:
    /// @param loops closed; only needed where curves count
    WhereKept(const WhereSpec& spec, const std::vector<Polyline>& loops);
    [[nodiscard]] bool holds(const Vec3& point, const Vec3& normal) const;

private:
    [[nodiscard]] bool onRightSide(const Vec3& point) const;
    struct Side {
        Vec2 from, to;
    };
    WhereSpec m_spec;
    Vec3 m_axis, m_u, m_v;
    double m_least = 0.0, m_strip = 1.0;     ///< sides are found by strips of v
    std::vector<std::vector<Side>> m_strips; ///< those that reach into it
};

} // namespace gyre
