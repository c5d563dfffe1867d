// NC programs and cutter-location data: writing, reading back, comparing.
#pragma once
#include "operation/Operation.h"

namespace gyre {

enum class Dialect {
    TipControl, ///< RS-274 with tool-centre-point control: tip from the program's zero along the part's axes, rotary words, feed per minute
    Joints,     ///< RS-274 without it: joint coordinates, inverse time
    CutterData  ///< ISO 4343 cutter-location text: tip and axis
};
[[nodiscard]] const char* dialectName(Dialect d); ///< "tip", "joints", "cldata"
[[nodiscard]] Result<Dialect> dialectNamed(const std::string& name);

struct PostOperation {
    std::string name;
    std::shared_ptr<const OperationResult> result;
    int toolNumber = 1;
};

struct PostInput {
    std::string jobName;
    std::shared_ptr<const Machine> machine;
    Frame partFrame = Frame::Identity();
    Vec3 zero = Vec3::Zero(); ///< the program's zero, in part coordinates
    std::vector<PostOperation> operations;
};

/// Decimal places of the words; everything is rounded once, here.
struct PostDigits {
    int length = 4, angle = 4, axis = 9;
};

[[nodiscard]] Result<std::string> writeProgram(const PostInput& input, Dialect dialect, const PostDigits& digits = {});

/// One move as the control would understand it.
struct ReadMove {
    int line = 0; ///< of the text, from 1
    bool rapid = false;
    bool machineCoordinates = false; ///< G53: safe moves around the operations
    Vec3 tip = Vec3::Zero();         ///< X Y Z of tip and cutter-location programs
    Vec3 axis = Vec3::UnitZ();       ///< cutter-location programs only
    std::vector<double> joints;      ///< all joints (joint programs) or the rotaries alone (tip programs); mm, rad
    double feed = 0.0;               ///< mm/min, or 1/min in inverse time
    bool inverseTime = false;
    bool ofCycle = false; ///< one stroke of a canned cycle
    int tool = 0;
    double dwell = 0.0; ///< s that the tool waits after it
};

struct ReadProgram {
    Dialect dialect = Dialect::TipControl;
    std::vector<ReadMove> moves;
};

/// Reads what writeProgram() writes, and tells the dialect by itself. What is not understood is an error with its line.
[[nodiscard]] Result<ReadProgram> readProgram(const std::string& text, const Machine& machine);

struct ReplayReport {
    std::size_t moves = 0;
    double tip = 0.0;    ///< largest differences: mm
    double axis = 0.0;   ///< rad
    double linear = 0.0; ///< mm, joints
    double rotary = 0.0; ///< rad, joints
    double feed = 0.0;   ///< relative
    int worstLine = 0;
    double allowedTip = 0.0, allowedRotary = 0.0, allowedAxis = 0.0;
    std::vector<std::string> differences; ///< in words; empty when all agrees within the rounding
    [[nodiscard]] bool agrees() const { return differences.empty(); }
};

/// Replays a program against the toolpaths it should come from.
[[nodiscard]] ReplayReport compareProgram(const ReadProgram& program, const PostInput& input, const PostDigits& digits = {});

} // namespace gyre
