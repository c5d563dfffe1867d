#include "proof/WholeMotion.h"
#include "link/Link.h"
#include "motion/SafeEnds.h"
#include "operation/OperationResult.h"
#include "path/Pass.h"

namespace gyre {
namespace {

/// Steps put before the first and after the last of a motion, all of the first or last location.
struct Around {
    std::vector<JointValues> before, after;
};

/// Where the tool comes from: the rotaries turn at the top of Z, then the slides go across; then down to the first location, at the end up again.
Around around(const Machine& machine, const SafeEnds& ends, const Standing& start) {
    Around a{{ends.above}, {ends.aboveExit}};
    // To where the tool is changed: across at the top of Z, then with Z.
    for (const bool withZ : {false, true}) {
        JointValues change = a.after.back();
        for (std::size_t j = 0; j < change.size(); ++j)
            if ((machine.joints[j].name == "Z") == withZ) change[j] = changesAt(machine, j).value_or(change[j]);
        if (change != a.after.back()) a.after.push_back(std::move(change));
    }
    if (start.joints.empty()) return a;
    JointValues from = ends.above;
    for (std::size_t j = 0; j < from.size(); ++j) {
        const Joint& joint = machine.joints[j];
        if (joint.kind == JointKind::Rotary)
            from[j] = ends.above[j] - turnOf(joint, start.joints[j], ends.above[j]);
        else if (start.slides && joint.name != "Z")
            from[j] = start.joints[j];
    }
    JointValues turned = ends.above;
    for (std::size_t j = 0; j < from.size(); ++j)
        if (machine.joints[j].kind != JointKind::Rotary) turned[j] = from[j];
    a.before = {from, turned, ends.above};
    return a;
}

} // namespace

// The program comes down from the top of Z and goes back there: more steps around the operation's own.
WholeMotion::WholeMotion(const Machine& machine, const Toolpath& path, const JointMotion& own, const Standing& start) : motion(own) {
    const Around more = around(machine, safeEnds(machine, motion), start);
    before = more.before.size();
    after = more.after.size();
    for (auto it = more.before.rbegin(); it != more.before.rend(); ++it) motion.values.insert(motion.values.begin(), it->begin(), it->end());
    for (const JointValues& q : more.after) motion.values.insert(motion.values.end(), q.begin(), q.end());
    motion.location.insert(motion.location.begin(), before, 0u);
    motion.location.insert(motion.location.end(), after, static_cast<std::uint32_t>(path.size() - 1));
}

std::string WholeMotion::when(std::size_t step, const OperationResult& operation) const {
    if (step < before) return " while the rotary axes turn at the top of Z before it begins";
    if (step + after > motion.size()) return " on the way to where the tool is changed";
    if (step == before || step + after == motion.size()) return " on the way from or to the top of Z";
    const int row = operation.links->path.row[motion.location[step]];
    return ", from " + passName(operation.links->originOf(row), row);
}

} // namespace gyre
