// From picked faces and curves to flat areas: walls, open sides, islands, heights.
#pragma once
#include "milling/Mill.h"

namespace gyre {

struct Floor {
    Region area;             ///< what lies below the open sky, to the walls
    std::vector<Line> walls; ///< border lines along which material rises; closed ones repeat their first point
    std::vector<Line> open;  ///< border lines beyond which there is nothing
    double top = 0.0;        ///< of the highest wall over the sheet
    double level = 0.0;      ///< of the floor
};
/// @param tolerance of the flat lines against the true edges, mm
[[nodiscard]] Result<Floor> floorOf(const MillInput& input, const Sheet& sheet, double tolerance);
/// A curve in flat coordinates, over as many turns as it runs.
[[nodiscard]] std::vector<Vec3> flatLine(const Sheet& sheet, const Curve& curve, double tolerance);
/// All curves of the input, flat.
[[nodiscard]] std::vector<std::vector<Vec3>> flatCurves(const MillInput& input, const Sheet& sheet, double tolerance);

} // namespace gyre
