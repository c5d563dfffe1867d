#include "path/Pass.h"
#include <fmt/format.h>

namespace gyre {

const char* passWord(const PassOrigin& origin) { return origin.hole >= 0 ? "hole" : origin.row >= 0 ? "row" : "pass"; }

std::string passName(const PassOrigin& origin, int number) {
    std::string text = fmt::format("{} {}", passWord(origin), 1 + (origin.hole >= 0 ? origin.hole : origin.row >= 0 ? origin.row : number));
    if (origin.level >= 0) text += fmt::format(" at level {}", origin.level + 1);
    if (origin.layer >= 0) text += fmt::format(", layer {}", origin.layer + 1);
    if (origin.copy > 0) text += fmt::format(", copy {}", origin.copy + 1);
    return text;
}

std::string passTitle(const PassOrigin& origin, int number) {
    std::string text = passName(origin, number);
    text[0] = static_cast<char>(text[0] - 'a' + 'A');
    return text;
}

} // namespace gyre
