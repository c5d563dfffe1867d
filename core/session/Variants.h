// Several ways of doing an operation beside each other: what each comes to, in one table.
#pragma once
#include "job/Variants.h"
#include "session/RouteStock.h"

namespace gyre {

struct JointMotion;

struct VariantResult {
    std::string variant;
    std::vector<std::string> differs; ///< "Distance between rows: 0.8": words that the first variant says otherwise, or does not have
    std::shared_ptr<const OperationResult> result;
};

/// Computes all of them, each as if it stood in the route; what is known already comes from `kept`. What stands in slices is computed as a whole.
/// @param before  operations that stand before it, in their order
[[nodiscard]] Result<std::vector<VariantResult>> compareVariants(const std::shared_ptr<const Workplace>& place, const Job& job, const std::string& operation,
                                                                 const std::vector<std::shared_ptr<const OperationResult>>& before, StageCache& kept, Progress& progress);

/// A line of the table: a figure of every variant, in words; empty where it has none.
struct VariantLine {
    std::string what;
    std::vector<std::string> said;
    std::vector<bool> best; ///< the least (or most) of them; none where all are alike
    bool alike = false;     ///< it says nothing about which to take
};
/// Lines that no variant has anything to say in are left out.
[[nodiscard]] std::vector<VariantLine> tableOf(const std::vector<VariantResult>& variants, const Machine& machine);

/// How fast rotaries turn at the most, degrees a minute, and how far in all, degrees.
struct RotaryFigures {
    double fastest = 0.0, turned = 0.0;
};
[[nodiscard]] RotaryFigures rotaryFigures(const JointMotion& motion, const Machine& machine);

} // namespace gyre
