// Along a curve: the tip, the ball's middle or the side follows it; or one row down the middle of a channel.
#pragma once
#include "along/Along.h"
#include "geom/Fineness.h"

namespace gyre {

struct CurveSpec;

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
