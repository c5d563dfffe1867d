// On a page: how far the stock that is left is off the part.
#pragma once
#include "job/Job.h"
#include "session/Comparison.h"

namespace gyre {

struct ComparisonPageInput {
    const Job& job;
    const StockComparison& compared;
    std::vector<std::string> cutBy; ///< names of the operations, as surfaces of the stock count them
    std::string picture{};          ///< bytes of a PNG; empty: none
};
/// One HTML page with nothing beside it, in the job's unit.
[[nodiscard]] std::string comparisonPage(const ComparisonPageInput& input);

} // namespace gyre
