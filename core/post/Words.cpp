#include "post/Words.h"
#include <charconv>
#include <fmt/format.h>

namespace gyre {

std::string replaced(std::string text, std::string_view what, const std::string& by) {
    for (auto at = text.find(what); at != std::string::npos; at = text.find(what, at + by.size())) text.replace(at, what.size(), by);
    return text;
}

std::string fixedText(double v, int digits) {
    std::string t = fmt::format("{:.{}f}", v, digits);
    if (t.find_first_not_of("-0.") == std::string::npos) t = fmt::format("{:.{}f}", 0.0, digits);
    return t;
}

std::string feedText(double feed, bool tap) {
    const int significant = tap ? 9 : 4, before = feed > 0.0 ? static_cast<int>(std::floor(std::log10(feed))) + 1 : 0;
    std::string t = fixedText(feed, std::clamp(significant - before, tap ? 4 : before >= 3 ? 1 : 3, 12));
    while (t.back() == '0') t.pop_back();
    if (t.back() == '.') t.pop_back();
    return t;
}

double feedSaid(double feed, bool tap) {
    const std::string t = feedText(feed, tap);
    double v = 0.0;
    std::from_chars(t.data(), t.data() + t.size(), v);
    return v;
}

int coolantCode(const ProgramWords& w, Coolant c) { return c == Coolant::None ? w.coolantOff : c == Coolant::Flood ? w.flood : c == Coolant::Mist ? w.mist : w.through; }

const Spelling& spellingOf(const PostInput& input, Dialect dialect) { return input.spelling ? *input.spelling : *plainSpelling(dialect); }

std::string filled(std::string text, const PostInput& input, const Speller& speller, std::size_t operation) {
    const auto put = [&](const char* what, const std::string& by) { text = replaced(std::move(text), what, by); };
    put("{program}", speller.plain(input.jobName));
    if (operation >= input.operations.size()) return text;
    const PostOperation& op = input.operations[operation];
    put("{operation}", speller.plain(op.name));
    put("{tool}", std::to_string(op.toolNumber));
    put("{next}", std::to_string(input.operations[(operation + 1) % input.operations.size()].toolNumber));
    return text;
}

Phrase cyclePhrase(int code) {
    for (std::size_t i = 0; i < kPhrases; ++i)
        if (const auto p = static_cast<Phrase>(i); phraseKind(p).code == 10 * code && code > 60) return p;
    return Phrase::Drill;
}

} // namespace gyre
