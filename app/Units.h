// Numbers in what the core says, in the job's unit.
#pragma once
#include <QString>

namespace gyre {

/// "widest gap 0.400 mm" as it is, or as "widest gap 0.0157 in": every length, area, feed and diameter whose unit stands beside it.
[[nodiscard]] QString inUnits(const QString& text, bool inches);
/// "2:05", "1:02:05": rounded to seconds, the same wherever a time is told.
[[nodiscard]] QString clockWords(double seconds);

} // namespace gyre
