// Closed rows joined in a spiral.
#pragma once
#include "pattern/RawRows.h"

namespace gyre {

/// A closed row, its points so near that the way between them is within the tolerance.
struct Ring {
    double level = 0.0;
    std::vector<RowSample> samples;
};
/// Does `b` lie all along `a`, nowhere further away than that?
[[nodiscard]] bool runsBeside(const Ring& a, const Ring& b, double most);

struct SpiralSource {
    std::function<RowSample(const Vec3& point, double level, const RowSample& beside)> onto;   ///< the faces, as near as there is
    std::function<bool(const RowSample& a, const RowSample& middle, const RowSample& b)> fine; ///< is there no need for the point in the middle?
};
/// Once round the first ring, from each to the next within one round, at last once round the last one: at a share s of a round s of the way to the
/// next ring, so that two turns are apart as the rings are.
/// @param rings at least one, each beside the one before it and run the same way round
[[nodiscard]] std::vector<RowSample> spiralThrough(std::vector<Ring> rings, const SpiralSource& source);

} // namespace gyre
