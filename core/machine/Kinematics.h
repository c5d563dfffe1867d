// Forward and inverse solution of any machine with three linear and up to two rotary joints.
#pragma once
#include "machine/Machine.h"
#include <optional>

namespace gyre {

/// Tip position and tool axis in part datum coordinates.
struct ToolPose {
    Vec3 tip;
    Vec3 axis;
};

/// A machine with a part placed on its table and a tool of some gauge length in its spindle.
class Kinematics {
public:
    /// @param partFrame part datum in table-seat coordinates
    /// @param gaugeLength tip to spindle nose, mm
    Kinematics(const Machine& machine, const Frame& partFrame, double gaugeLength);

    [[nodiscard]] const Machine& machine() const { return m_machine; }
    [[nodiscard]] std::size_t joints() const { return m_machine.joints.size(); }
    [[nodiscard]] const std::vector<int>& rotaries() const { return m_rotaries; }

    [[nodiscard]] ToolPose forward(const JointValues& q) const;

    /// One way to set the rotary joints for an axis direction.
    struct RotarySolution {
        double first = 0.0, second = 0.0; ///< rad, in (−π, π]; in the order of rotaries()
        bool firstFree = false;           ///< pole: the first (nearest the work) may take any value
        bool secondFree = false;
    };
    struct Rotaries {
        std::vector<RotarySolution> solutions; ///< 0, 1 or 2
        double missing = 0.0;                  ///< when there is none: the least angle by which the axis is out of reach, rad
    };
    /// Solves `R_work⁻¹ R_tool a₀ = a` as a two-rotation subproblem. Limits are not looked at here.
    /// @param tolerance axes within this angle of a pole (or of reach) are taken to be on it, rad
    [[nodiscard]] Rotaries rotariesFor(const Vec3& axis, double tolerance = 1e-9) const;

    /// Linear joints that bring the tip to `tip` with the given rotary values (order of rotaries()).
    [[nodiscard]] JointValues jointsFor(const Vec3& tip, double first, double second) const;

    /// Part datum frame in machine coordinates.
    [[nodiscard]] Frame partInMachine(const JointValues& q) const;
    /// Tool frame (tip, z to the spindle) in machine coordinates.
    [[nodiscard]] Frame toolInMachine(const JointValues& q) const;

private:
    [[nodiscard]] Frame relative(const JointValues& q) const; ///< tool frame in part coordinates
    Machine m_machine;
    std::vector<int> m_chain, m_rotaries;
    Frame m_work; ///< part datum in machine coordinates at joints 0
    Frame m_tool; ///< tip frame at joints 0
};

/// The tool's direction in which the rotary nearest to the work turns without moving it; nothing with fewer than two rotaries.
[[nodiscard]] std::optional<Vec3> poleOf(const Kinematics& kinematics);

} // namespace gyre
