// First guesses of work along walls, curves and edges.
#pragma once
#include "job/Job.h"

namespace gyre {

/// An operation of such a kind with nothing picked yet.
[[nodiscard]] Recipe proposeAlong(const Job& job, const Workplace& place, OperationKind kind, BreakEdges edges = BreakEdges::Picked);
/// Tool, steps and skin that suit what the recipe has picked.
void fitAlong(const Job& job, const Workplace& place, Recipe& recipe);

} // namespace gyre
