#include "panels/Silhouette.h"
#include "Theme.h"
#include <QPainter>
#include <QPainterPath>

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

} // namespace gyre
