// The marks on the part around a place of a path, as the route up to there leaves them.
#pragma once
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "stock/Marks.h"

namespace gyre {

/// A place on the part, and which way the cutter went there.
struct MarkPlace {
    Vec3 at = Vec3::Zero(), outward = Vec3::UnitZ();
    Vec3 feed = Vec3::UnitX(); ///< unit, along the surface
};

/// The place of the part that the cutter touches at a location, or the one nearest to its tip.
[[nodiscard]] Result<MarkPlace> markPlaceOf(const Workplace& place, const OperationResult& done, std::size_t location);

struct SurfaceMarks {
    MarkPlace place;
    double size = 0.0; ///< mm, of the patch: columns run along the feed
    MarkGround ground;
    MarkMap marks;
    Roughness across, along; ///< through the middle
    MarkSum sum;
    std::vector<std::string> cutBy; ///< ids of operations, by the cuts' numbers
    [[nodiscard]] std::size_t middleRow() const { return marks.along / 2; }
    [[nodiscard]] std::size_t middleColumn() const { return marks.across / 2; }
};

/// Wide enough for some rows of the operation, mm.
[[nodiscard]] double usualPatch(const OperationResult& done);
inline constexpr double kSmallestPatch = 0.1, kLargestPatch = 50.0; // mm

/// @param done  operations in their order
/// @param size  of the patch, mm
[[nodiscard]] Result<SurfaceMarks> surfaceMarks(const Workplace& place, const std::vector<std::shared_ptr<const OperationResult>>& done, const MarkPlace& at, double size,
                                                Progress& progress);

/// As a table: across and along in mm from the middle, height in µm, the operation that cut there.
[[nodiscard]] std::string tableOf(const SurfaceMarks& marks);

} // namespace gyre
