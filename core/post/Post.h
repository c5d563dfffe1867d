// NC programs and cutter-location data: writing, reading back, comparing.
//
// Job and text both become a Program: the acts of the control with the state each is done in. What is compared is everything that the
// control would do, not only where it goes.
#pragma once
#include "operation/Operation.h"
#include "post/Act.h"
#include <span>
#include <string_view>

namespace gyre {

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
    ProgramWords words;
    std::vector<PostOperation> operations;
    std::vector<std::string> warnings; ///< stand at the program's head: what it was written despite of
};

/// What a dialect says positions in.
enum class Positions { Tip, Joints, TipAndAxis };
struct DialectKind {
    Dialect dialect;
    const char *word, *label, *ending; ///< in files and options, in sentences, of its files
    Positions positions;
    /// @param program gets the line of every act
    std::string (*write)(const PostInput& input, Program& program);
    bool (*begins)(std::string_view text); ///< is that a program of it? Null: taken where no other says so
    Result<Program> (*read)(const std::string& text, const Machine& machine, const ProgramWords& words);
};
[[nodiscard]] std::span<const DialectKind> dialects();
[[nodiscard]] const DialectKind& kindOf(Dialect dialect);
[[nodiscard]] Result<Dialect> dialectNamed(const std::string& name);

/// What the control is to do, from the job alone. Refused, with operation and reason, where it cannot be said in the dialect, or where a feed,
/// a speed or a toolpath is missing.
[[nodiscard]] Result<Program> intendedProgram(const PostInput& input, Dialect dialect);

/// A program as text, each act with its line.
struct WrittenProgram {
    std::string text;
    Program program;
};
[[nodiscard]] Result<WrittenProgram> composeProgram(const PostInput& input, Dialect dialect);
/// The text alone.
[[nodiscard]] Result<std::string> writeProgram(const PostInput& input, Dialect dialect);

/// Reads what writeProgram() writes, and tells the dialect by itself. What is not understood is an error with its line.
[[nodiscard]] Result<Program> readProgram(const std::string& text, const Machine& machine, const ProgramWords& words = {});

struct ReplayReport {
    std::size_t moves = 0; ///< acts compared
    double tip = 0.0;      ///< largest differences: mm
    double axis = 0.0;     ///< rad
    double linear = 0.0;   ///< mm, joints
    double rotary = 0.0;   ///< rad, joints
    double feed = 0.0;     ///< relative
    int worstLine = 0;
    std::vector<std::string> differences; ///< in words; empty when all agrees within the rounding
    [[nodiscard]] bool agrees() const { return differences.empty(); }
};

/// Compares a program that was read with what the job means, act by act and state by state.
[[nodiscard]] ReplayReport compareProgram(const Program& read, const PostInput& input);

} // namespace gyre
