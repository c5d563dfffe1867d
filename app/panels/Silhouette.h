// The outline of a tool, drawn to scale.
#pragma once
#include "tool/Assembly.h"

class QPainter;
class QRectF;

namespace gyre {

/// Draws in tool coordinates: the tip at the origin, y up along the axis, mm. The painter is set up for that by the caller.
void drawPieces(QPainter& painter, const std::vector<Piece>& pieces);

/// The whole tool, upright with its tip below, as large as fits.
void drawSilhouette(QPainter& painter, const Assembly& tool, const QRectF& box);

} // namespace gyre
