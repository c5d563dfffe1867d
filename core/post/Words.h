// What writer, reader and comparison must agree on about numbers and words.
#pragma once
#include "post/Post.h"
#include "post/Speller.h"
#include <set>

namespace gyre {

/// A feed with at least four significant digits (nine for taps, whose thread depends on it), never rounded to 0; no zeros behind the last digit that counts.
[[nodiscard]] std::string feedText(double feed, bool tap = false);
/// What the text says.
[[nodiscard]] double feedSaid(double feed, bool tap = false);
[[nodiscard]] inline double speedSaid(double speed) { return std::round(speed); }

/// The text with every `what` in it replaced.
[[nodiscard]] std::string replaced(std::string text, std::string_view what, const std::string& by);

/// A number with fixed decimal places and no minus zero.
[[nodiscard]] std::string fixedText(double v, int digits);

/// The code of this coolant, as the control knows it.
[[nodiscard]] int coolantCode(const ProgramWords& words, Coolant coolant);

/// How a program of this kind is spelled for this job.
[[nodiscard]] const Spelling& spellingOf(const PostInput& input, Dialect dialect);
/// A line of the shop's own with its values: {program}, {operation}, {tool}, {next}.
[[nodiscard]] std::string filled(std::string text, const PostInput& input, const Speller& speller, std::size_t operation);
/// The phrase of a cycle's code.
[[nodiscard]] Phrase cyclePhrase(int code);

/// What a script has put into a program.
struct ScriptLines {
    std::set<std::string> own;                    ///< lines of its own
    std::map<std::string, std::string> rewritten; ///< blocks that it changed: what it made, and of what
};

/// What the entries of Dialects.cpp are made of.
[[nodiscard]] Result<WrittenProgram> writeRs274(const PostInput& input, Program program);
[[nodiscard]] Result<WrittenProgram> writeCutterData(const PostInput& input, Program program);
[[nodiscard]] Result<Program> readRs274(const std::string& text, const PostInput& as, const ScriptLines& scripted);
[[nodiscard]] Result<Program> readCutterData(const std::string& text, const PostInput& as, const ScriptLines& scripted);

} // namespace gyre
