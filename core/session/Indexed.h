// Operations whose axis stands still in the place of one whose axis turns.
#pragma once
#include "job/Job.h"
#include "session/RouteStock.h"

namespace gyre {

/// One operation for each direction, behind the one whose work they do, which is switched off: the first cuts where it reaches, each other one where it reaches
/// and those before do not. One direction alone cuts everything. They do not lean, for they stand still;
/// what one of several cannot cut for all that is left out.
/// @param directions  from tip to spindle, in the datum
/// @return their ids
[[nodiscard]] Result<std::vector<std::string>> makeIndexed(Job& job, const std::string& operation, const std::vector<Vec3>& directions);

/// What they come to, computed as they would stand in the route.
struct IndexedTold {
    std::vector<std::shared_ptr<const OperationResult>> results;
    double seconds = 0.0; ///< of all of them
    double cut = 0.0;     ///< mm that they cut in all, with their guard
    std::size_t stops = 0, looks = 0;
};
/// @param before  operations that stand before it, in their order
[[nodiscard]] Result<IndexedTold> indexedInstead(const std::shared_ptr<const Workplace>& place, const Job& job, const std::string& operation,
                                                 const std::vector<Vec3>& directions, const std::vector<std::shared_ptr<const OperationResult>>& before, StageCache& kept,
                                                 Progress& progress);
/// mm that the passes of an operation cut, with its guard.
[[nodiscard]] double cutWay(const OperationResult& result);

} // namespace gyre
