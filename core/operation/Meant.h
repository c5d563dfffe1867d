// What the picks of a recipe mean in a workplace.
#pragma once
#include "axis/Axis.h"
#include "part/Holes.h"

namespace gyre {

struct Recipe;
struct Workplace;

/// Curves of a drawing, or of a mend: "name", or "name/2" for its second curve.
struct NamedCurves {
    bool flat = false; ///< they lie in the plane of a sheet, not in space
    std::vector<Curve> curves;
};
[[nodiscard]] Result<NamedCurves> curvesNamed(const Workplace& place, const std::string& name);

/// Edges that meet end to end are one curve.
[[nodiscard]] Result<std::vector<Curve>> curvesOf(const Part& part, std::vector<int> edges);

/// What the axis rules of a recipe refer to.
[[nodiscard]] Result<AxisHelp> axisHelp(const Workplace& place, const Recipe& recipe, const Assembly& tool);

/// Holes that a recipe means, found again by their mouths; those of the whole part when it names none.
/// @param lost counts those that are not there any more
[[nodiscard]] std::vector<Hole> holesMeant(const Workplace& place, const Recipe& recipe, std::size_t& lost);

/// Lower and upper rail of a wall between rails, running the same way.
struct WallRails {
    Curve lower, upper;
};
[[nodiscard]] Result<WallRails> wallRails(const Workplace& place, const Recipe& recipe);

} // namespace gyre
