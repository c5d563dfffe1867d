#include "base/Text.h"
#include <array>
#include <charconv>
#include <cstdint>

namespace gyre {
namespace {

/// Bytes of the letter that begins at `i`; 0 when none does.
std::size_t letterAt(std::string_view t, std::size_t i) {
    const auto byte = [&](std::size_t k) { return k < t.size() ? static_cast<unsigned char>(t[k]) : 0u; };
    const unsigned b = byte(i);
    if (b < 0x80) return 1;
    const std::size_t n = b >= 0xC2 && b <= 0xDF ? 2 : (b & 0xF0) == 0xE0 ? 3 : b >= 0xF0 && b <= 0xF4 ? 4 : 0;
    for (std::size_t k = 1; k < n; ++k)
        if ((byte(i + k) & 0xC0) != 0x80) return 0;
    // Neither longer than needed, nor half of a pair, nor beyond the last letter there is.
    if ((b == 0xE0 && byte(i + 1) < 0xA0) || (b == 0xED && byte(i + 1) > 0x9F) || (b == 0xF0 && byte(i + 1) < 0x90) || (b == 0xF4 && byte(i + 1) > 0x8F)) return 0;
    return n;
}

void append(std::string& out, std::uint32_t letter) {
    if (letter < 0x80) {
        out += static_cast<char>(letter);
    } else if (letter < 0x800) {
        out += static_cast<char>(0xC0 | (letter >> 6));
        out += static_cast<char>(0x80 | (letter & 0x3F));
    } else {
        out += static_cast<char>(0xE0 | (letter >> 12));
        out += static_cast<char>(0x80 | ((letter >> 6) & 0x3F));
        out += static_cast<char>(0x80 | (letter & 0x3F));
    }
}

constexpr std::array<std::uint32_t, 32> kWindows1252{0x20AC, 0xFFFD, 0x201A, 0x0192, 0x201E, 0x2026, 0x2020, 0x2021, 0x02C6, 0x2030, 0x0160,
                                                     0x2039, 0x0152, 0xFFFD, 0x017D, 0xFFFD, 0xFFFD, 0x2018, 0x2019, 0x201C, 0x201D, 0x2022,
                                                     0x2013, 0x2014, 0x02DC, 0x2122, 0x0161, 0x203A, 0x0153, 0xFFFD, 0x017E, 0x0178};

} // namespace

bool isUtf8(std::string_view text) {
    for (std::size_t i = 0; i < text.size();) {
        const std::size_t n = letterAt(text, i);
        if (n == 0) return false;
        i += n;
    }
    return true;
}

std::string utf8Of(std::string_view bytes) {
    if (isUtf8(bytes)) return std::string(bytes);
    std::string out;
    for (const char c : bytes) {
        const auto b = static_cast<unsigned char>(c);
        append(out, b >= 0x80 && b < 0xA0 ? kWindows1252[b - 0x80] : b);
    }
    return out;
}

std::optional<double> numberIn(std::string_view text) {
    if (!text.empty() && text.front() == '+') text.remove_prefix(1);
    double v = 0.0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), v);
    if (error != std::errc{} || end != text.data() + text.size()) return std::nullopt;
    return v;
}

std::string cutText(std::string text, std::size_t most) {
    if (text.size() <= most) return text;
    while (most > 0 && (static_cast<unsigned char>(text[most]) & 0xC0) == 0x80) --most;
    text.resize(most);
    return text;
}

bool isOneBlock(std::string_view text) { return text.find_first_of("\n\r%") == std::string_view::npos; }

std::string_view trimmed(std::string_view s) {
    while (!s.empty() && (s.front() == ' ' || s.front() == '\t')) s.remove_prefix(1);
    while (!s.empty() && (s.back() == ' ' || s.back() == '\t' || s.back() == '\r')) s.remove_suffix(1);
    return s;
}

} // namespace gyre
