// The outline of a tool, drawn to scale.
#pragma once
#include "tool/Assembly.h"

class QPainter;

namespace gyre {

/// Draws in tool coordinates: the tip at the origin, y up along the axis, mm. The painter is set up for that by the caller.
void drawPieces(QPainter& painter, const std::vector<Piece>& pieces);

} // namespace gyre
