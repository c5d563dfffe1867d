// Toolpath + machine → joint motion: which solution, which turn, how fine, how long.
#pragma once
#include "base/Finding.h"
#include "base/Progress.h"
#include "machine/Kinematics.h"
#include "path/Toolpath.h"
#include <functional>
#include <string>

namespace gyre {

struct MotionSpec {
    double tipTolerance = 0.005;                  ///< mm that the tip may leave the straight way between locations
    double axisTolerance = 0.0017453292519943296; ///< rad (0.1°) that the axis may leave the great circle
    double poleTolerance = 1e-6;                  ///< rad; nearer to the pole the rotary beneath it counts as free
    double cornerTime = 0.01;                     ///< s over which a joint may spread a jump of its speed
    int locked = -1;                              ///< a rotary joint that stays at `lockedAt`, −1: none
    double lockedAt = 0.0;                        ///< rad
    bool stopsAtPoints = false;                   ///< every location is stopped at
    std::function<std::string(int)> passName;     ///< what findings call a pass by its number; empty: "row 3"
    [[nodiscard]] std::string nameOf(int pass) const { return passName ? passName(pass) : "row " + std::to_string(pass + 1); }
};

/// Joint motion in fine steps; between them every joint moves linearly.
struct JointMotion {
    std::size_t joints = 0;
    std::vector<double> values;          ///< joints × steps, mm and rad
    std::vector<std::uint32_t> location; ///< cutter location that the step leads to
    std::vector<float> fraction;         ///< how much of the way from the location before; 1 at the location itself
    std::vector<double> time;            ///< s from the start
    std::vector<double> asked;           ///< s that the way to the step takes at its feed and at most the joints' speeds: without ramps, what F words say
    std::vector<std::int8_t> limitedBy;  ///< by step: the joint that makes it take so long; −1: the feed that was asked for, or the rapids' speed
    std::vector<std::uint32_t> stepOf;   ///< for every location its step
    std::vector<std::uint32_t> swings;   ///< locations reached by way of the top of Z: up, the rotaries turn there, across, down
    std::vector<std::uint32_t> jumps;    ///< locations inside a cut or a low way that the rotaries do not reach from the one before
    double duration = 0.0;
    std::vector<Finding> findings;

    [[nodiscard]] std::size_t size() const { return location.size(); }
    [[nodiscard]] const double* at(std::size_t step) const { return values.data() + step * joints; }
    [[nodiscard]] JointValues jointsAt(std::size_t step) const { return {at(step), at(step) + joints}; }
    [[nodiscard]] double timeOf(std::size_t loc) const { return time[stepOf[loc]]; }
};

/// May programs count this joint's turns without end? It then takes the shorter way to every angle.
[[nodiscard]] bool endless(const Joint& joint);

/// Chooses solutions and turns for the whole path at once (shortest path over all of them), then refines between locations.
/// The rotaries change to another solution or turn back only between two locations that stand away from the part, and do it at the top of Z.
/// What the machine cannot do becomes findings (axis out of reach with the missing angle, travel, rewinds inside a cut);
/// unreachable locations are then held at the nearest rotary position so that the rest can still be seen.
/// @param away  by location: stands at the safe skin or outside of it. Empty: every rapid leads from and to such a place.
[[nodiscard]] Result<JointMotion> solveMotion(const Toolpath& path, const Kinematics& kinematics, const MotionSpec& spec, Progress& progress,
                                              const std::vector<char>& away = {});

} // namespace gyre
