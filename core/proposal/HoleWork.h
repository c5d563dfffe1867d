// The first guess at work in holes: which steps, which tools, which way round.
#pragma once
#include "holes/Cycle.h"
#include "job/Job.h"

namespace gyre {

struct Workplace;

/// The part's holes as the user wants them: turned round where asked. In the order in which they were found.
[[nodiscard]] std::vector<Hole> wantedHoles(const Job& job, const Workplace& place);
/// Turns those through holes round that the machine enters better from their other end, where there is air as well; what the user said stays.
void turnToReach(Job& job, const Workplace& place);
/// The operation for one group of holes and its steps (spot, drill, steps that are wider, a chamfer), ready for the route.
struct HoleProposal {
    std::vector<Recipe> work;
    std::vector<std::string> notes; ///< steps that are left out, and why
};
[[nodiscard]] HoleProposal proposeHoleWork(const Job& job, const Workplace& place, const HoleGroup& group);
/// One step more, with the tool that suits its cycle best, or none.
[[nodiscard]] Recipe proposeHoleStep(const Job& job, const Workplace& place, const Recipe& parent, Cycle cycle);

} // namespace gyre
