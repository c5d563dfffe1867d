// NC programs and cutter-location data: writing, reading back, comparing.
//
// Job and text both become a Program: the acts of the control with the state each is done in. What is compared is everything that the
// control would do, not only where it goes.
#pragma once
#include "post/Spelling.h"
#include <filesystem>
#include <map>
#include <span>
#include <string_view>

namespace gyre {

struct OperationResult;

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
    std::vector<std::string> warnings;        ///< stand at the program's head: what it was written despite of
    std::shared_ptr<const Spelling> spelling; ///< of a dialect file; null: the plain one
};
/// The same, as a dialect file has it: its words but for units and offset, its feed words and clamps.
[[nodiscard]] PostInput inDialect(PostInput input, std::shared_ptr<const Spelling> spelling);

/// The programs that the route is divided into, as its words ask: each with the operations of its own, by their places in the whole. A tool that comes again after
/// another one begins another program: what is cut between may be what it needs.
struct ProgramPart {
    PostInput input;
    std::string name; ///< "Ø10 flat", or that of the operation; empty where there is one program
    std::size_t first = 0;
};
[[nodiscard]] std::vector<ProgramPart> partsOf(const PostInput& input);
/// The one whose program a text is, or is most like.
[[nodiscard]] ProgramPart partLike(const PostInput& input, const std::string& text);
/// The file of one of so many parts: "frame.nc" becomes "frame-2.nc".
[[nodiscard]] std::filesystem::path partFile(const std::filesystem::path& file, std::size_t part, std::size_t parts);

/// What a dialect says positions in.
enum class Positions { Tip, Joints, TipAndAxis };
struct ScriptLines;
struct WrittenProgram;
struct DialectKind {
    Dialect dialect;
    const char *word, *label, *ending; ///< in files and options, in sentences, of its files
    Positions positions;
    /// Every act gets its line.
    Result<WrittenProgram> (*write)(const PostInput& input, Program program);
    bool (*begins)(std::string_view text); ///< is that a program of it? Null: taken where no other says so
    Result<Program> (*read)(const std::string& text, const PostInput& as, const ScriptLines& scripted);
};
[[nodiscard]] std::span<const DialectKind> dialects();
[[nodiscard]] const DialectKind& kindOf(Dialect dialect);
[[nodiscard]] Result<Dialect> dialectNamed(const std::string& name);
/// What a job or an option names: one of the dialects, or a dialect file.
struct DialectChoice {
    // NOLINTNEXTLINE(google-explicit-constructor): a kind alone is a choice
    DialectChoice(Dialect of = Dialect::TipControl, std::shared_ptr<const Spelling> as = nullptr) : kind(of), spelling(std::move(as)) {}
    Dialect kind;
    std::shared_ptr<const Spelling> spelling; ///< null: the plain one
    [[nodiscard]] const char* ending() const { return spelling ? spelling->ending.c_str() : kindOf(kind).ending; }
};
/// @param folder where files are looked for
[[nodiscard]] Result<DialectChoice> chooseDialect(const std::string& name, const std::filesystem::path& folder);

/// What the control is to do, from the job alone. Refused, with operation and reason, where it cannot be said in the dialect, or where a feed,
/// a speed or a toolpath is missing.
[[nodiscard]] Result<Program> intendedProgram(const PostInput& input, Dialect dialect);

/// A program as text, each act with its line.
struct WrittenProgram {
    std::string text;
    Program program;
    std::map<std::string, std::string> rewritten; ///< blocks that a script has changed: what it made, and of what
};
[[nodiscard]] Result<WrittenProgram> composeProgram(const PostInput& input, Dialect dialect);
/// The text alone.
[[nodiscard]] Result<std::string> writeProgram(const PostInput& input, Dialect dialect);

/// Reads a program of this job, with the lines that its dialect's script adds or changes known.
[[nodiscard]] Result<Program> readBack(const std::string& text, const PostInput& input);
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
    std::size_t own = 0;                  ///< lines of the shop's own: there, but what they do is known to the shop alone
    std::size_t unread = 0;               ///< lines that a script rewrote beyond reading
    std::size_t arcs = 0;                 ///< acts that are arcs
    double strays = 0.0;                  ///< mm: what is written as arcs is that far from the straight moves that were proven, at most
    [[nodiscard]] bool agrees() const { return differences.empty(); }
};

/// Compares a program that was read with what the job means, act by act and state by state.
[[nodiscard]] ReplayReport compareProgram(const Program& read, const PostInput& input);

} // namespace gyre
