// A small piece of the work as it comes out, finely: what is left standing and what is gone against the part as modelled.
#pragma once
#include "session/Session.h"

namespace gyre {

enum class LookFrom {
    Part, ///< the part as modelled is what stands before the first cut: shows what goes that should not, and how edges are broken
    Stock ///< the stock is: shows what is left as well
};

struct CloserLook {
    Box box;
    double cell = 0.0;       ///< mm
    TriangleMesh skin;       ///< of what stands after the cuts, without the walls of the box
    std::vector<float> off;  ///< per point of the skin: how far outside of the part (left standing), or inside of it (gone), mm
    std::vector<char> meant; ///< per point: beside an edge that is broken on purpose
    double broken = 0.0;     ///< gone at such edges, mm
    double most = 0.0;       ///< left standing, mm
    double least = 0.0;      ///< gone elsewhere, mm; negative
    Vec3 leastAt = Vec3::Zero();
};

/// Simulates the cuts near a place on a fine grid: 160 cells along the box's side, so that the edges of a box of 8 mm are known to 0.05 mm.
///
/// @param done  operations in their order
/// @param size  of the box, mm
/// @return an error when nothing stands there, or the job has no stock to start from
[[nodiscard]] Result<CloserLook> lookCloser(const Workplace& place, const std::vector<std::shared_ptr<const OperationResult>>& done, LookFrom from, const Vec3& centre,
                                            double size, Progress& progress);

} // namespace gyre
