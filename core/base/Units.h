// Lengths, angles and rates as people type and read them. Inside the core all is millimetre, radian, second.
#pragma once
#include "base/Result.h"
#include <numbers>
#include <string>
#include <string_view>

namespace gyre {

inline constexpr double kPi = std::numbers::pi;
inline constexpr double kMmPerInch = 25.4;
[[nodiscard]] constexpr double radians(double degrees) { return degrees * kPi / 180.0; }
[[nodiscard]] constexpr double degrees(double radians) { return radians * 180.0 / kPi; }

enum class LengthUnit { Millimetre, Inch };

/// Reads "12", "0.02in", "3 mm", "1/4 in", "-2,5": a number or fraction with an optional unit.
/// @param shown the unit of a bare number
/// @return millimetres
[[nodiscard]] Result<double> parseLength(std::string_view text, LengthUnit shown);

/// Reads "12", "12°", "12 deg", "0.2 rad". @return degrees
[[nodiscard]] Result<double> parseAngleDegrees(std::string_view text);

/// Shortest sensible text: millimetres with up to `decimals` places, inches with one more.
[[nodiscard]] std::string formatLength(double mm, LengthUnit shown, int decimals = 2);
[[nodiscard]] const char* unitSuffix(LengthUnit unit);

/// "4:05", "1:04:05"
[[nodiscard]] std::string clockText(double seconds);

} // namespace gyre
