// Open rows that go on beyond their ends, or end before them.
#pragma once
#include "pattern/Pattern.h"
#include "pattern/Pieces.h"

namespace gyre {

/// What is left of an open line when so much is taken off each of its ends, measured along it; no samples where nothing is. A closed one stays.
[[nodiscard]] RawLine shortened(const RawLine& line, double mm, const BetweenSamples& between);

/// Open rows go on straight from both ends, the way they end, square to the normal there. Where another piece of the same row begins ahead, each of the two
/// goes half of the way at most.
/// @param longestStep  mm from one of the new points to the next
void goBeyond(std::vector<Row>& rows, double mm, double longestStep);

} // namespace gyre
