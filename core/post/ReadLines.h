// What the readers of programs share: lines, numbers, errors with their line.
#pragma once
#include "post/Words.h"

namespace gyre {

[[nodiscard]] tl::unexpected<Error> badLine(int line, const std::string& what);
/// Letters, digits and signs of a text that may hold anything.
[[nodiscard]] std::string printable(std::string_view text);
/// A number below 1e9 in size.
[[nodiscard]] Result<double> numberOf(std::string_view text, int line);

template <class Reader> Result<Program> readLines(const std::string& text, Reader reader) {
    constexpr int kMostLines = 5'000'000;
    constexpr std::size_t kLongestLine = 2000;
    int number = 0;
    for (std::size_t from = 0; from < text.size();) {
        auto end = text.find('\n', from);
        if (end == std::string::npos) end = text.size();
        if (++number > kMostLines) return fail("more than 5 000 000 lines are not read");
        if (end - from > kLongestLine) return badLine(number, "the line is longer than 2000 characters");
        if (auto ok = reader.line(std::string_view(text).substr(from, end - from), number); !ok) return tl::unexpected(ok.error());
        from = end + 1;
    }
    return reader.take();
}

} // namespace gyre
