// Along a curve: the tip, the ball's middle or the side follows it; or one row down the middle of a channel.
#pragma once
#include "along/Along.h"
#include "geom/Fineness.h"

namespace gyre {

enum class CurveBy { Tip, BallCentre, Side, Channel };
enum class CurveSide { On, Left, Right };

struct CurveSpec {
    CurveBy by = CurveBy::Tip;
    CurveSide side = CurveSide::On;
    double offset = 0.0;         ///< mm away from the curve, to `side`; of By Side beside the cutter's radius
    double axial = 0.0;          ///< mm along the axis, positive toward the spindle
    double depth = 0.0;          ///< mm against the surface normal, at the end
    double stepdown = 0.0;       ///< 0: at once
    double overlap = 0.0;        ///< mm further over the start, on closed curves
    double entry = 0.0;          ///< closed curves: fraction of the way where it begins
    double from = 0.0, to = 1.0; ///< the part that is cut, as fractions of the curve
    bool reversed = false;
    bool backAndForth = true; ///< open curves: every other depth the other way
    bool operator==(const CurveSpec&) const = default;
};

struct GuideInput {
    const Part* part = nullptr;
    std::vector<Curve> curves; ///< in space
    std::vector<int> faces;    ///< whose normals count; empty: those of the part next to the curve
    std::vector<Row> channel;  ///< By Channel: the row down its middle
};

/// Curves as rows with the surface's normals, once each; depths come with the passes.
[[nodiscard]] Result<std::vector<Row>> guideRows(const GuideInput& input, const CurveSpec& spec, const Fineness& fineness);

/// Passes from rows and axes, depth after depth. Beside a curve they roll around its outer corners and stop short of its inner ones.
[[nodiscard]] Result<AlongResult> guidedPasses(const std::vector<Row>& rows, const AxisResult& axes, const CurveSpec& spec, const Assembly& tool, double leave,
                                               double tolerance);

} // namespace gyre
