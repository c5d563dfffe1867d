// What writer, reader and comparison must agree on about numbers and words.
#pragma once
#include "post/Post.h"

namespace gyre {

/// A feed with at least four significant digits (nine for taps, whose thread depends on it), never rounded to 0; no zeros behind the last digit that counts.
[[nodiscard]] std::string feedText(double feed, bool tap = false);
/// What the text says.
[[nodiscard]] double feedSaid(double feed, bool tap = false);
[[nodiscard]] inline double speedSaid(double speed) { return std::round(speed); }

/// A number with fixed decimal places and no minus zero.
[[nodiscard]] std::string fixedText(double v, int digits);

/// The code of this coolant, as the control knows it.
[[nodiscard]] int coolantCode(const ProgramWords& words, Coolant coolant);

/// What the entries of Dialects.cpp are made of.
[[nodiscard]] std::string writeRs274(const PostInput& input, Program& program);
[[nodiscard]] std::string writeCutterData(const PostInput& input, Program& program);
[[nodiscard]] Result<Program> readRs274(const std::string& text, const Machine& machine, const ProgramWords& words);
[[nodiscard]] Result<Program> readCutterData(const std::string& text, const Machine& machine, const ProgramWords& words);

} // namespace gyre
