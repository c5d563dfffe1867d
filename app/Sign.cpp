#include "Sign.h"
#include "Theme.h"
#include <QPainter>

namespace gyre {

static void drawSign(QPainter& p) { // 28 wide
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(QPen(theme().accent, 2.4, Qt::SolidLine, Qt::RoundCap));
    p.drawArc(QRectF(4, 4, 20, 20), 30 * 16, 290 * 16);
    p.setPen(QPen(theme().ochre, 2.4, Qt::SolidLine, Qt::RoundCap));
    p.drawArc(QRectF(9, 9, 10, 10), 120 * 16, 250 * 16);
    p.setBrush(theme().ink);
    p.setPen(Qt::NoPen);
    p.drawEllipse(QPointF(14, 14), 1.8, 1.8);
}

void Sign::paintEvent(QPaintEvent* /*e*/) {
    QPainter p(this);
    drawSign(p);
}

QIcon Sign::asIcon() {
    QIcon icon;
    for (const int size : {16, 32, 48, 128}) {
        QPixmap picture(size, size);
        picture.fill(Qt::transparent);
        QPainter p(&picture);
        p.scale(size / 28.0, size / 28.0);
        drawSign(p);
        p.end();
        icon.addPixmap(picture);
    }
    return icon;
}

} // namespace gyre
