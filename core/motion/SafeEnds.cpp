#include "motion/SafeEnds.h"

namespace gyre {

SafeEnds safeEnds(const Machine& machine, const JointMotion& motion) {
    SafeEnds e;
    if (motion.size() == 0) return e;
    e.entry = motion.jointsAt(0);
    e.exit = motion.jointsAt(motion.size() - 1);
    e.above = e.entry;
    e.aboveExit = e.exit;
    if (const int z = machine.find("Z"); z >= 0) {
        const double top = machine.joints[static_cast<std::size_t>(z)].high;
        e.above[static_cast<std::size_t>(z)] = std::max(e.entry[static_cast<std::size_t>(z)], top);
        e.aboveExit[static_cast<std::size_t>(z)] = std::max(e.exit[static_cast<std::size_t>(z)], top);
    }
    return e;
}

std::optional<double> changesAt(const Machine& machine, std::size_t joint) { return joint < machine.changeAt.size() ? machine.changeAt[joint] : std::nullopt; }

} // namespace gyre
