// The first guess at work in holes: which steps, which tools, which way round.
#pragma once
#include "job/Job.h"

namespace gyre {

/// The part's holes as the user wants them: turned round where asked. In the order in which they were found.
[[nodiscard]] std::vector<Hole> wantedHoles(const Job& job, const Workplace& place);
/// The operation for one group of holes and its steps, spot and drill, ready for the route.
[[nodiscard]] std::vector<Recipe> proposeHoleWork(const Job& job, const Workplace& place, const HoleGroup& group);
/// One step more, with the tool that suits its cycle best, or none.
[[nodiscard]] Recipe proposeHoleStep(const Job& job, const Workplace& place, const Recipe& parent, Cycle cycle);

} // namespace gyre
