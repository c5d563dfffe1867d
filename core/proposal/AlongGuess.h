// First guesses of work along walls, curves and edges.
#pragma once
#include "edgebreak/BreakSpec.h"
#include "job/Job.h"

namespace gyre {

struct Workplace;

/// An operation of such a kind with nothing picked yet.
[[nodiscard]] Recipe proposeAlong(const Job& job, const Workplace& place, OperationKind kind, BreakEdges edges = BreakEdges::Picked);
/// Tool, steps and skin that suit what the recipe has picked.
void fitAlong(const Job& job, const Workplace& place, Recipe& recipe);

/// A curve midway between both rails, raised off the faces as far as the rails lie apart, for an axis that goes through it or away from
/// it; nothing where a rail is missing.
[[nodiscard]] std::optional<Mend> raisedMiddle(const Job& job, const Part& part, const Recipe& recipe);

} // namespace gyre
