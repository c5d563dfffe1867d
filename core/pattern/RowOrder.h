// Rows that holes and borders break, in an order that seldom leaves off.
#pragma once
#include "pattern/Pattern.h"
#include "pattern/PatternSpec.h"

namespace gyre {

void reverseRow(Row& row);

/// A row's turn: from one end, from the middle out, or from both ends in.
/// @param last  number of the last row
[[nodiscard]] int turnOf(int number, int last, RowStart start);
/// Of two rows beside each other the one with the higher level comes later: on that side of a row its neighbours stand while it is cut.
[[nodiscard]] bool higherStands(int number, int last, RowStart start);

/// Runs a row as the words ask for.
/// @param first, last  numbers of the first row that is cut, and of the last of the pattern
/// @param turned  is it to run against the way it is laid?
void runTheWay(Row& row, const PatternSpec& spec, int first, int last, bool turned);

/// Rows that lie beside each other follow each other, until there is none or one is met beside which others are still to be cut; then the nearest that has
/// nothing left before it. Run back and forth, each begins where the one before is nearest.
/// @param turns  of the rows, in which they would follow each other: by these goes what comes before what
/// @param reach  mm: as far apart as neighbours may be
void pieceByPiece(std::vector<Row>& rows, const std::vector<int>& turns, double reach, bool backAndForth);
/// The same for rows in their turns, which tell how far neighbours may be apart.
void inPieces(PatternResult& rows, const PatternSpec& spec, int last);

} // namespace gyre
