// A program written, read again and compared with what it was written from.
#pragma once
#include "post/Post.h"

namespace gyre::test {

/// @param text becomes the program
/// @return what went wrong, empty when it says the same
inline std::string readAgain(const PostInput& input, Dialect dialect, std::string& text) {
    const auto written = writeProgram(input, dialect);
    if (!written) return written.error().text();
    text = *written;
    const auto read = readBack(text, input);
    if (!read) return read.error().text();
    const ReplayReport report = compareProgram(*read, input);
    return report.agrees() ? std::string() : report.differences[0];
}

} // namespace gyre::test
