#include "post/Words.h"
#include <charconv>
#include <fmt/format.h>

namespace gyre {

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

} // namespace gyre
