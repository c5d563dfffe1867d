#include "mill/Mill.h"

namespace gyre {

// From above in steps shorter than the cutter is long, so that no triangle slips by; then up again by exactly what the triangles ask for.
double dropOnto(const MeshTree& model, const Cutter& cutter, const AxisPose& pose, double range, double allowance) {
    const std::vector<RoundedFrustum> pieces = cuttingZone(cutter);
    // What is touched lies at distance 0, not below it: look a hair further.
    const std::vector<double> clearance(pieces.size(), allowance + 1e-6);
    double tall = 0.0;
    for (const RoundedFrustum& f : pieces) tall = std::max(tall, f.high());
    const double step = std::clamp(0.4 * tall, 0.05, 1.0);
    const auto at = [&](double down) { return AxisPose{pose.tip - down * pose.axis, pose.axis}; };
    std::uint32_t hint = UINT32_MAX;
    for (double down = 0.0;; down = std::min(range, down + step)) {
        if (model.anyWithin(at(down), pieces.data(), clearance.data(), pieces.size(), &hint)) {
            for (int i = 0; i < 60; ++i) {
                double more = 0.0;
                model.forEachWithin(at(down), pieces.data(), clearance.data(), pieces.size(), [&](const auto& t, std::uint32_t, std::size_t k) {
                    more = std::max(more, axialEscape(pieces[k], t, clearance[k]));
                    return true;
                });
                if (more <= 0.0) break;
                down -= more + 1e-7;
            }
            return down;
        }
        if (down >= range) return range;
    }
}

} // namespace gyre
