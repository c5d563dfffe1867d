// Short jobs on any machine, made without a part: what programs are written from in tests.
#pragma once
#include "Support.h"
#include "motion/PointsSpec.h"

namespace gyre::test {

/// A tool of gauge length 100: 40 out of a holder of 60.
Assembly plainTool(const std::string& name, CutterShape shape, double diameter, double speed, Coolant coolant = Coolant::None);

/// One move of a path that is written down by hand.
struct Step {
    Motion motion;
    Vec3 tip;
    double feed = 0.0; ///< mm/min; 0: a rapid
};
/// An operation whose axis stands still.
PostOperation steadyOperation(const Machine& machine, const std::string& name, int toolNumber, const Assembly& tool, const Vec3& axis, const std::vector<Step>& steps);
/// The same, with the control told what to do at points.
PostOperation atPoints(const PostOperation& operation, const PointsSpec& points);
/// On a demo machine without ramps: a slot from above; then, with another tool, a cut with the axis leaning.
PostInput slotAndLean(const std::string& machineFile, const Vec3& lean, const ProgramWords& words = {});
/// Holes from `mouths` straight down −Z, 10 deep.
PostOperation holeOperation(const Machine& machine, const std::string& name, int toolNumber, const Assembly& tool, const std::vector<Vec3>& mouths,
                            const DrillSpec& spec);

/// Two rows on a table that can follow the first lean in one solution only and the second in the other.
struct TurningOver {
    Machine machine;
    Toolpath path;
    std::vector<char> away;   ///< by location: at the skin
    std::uint32_t second = 0; ///< where the second row's way begins
};
TurningOver turningOver();

/// Without the ramps of acceleration a time is a length by a speed.
Machine withoutRamps(Machine machine);

/// The program is that text to the letter, and the text is read as what the job means.
void mustBe(const PostInput& in, Dialect dialect, const std::string& golden);

} // namespace gyre::test
