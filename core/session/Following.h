// A program followed as the control would run it.
#pragma once
#include "motion/Motion.h"
#include "session/EditedProgram.h"
#include <map>

namespace gyre {

/// From one tool change to the next.
struct Stretch {
    int line = 0, tool = 0;
    const PostOperation* written = nullptr; ///< what it was written for
    Toolpath path;
    JointMotion motion;
    std::vector<int> lines; ///< by location
};

/// Every move of the text, from tool change to tool change; those without a move are left out. What cannot be followed, and what the control was not told,
/// is told in `out`.
/// @param writtenFor  by line of the text: the operation of the job whose line it is
[[nodiscard]] std::vector<Stretch> followed(const Program& program, const PostInput& input, const Workplace& place, const std::map<int, std::uint32_t>& writtenFor,
                                            EditedProgram& out);

} // namespace gyre
