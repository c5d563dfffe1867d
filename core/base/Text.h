// Texts from files that other people wrote.
#pragma once
#include <optional>
#include <string>
#include <string_view>

namespace gyre {

/// As it is when it is UTF-8; else every byte is taken for a letter of Windows-1252, in which older drawings are written. Bytes that mean
/// nothing there become U+FFFD.
[[nodiscard]] std::string utf8Of(std::string_view bytes);
[[nodiscard]] bool isUtf8(std::string_view text);
/// At most `most` bytes of UTF-8, never a part of a letter.
[[nodiscard]] std::string cutText(std::string text, std::size_t most);

/// Can it stand in one block of a program?
[[nodiscard]] bool isOneBlock(std::string_view text);

/// Without spaces, tabs and returns at its ends.
[[nodiscard]] std::string_view trimmed(std::string_view text);

/// A number that is all of the text, with a decimal point whatever the locale.
[[nodiscard]] std::optional<double> numberIn(std::string_view text);

} // namespace gyre
