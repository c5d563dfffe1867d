// Can the machine stand its tool along a direction, and with which angles?
#pragma once
#include "machine/Kinematics.h"
#include <string>

namespace gyre {

struct ReachSolution {
    std::vector<double> angles; ///< of the rotary joints in the machine's order, rad; turned into the travel where a whole turn does it
    bool withinTravel = false;
};

struct ReachAnswer {
    std::vector<ReachSolution> solutions; ///< none, one or two; those within the travel first
    double missing = 0.0;                 ///< rad by which the nearest direction it can take is off
    [[nodiscard]] bool reached() const { return !solutions.empty() && solutions.front().withinTravel; }
};

/// The rotary axis nearest to the work, joints at 0, in part datum coordinates.
[[nodiscard]] std::optional<AxisLine> rotaryLine(const Machine& machine, const Frame& partFrame);

/// @param axis from tip to spindle, part datum coordinates
[[nodiscard]] ReachAnswer reachOf(const Kinematics& kinematics, const Vec3& axis);
/// "A -30.00° C 45.00°, or A 30.00° C -135.00°"
[[nodiscard]] std::string reachWords(const Machine& machine, const ReachAnswer& answer);

} // namespace gyre
