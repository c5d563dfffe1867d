#include "post/LinePattern.h"
#include <algorithm>

namespace gyre {

LinePattern linePatternOf(const std::string& text) {
    static constexpr std::pair<std::string_view, bool> kFields[] = {{"{program}", false}, {"{operation}", false}, {"{tool}", true}, {"{next}", true}};
    LinePattern out;
    for (std::size_t i = 0; i < text.size(); ++i) {
        const auto field = std::find_if(std::begin(kFields), std::end(kFields), [&](const auto& f) { return text.compare(i, f.first.size(), f.first) == 0; });
        if (field == std::end(kFields)) {
            out.texts.back() += text[i];
            continue;
        }
        out.texts.emplace_back();
        out.numbers.push_back(field->second);
        i += field->first.size() - 1;
    }
    return out;
}

namespace {

bool matches(const LinePattern& pattern, std::string_view text) {
    for (std::size_t i = 0; i < pattern.texts.size(); ++i) {
        const std::string& piece = pattern.texts[i];
        if (i > 0 && pattern.numbers[i - 1]) {
            const auto digits = std::min(text.find_first_not_of("0123456789"), text.size());
            if (digits == 0) return false;
            text.remove_prefix(digits);
        } else if (i > 0) {
            const auto at = i + 1 == pattern.texts.size() && text.size() >= piece.size() ? text.size() - piece.size() : text.find(piece);
            if (at == std::string_view::npos) return false;
            text.remove_prefix(at);
        }
        if (text.substr(0, piece.size()) != piece) return false;
        text.remove_prefix(piece.size());
    }
    return text.empty();
}

} // namespace

bool matchesAny(const std::vector<LinePattern>& patterns, std::string_view text) {
    while (!text.empty() && (text.back() == ' ' || text.back() == '\r')) text.remove_suffix(1);
    return std::any_of(patterns.begin(), patterns.end(), [&](const auto& p) { return matches(p, text); });
}

} // namespace gyre
