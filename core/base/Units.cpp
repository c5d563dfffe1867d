#include "base/Units.h"
#include "base/Text.h"
#include <charconv>
#include <cmath>
#include <fmt/format.h>

namespace gyre {
namespace {

struct NumberAndUnit {
    double number;
    std::string unit;
};

Result<double> readNumber(std::string_view& text, std::string_view whole) {
    text = trimmed(text);
    if (!text.empty() && text.front() == '+') text.remove_prefix(1);
    double value = 0.0;
    const auto [end, ec] = std::from_chars(text.data(), text.data() + text.size(), value, std::chars_format::general);
    if (ec != std::errc{} || !std::isfinite(value)) return fail(fmt::format("'{}' is not a number", whole), {}, "Type a number, with a unit if it is not the shown one");
    text.remove_prefix(static_cast<std::size_t>(end - text.data()));
    return value;
}

Result<NumberAndUnit> split(std::string_view whole) {
    if (whole.size() > 64) return fail("that is too long for a number");
    std::string copy(trimmed(whole));
    // A decimal comma, as many keyboards give it.
    if (copy.find('.') == std::string::npos)
        if (const auto comma = copy.find(','); comma != std::string::npos) copy[comma] = '.';
    std::string_view rest = copy;
    auto number = readNumber(rest, whole);
    if (!number) return tl::unexpected(number.error());
    rest = trimmed(rest);
    if (!rest.empty() && rest.front() == '/') {
        rest.remove_prefix(1);
        auto below = readNumber(rest, whole);
        if (!below) return tl::unexpected(below.error());
        if (*below == 0.0) return fail("a fraction needs a number other than 0 below the line");
        *number /= *below;
    }
    return NumberAndUnit{*number, std::string(trimmed(rest))};
}

} // namespace

Result<double> parseLength(std::string_view text, LengthUnit shown) {
    auto parts = split(text);
    if (!parts) return tl::unexpected(parts.error());
    const auto& u = parts->unit;
    if (u.empty()) return shown == LengthUnit::Inch ? parts->number * kMmPerInch : parts->number;
    if (u == "mm") return parts->number;
    if (u == "cm") return parts->number * 10.0;
    if (u == "m") return parts->number * 1000.0;
    if (u == "um" || u == "µm") return parts->number * 0.001;
    if (u == "in" || u == "inch" || u == "\"") return parts->number * kMmPerInch;
    return fail(fmt::format("'{}' is not a unit of length", u), {}, "Use mm, cm, m or in");
}

Result<double> parseAngleDegrees(std::string_view text) {
    auto parts = split(text);
    if (!parts) return tl::unexpected(parts.error());
    const auto& u = parts->unit;
    if (u.empty() || u == "°" || u == "deg") return parts->number;
    if (u == "rad") return degrees(parts->number);
    return fail(fmt::format("'{}' is not a unit of angle", u), {}, "Use ° or rad");
}

std::string formatLength(double mm, LengthUnit shown, int decimals) {
    const bool inch = shown == LengthUnit::Inch;
    std::string text = fmt::format("{:.{}f}", inch ? mm / kMmPerInch : mm, inch ? decimals + 1 : decimals);
    if (text.find_first_not_of("-0.") == std::string::npos && text.front() == '-') text.erase(0, 1);
    return text;
}

const char* unitSuffix(LengthUnit unit) { return unit == LengthUnit::Inch ? "in" : "mm"; }

std::string clockText(double seconds) {
    const auto s = std::lround(seconds);
    return s >= 3600 ? fmt::format("{}:{:02}:{:02}", s / 3600, s / 60 % 60, s % 60) : fmt::format("{}:{:02}", s / 60, s % 60);
}

} // namespace gyre
