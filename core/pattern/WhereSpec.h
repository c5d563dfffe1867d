// Words of where rows are kept.
#pragma once
#include "part/Part.h"
#include <string>
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
    double stock = 0.2;             ///< mm that must stand on the faces at least
    bool byReach = false;           ///< where the tool reaches safely, its axis standing still
    std::vector<std::string> notBy; ///< what these operations cut is left to them, by id; they stand before this one
    [[nodiscard]] bool any() const { return bySlope || byHeight || byStock || byReach || !notBy.empty() || by != WhereCurves::Anywhere || side != WhereSide::Both; }
};

} // namespace gyre
