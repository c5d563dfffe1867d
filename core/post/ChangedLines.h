// Two texts of a program, line by line. Numbers of blocks and white space do not count.
#pragma once
#include <cstddef>
#include <optional>
#include <string>
#include <vector>

namespace gyre {

/// A line that stands otherwise than in the text before.
struct LineChange {
    int line = 0;        ///< of the new text, from 1; where lines were only taken out: the one that follows them
    std::string was, is; ///< one of both is empty where a line was put in or taken out
};
/// Nothing where they differ in more lines than that.
[[nodiscard]] std::optional<std::vector<LineChange>> changedLines(const std::string& was, const std::string& is, std::size_t most = 1000);

/// Which line of the old text each line of the new one is, from 0; −1: none.
[[nodiscard]] std::optional<std::vector<int>> sameLines(const std::string& was, const std::string& is, std::size_t most = 1000);

} // namespace gyre
