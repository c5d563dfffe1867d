// What of the machine, and of the tool where the machine itself leads it, runs into stock that still stands by then.
#pragma once
#include "operation/Operation.h"
#include "proof/Proof.h"

namespace gyre {

/// One finding for each body. @return an error only when called off
/// @param present  what the operations before leave of the stock; none: the stock as it is set up is what counts
[[nodiscard]] Result<std::vector<Finding>> machineThroughStock(const Workplace& place, const OperationResult& operation, const ProofSpec& spec, const Standing& start,
                                                               const PresentStock& present, Progress& progress);

} // namespace gyre
