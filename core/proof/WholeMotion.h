// The motion of an operation with the ways that lead to it and away from it.
#pragma once
#include "motion/Motion.h"
#include "proof/Proof.h"

namespace gyre {

/// From how the machine stood before: the rotaries turn at the top of Z, the slides go across, Z comes down; at the end up again, and to where the tool
/// is changed. Values and locations alone are kept for those ways: those before belong to the first location, those after to the last.
struct WholeMotion {
    JointMotion motion;
    std::size_t before = 0, after = 0; ///< steps that are not the operation's own

    WholeMotion(const Machine& machine, const Toolpath& path, const JointMotion& own, const Standing& start);
    /// Is the way that leads to this step the operation's own?
    [[nodiscard]] bool own(std::size_t step) const { return step > before && step + after < motion.size(); }
    /// For a sentence: on which of the ways, or in which pass.
    [[nodiscard]] std::string when(std::size_t step, const OperationResult& operation) const;
};

} // namespace gyre
