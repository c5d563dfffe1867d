// What a tool does in a hole.
#pragma once

namespace gyre {

enum class Cycle { Spot, Drill, Peck, ChipBreak, Bore, Ream, Tap, Chamfer };
inline constexpr int kCycles = 8;
[[nodiscard]] const char* cycleName(Cycle c); ///< as in files and on screen: "spot", "chip-break" …

/// How tools come back between the pecks of a cycle: this far over what is cut already.
inline constexpr double kPeckGap = 0.25; // mm

/// Does the tool wait at the bottom, when a dwell is given? Not where chips are broken by coming back, nor where a tap must turn on.
[[nodiscard]] constexpr bool waitsAtBottom(Cycle c) { return c != Cycle::Peck && c != Cycle::ChipBreak && c != Cycle::Tap; }

} // namespace gyre
