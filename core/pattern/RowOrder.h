// Rows that holes and borders break, in an order that seldom leaves off.
#pragma once
#include "pattern/Pattern.h"

namespace gyre {

void reverseRow(Row& row);

/// Rows that lie beside each other follow each other, until there is none or one is met beside which others are still to be cut; then the nearest that has
/// nothing left before it. Run back and forth, each begins where the one before is nearest.
/// @param turns  of the rows, in which they would follow each other: by these goes what comes before what
/// @param reach  mm: as far apart as neighbours may be
void pieceByPiece(std::vector<Row>& rows, const std::vector<int>& turns, double reach, bool backAndForth);

} // namespace gyre
