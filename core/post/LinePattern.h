// Lines of the shop's own as they come back: with any number, or any name, where a value was put in.
#pragma once
#include <string>
#include <string_view>
#include <vector>

namespace gyre {

/// A line with values in it: texts, and whether a number follows each but the last one, or a name.
struct LinePattern {
    std::vector<std::string> texts{1};
    std::vector<char> numbers;
};
[[nodiscard]] LinePattern linePatternOf(const std::string& text);
[[nodiscard]] bool matchesAny(const std::vector<LinePattern>& patterns, std::string_view text);

} // namespace gyre
