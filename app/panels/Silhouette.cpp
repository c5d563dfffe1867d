#include "panels/Silhouette.h"
#include "Theme.h"
#include <QPainter>
#include <QPainterPath>
#include <algorithm>

namespace gyre {

void drawPieces(QPainter& painter, const std::vector<Piece>& pieces) {
    const Theme& t = theme();
    for (const Piece& p : pieces) {
        QPainterPath shape;
        if (p.shape.round > 0.0 && p.shape.r0 == 0.0)
            shape.addEllipse(QPointF(0, p.shape.z0), p.shape.round, p.shape.round);
        else if (p.shape.round > 0.0)
            shape.addRoundedRect(QRectF(-p.shape.radius(), p.shape.low(), 2 * p.shape.radius(), 2 * p.shape.round), p.shape.round, p.shape.round);
        else
            shape.addPolygon(QPolygonF({QPointF(-p.shape.r0, p.shape.z0), QPointF(p.shape.r0, p.shape.z0), QPointF(p.shape.r1, p.shape.z1),
                                        QPointF(-p.shape.r1, p.shape.z1), QPointF(-p.shape.r0, p.shape.z0)}));
        const QColor& fill = p.zone == Zone::Cutter ? t.ochre : p.zone == Zone::Shank ? t.steel : t.steelDark;
        painter.setPen(QPen(fill, 0)); // a pixel wide at any scale: no seams between pieces
        painter.setBrush(fill);
        painter.drawPath(shape);
    }
}

void drawSilhouette(QPainter& painter, const Assembly& tool, const QRectF& box) {
    const double length = tool.gaugeLength();
    double widest = 1.0;
    const auto pieces = piecesOf(tool);
    for (const Piece& p : pieces) widest = std::max(widest, 2.0 * p.shape.radius());
    const double scale = std::min(box.height() / length, box.width() / widest);
    painter.save();
    painter.translate(box.center().x(), box.bottom());
    painter.scale(scale, -scale);
    drawPieces(painter, pieces);
    painter.restore();
}

} // namespace gyre
