#include "session/TimeSpent.h"
#include "base/Units.h"
#include "link/Link.h"
#include "motion/Motion.h"
#include "operation/OperationResult.h"
#include <algorithm>
#include <bit>
#include <fmt/format.h>

namespace gyre {

TimeSpent timeSpent(const OperationResult& done, const Machine& machine) {
    TimeSpent out;
    out.byJoint.assign(machine.joints.size(), 0.0);
    if (!done.complete() || !done.path()) return out;
    const JointMotion& m = *done.motion;
    for (std::size_t i = 1; i < m.size(); ++i) {
        const double took = m.time[i] - m.time[i - 1];
        (done.path()->rapid(m.location[i]) ? out.rapids : out.cutting) += took;
        if (i < m.limitedBy.size() && m.limitedBy[i] >= 0) out.byJoint[static_cast<std::size_t>(m.limitedBy[i])] += took;
    }
    out.waits = secondsOf(done) - m.duration;
    return out;
}

TimeSpent timeSpent(const PostInput& route) {
    TimeSpent out;
    out.byJoint.assign(route.machine->joints.size(), 0.0);
    PostInput complete = route;
    std::erase_if(complete.operations, [](const PostOperation& o) { return !o.result->complete(); });
    int tool = 0;
    for (const PostOperation& o : complete.operations) {
        const TimeSpent own = timeSpent(*o.result, *route.machine);
        out.cutting += own.cutting;
        out.rapids += own.rapids;
        out.waits += own.waits;
        for (std::size_t j = 0; j < own.byJoint.size(); ++j) out.byJoint[j] += own.byJoint[j];
        if (std::exchange(tool, o.toolNumber) != o.toolNumber) ++out.changes;
    }
    out.changing = static_cast<double>(out.changes) * route.machine->changeSeconds;
    const bool clamps = std::any_of(route.machine->joints.begin(), route.machine->joints.end(), [](const Joint& j) { return j.clampCode > 0; });
    if (!clamps || complete.operations.empty()) return out;
    // As its program says them; a dialect file's as one in joints would.
    const auto named = route.words.dialect.empty() ? Result<Dialect>(Dialect::TipControl) : dialectNamed(route.words.dialect);
    const auto program = intendedProgram(complete, named ? *named : Dialect::Joints);
    if (!program) return out;
    std::uint32_t clamped = 0, free = 0;
    for (const ControlState& now : program->states) {
        out.clampings += static_cast<std::size_t>(std::popcount(now.clamped & ~clamped) + std::popcount(now.free & ~free));
        clamped = now.clamped;
        free = now.free;
    }
    out.clamping = static_cast<double>(out.clampings) * route.machine->clampSeconds;
    return out;
}

std::string wordsOf(const TimeSpent& spent, const Machine& machine) {
    std::string out = fmt::format("cutting {}, rapids {}", clockText(spent.cutting), clockText(spent.rapids));
    if (spent.waits > 0.5) out += fmt::format(", waits {}", clockText(spent.waits));
    if (spent.changing > 0.0) out += fmt::format(", {} tool change{} {}", spent.changes, spent.changes == 1 ? "" : "s", clockText(spent.changing));
    if (spent.clamping > 0.0) out += fmt::format(", {} times clamped or let go {}", spent.clampings, clockText(spent.clamping));
    std::string waits;
    for (std::size_t j = 0; j < spent.byJoint.size(); ++j)
        if (spent.byJoint[j] > 0.01 * spent.paths() && spent.byJoint[j] > 0.5)
            waits += fmt::format("{}{} {}", waits.empty() ? "" : ", ", machine.joints[j].name, clockText(spent.byJoint[j]));
    return waits.empty() ? out : fmt::format("{}; it waits for {}", out, waits);
}

} // namespace gyre
