// How long joint motion takes, and what makes it take so long.
#pragma once
#include "motion/Motion.h"

namespace gyre {

/// Fills times and what limits them. Every step has a least time, from its feed and the joints' speeds; a rate of at most 1 scales all joints alike. It changes no faster
/// than the accelerations allow, and where joints have a jerk, no more abruptly than that allows; and within the corner time no joint changes its speed by more than its
/// acceleration can in that time: that rounds corners, and on bends it comes to v²/r, however short the steps are.
/// With exact stops everything stands still at every location.
void setTimes(const Toolpath& path, const Kinematics& kinematics, const MotionSpec& spec, JointMotion& motion);

} // namespace gyre
